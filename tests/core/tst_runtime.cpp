#include "sample_effects.h"

#include "core/bake/ply.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/runtime/player.h"

#include <oneapi/tbb/global_control.h>

#include <QElapsedTimer>
#include <QSemaphore>
#include <QTemporaryDir>
#include <QThread>
#include <QtTest>

#include <atomic>
#include <filesystem>
#include <mutex>
#include <thread>

using namespace ember;
using namespace ember::sample;

namespace {

Effect demo() {
    return *read_effect(EMBER_DEMO).effect;
}

QByteArray ply_bytes(const Simulation& simulation) {
    QTemporaryDir folder;
    const QString path = folder.filePath("p.ply");
    if (write_ply(simulation, path.toStdString())) {
        return {};
    }
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
}

QByteArray ply_after_ten_seconds(size_t threads) {
    const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
    return ply_bytes(run(demo(), 10));
}

} // namespace

class TestRuntime : public QObject {
    Q_OBJECT

  private slots:
    void one_thread_and_two_threads_give_the_same_bytes() {
        const QByteArray one = ply_after_ten_seconds(1);
        const QByteArray two = ply_after_ten_seconds(2);
        QVERIFY(one.size() > 20000 * 60);
        QVERIFY(one == two);
    }

    void another_seed_gives_another_run() {
        QVERIFY(ply_bytes(run(demo(), 1)) != ply_bytes(run(with_seed(demo(), 42), 1)));
    }

    void rewound_run_gives_the_same_bytes() {
        Simulation simulation = run(demo(), 1);
        const QByteArray first = ply_bytes(simulation);
        simulation.rewind();
        for (int i = 0; i < 60; ++i) {
            simulation.step();
        }
        QVERIFY(ply_bytes(simulation) == first);
    }

    void scalar_and_simd_agree_within_a_millimetre_after_two_seconds_data() {
        QTest::addColumn<int>("isa");
        QTest::newRow("x86-64-v2") << int(Isa::v2);
        QTest::newRow("best") << int(best_isa());
    }
    void scalar_and_simd_agree_within_a_millimetre_after_two_seconds() {
        QFETCH(int, isa);
        // Without bounces: a droplet that just meets an edge, or just does not, goes another way for good.
        Effect effect = demo();
        std::erase_if(effect.elements,
                      [](const Element& element) { return family_of(element.body) == Family::collider; });
        const auto scalar = particles(run(effect, 2, Isa::scalar), "spray-jet");
        const auto simd = particles(run(effect, 2, Isa(isa)), "spray-jet");
        QCOMPARE(scalar.size(), simd.size());
        QVERIFY(scalar.size() > 10000);
        float farthest = 0;
        for (size_t i = 0; i < scalar.size(); ++i) {
            QCOMPARE(scalar[i].number, simd[i].number);
            farthest = std::max(farthest, length(scalar[i].position - simd[i].position));
        }
        qInfo("farthest apart: %g m", double(farthest));
        QVERIFY(farthest < 1e-3f);
    }

    void scalar_and_simd_agree_on_bounces() {
        const Effect effect =
            effect_of(single_particle({0, 2, 0}),
                      {Gravity{}, Plane{{.bounce = 0.7f, .friction = 0.2f, .roughness = 0}}});
        const auto scalar = particles(run(effect, 2, Isa::scalar)).at(0);
        const auto simd = particles(run(effect, 2)).at(0);
        QVERIFY(length(scalar.position - simd.position) < 1e-3f);
    }

    void demo_keeps_at_least_twenty_thousand_droplets_alive() {
        const Simulation simulation = run(demo(), 8);
        QVERIFY(simulation.find_pool("spray-jet")->live() >= 20000);
        QCOMPARE(simulation.meters().elements[0].refused, uint64_t(0));
    }

    void changed_parameter_takes_hold_at_the_next_step_and_restarts_nothing() {
        Simulation simulation = run(demo(), 1);
        const auto before = particles(simulation, "spray-jet");
        Effect edited = demo();
        std::get<Gravity>(edited.elements[3].body).strength = -500;
        simulation.set_effect(shared(edited));
        simulation.step();
        const auto after = particles(simulation, "spray-jet");
        QVERIFY(after.size() >= before.size());
        QCOMPARE(after[10].number, before[10].number);
        QVERIFY(after[10].velocity.y > before[10].velocity.y + 5);
    }

    void adding_and_removing_elements_keeps_the_particles_of_the_others() {
        Simulation simulation = run(demo(), 1);
        const auto before = particles(simulation, "sheet");
        std::string id;
        Effect edited = with_new_element(demo(), *find_type("emitter"), id);
        edited = without_element(edited, "spray-jet");
        simulation.set_effect(shared(edited));
        simulation.step();
        const auto after = particles(simulation, "sheet");
        QCOMPARE(after[0].number, before[0].number);
        QVERIFY(std::abs(int(after.size()) - int(before.size())) < 100);
        QVERIFY(simulation.find_pool("spray-jet") == nullptr);
        QVERIFY(simulation.find_pool(id) != nullptr);
    }

    void muted_row_costs_nothing_and_parts_add_up_to_the_step() {
        Simulation simulation = run(with_muted(demo(), "wall-eddies", true), 1);
        const Effect& effect = *simulation.effect();
        double sum = 0;
        for (size_t i = 0; i < effect.elements.size(); ++i) {
            const double ms = simulation.meters().elements[i].ms;
            sum += ms;
            if (effect.elements[i].id == "wall-eddies") {
                QCOMPARE(ms, 0.0);
            }
        }
        const Meters& meters = simulation.meters();
        QVERIFY(std::abs(sum - meters.births_ms - meters.forces_ms - meters.collision_ms) <
                0.02 * sum + 1e-6);
        QVERIFY(sum <= meters.step_ms);
    }

    void ply_is_what_it_says() {
        const Simulation simulation = run(demo(), 1);
        const QByteArray bytes = ply_bytes(simulation);
        const QByteArray end = "end_header\n";
        const qsizetype data = bytes.indexOf(end) + end.size();
        const QByteArray header = bytes.left(data);
        QVERIFY(header.startsWith("ply\nformat binary_little_endian 1.0\n"));
        const auto count = qsizetype(simulation.meters().particles);
        QVERIFY(header.contains("element vertex " + QByteArray::number(count) + "\n"));
        QStringList names;
        for (const QByteArray& line : header.split('\n')) {
            if (line.startsWith("property")) {
                names << line.split(' ').last();
            }
        }
        QCOMPARE(
            names.join(' '),
            QString("x y z vx vy vz age lifetime size red green blue alpha born_size tint_red tint_green "
                    "tint_blue tint_alpha id source"));
        QCOMPARE(bytes.size(), data + count * 80);

        float first[13];
        std::memcpy(first, bytes.constData() + data, sizeof first);
        const auto expected = particles(simulation, "spray-jet")[0];
        QCOMPARE(first[0], expected.position.x);
        QCOMPARE(first[4], expected.velocity.y);
        QCOMPARE(first[7], expected.lifetime);
        uint32_t last_source = 0;
        std::memcpy(&last_source, bytes.constData() + bytes.size() - 4, 4);
        QCOMPARE(last_source, 2u);
    }

    void frame_holds_every_particle_where_it_is() {
        const Simulation simulation = run(demo(), 1);
        Frame frame;
        simulation.write_frame(frame);
        QCOMPARE(frame.particle_count(), simulation.meters().particles);
        const auto expected = particles(simulation, "spray-jet");
        const FrameSource& source = frame.sources[0];
        for (size_t i = 0; i < expected.size(); i += 97) {
            const FrameParticle& p = source.particles[i];
            QVERIFY(length(source.position(i) - expected[i].position) < 1e-4f);
            QVERIFY(std::abs(float(p.age_share) / 65535 - expected[i].age / expected[i].lifetime) < 1e-4f);
            QVERIFY(std::abs(float(p.size_share) / 65535 * source.largest_size - expected[i].size) < 1e-5f);
        }
    }

    void player_plays_pauses_steps_and_rewinds() {
        std::atomic<int> frames = 0;
        Player player([&frames] { ++frames; });
        const auto newest = [&player] {
            player.take_frame();
            return player.frame().step;
        };
        player.set_effect(shared(demo()));
        QTRY_COMPARE(frames.load(), 1); // a paused effect shows itself
        QCOMPARE(newest(), uint64_t(0));
        player.step_once();
        QTRY_COMPARE(newest(), uint64_t(1));
        player.play();
        QTRY_VERIFY(newest() > 20);
        const auto before = newest();
        player.pause();
        player.step_once();
        QTRY_VERIFY(newest() > before);
        // Orders are taken one after the other: a frame that a lens asks for comes after all steps that were
        // under way.
        const auto settled = [&] {
            const int seen = frames;
            player.set_lens(std::nullopt);
            while (frames == seen) {
                QThread::yieldCurrentThread();
            }
            return newest();
        };
        settled();
        const auto paused = settled();
        QCOMPARE(settled(), paused);
        player.rewind();
        QTRY_COMPARE(newest(), uint64_t(0));
        QCOMPARE(player.frame().particle_count(), size_t(0));
    }

    // Whatever the thread was doing when it was told to, nothing runs between the rewind and the new effect.
    void an_effect_that_starts_has_its_bursts_at_time_zero() {
        Emitter emitter = single_particle({});
        emitter.rate = 0;
        emitter.burst_count = 500;
        emitter.capacity = 1000;
        QSemaphore held, goes_on;
        std::atomic<bool> holds = false;
        Player player([&] {
            if (holds.exchange(false)) {
                held.release();
                goes_on.acquire();
            }
        });
        player.set_effect(shared(demo()));
        player.play();
        for (int i = 0; i < 5; ++i) {
            holds = true;
            held.acquire(); // the thread stands behind a step
            player.start(shared(effect_of(emitter)));
            goes_on.release();
            const auto meters = [&player] {
                player.take_frame();
                return player.frame();
            };
            QTRY_VERIFY(meters().effect->elements.front().id == "e" && meters().step > 3);
            QCOMPARE(player.frame().meters.elements.front().born, uint64_t(500));
            player.start(shared(demo()));
        }
    }

    void player_warms_up_as_fast_as_it_can_and_then_keeps_to_the_clock() {
        Effect effect = demo();
        effect.stage.warm_up = 20;
        Player player([] {});
        player.play();
        player.set_effect(shared(effect));
        const auto time_s = [&player] {
            player.take_frame();
            return player.frame().time_s;
        };
        QTRY_VERIFY(time_s() > 0.5);
        QVERIFY(player.frame().step > 1200);
    }

    void steps_wait_while_something_else_has_its_turn() {
        std::atomic<int> frames = 0;
        Player player([&frames] { ++frames; });
        player.set_effect(shared(demo()));
        player.play();
        QTRY_VERIFY(frames > 3);
        for (int i = 0; i < 3; ++i) {
            int seen = 0;
            {
                const Turns::Held turn(player.turns());
                seen = frames;
                QThread::msleep(60); // several steps become due
                QCOMPARE(frames.load(), seen);
            }
            QTRY_VERIFY(frames > seen);
        }
    }

    void a_frame_costs_all_steps_that_were_made_for_it() {
        Meters first, second;
        first.step_ms = 18;
        first.smoke_ms = 9;
        second.step_ms = 0.5;
        second.smoke_ms = 9;
        second.particles = 7;
        second.elements.resize(1);
        second.elements[0].ms = 9;
        StepTimes times;
        times.add(first);
        times.add(second);
        Meters frame = second;
        times.write(frame);
        QCOMPARE(frame.step_ms, 18.5);
        QCOMPARE(frame.smoke_ms, 18.0);
        QCOMPARE(frame.particles, size_t(7));
        QCOMPARE(frame.elements[0].ms, 9.0);
    }

    void turns_are_served_in_the_order_in_which_they_were_asked_for() {
        Turns turns;
        std::mutex mutex;
        std::vector<int> served;
        std::vector<std::thread> threads;
        {
            const Turns::Held first(turns);
            for (int i = 0; i < 8; ++i) {
                threads.emplace_back([&, i] {
                    const Turns::Held turn(turns);
                    const std::lock_guard lock(mutex);
                    served.push_back(i);
                });
                QTRY_COMPARE(turns.waiting(), size_t(i + 1));
            }
        }
        for (std::thread& thread : threads) {
            thread.join();
        }
        QCOMPARE(served, (std::vector<int>{0, 1, 2, 3, 4, 5, 6, 7}));
    }

    void a_volume_that_moves_in_one_of_two_steps_counts_in_both() {
        const Effect steam =
            *read_effect(std::filesystem::path(EMBER_DEMO).parent_path() / "pan-steam.ember.json").effect;
        Simulation simulation;
        simulation.set_effect(shared(steam));
        for (int i = 0; i < 6; ++i) {
            simulation.step();
            const Meters moved = simulation.meters();
            simulation.step();
            QVERIFY(moved.smoke_ms > 0);
            QCOMPARE(simulation.meters().smoke_ms, moved.smoke_ms);
            QVERIFY(moved.smoke_ms <= moved.step_ms);
            QVERIFY(simulation.meters().smoke_ms <= simulation.meters().step_ms);
        }
    }

    // What counts metres sees at once if something flies there.
    void what_rides_on_the_pointer_does_not_fly_in_or_back() {
        Emitter trail = single_particle({});
        trail.rate = 0;
        trail.per_metre = 1000;
        trail.capacity = 20000;
        trail.rides_on = "p";
        Effect effect = effect_of(trail);
        effect.elements.push_back({.id = "p", .name = "Pointer", .body = Pointer{}});
        Simulation simulation;
        simulation.set_effect(shared(effect));
        const auto born = [&] { return simulation.meters().elements[0].born; };
        const auto at = [](float x) { return StepInputs{.pointer = PointerRay{{x, 5, 0}, {0, -1, 0}}}; };
        simulation.step();
        simulation.step(at(3)); // it comes
        QCOMPARE(born(), uint64_t(0));
        simulation.step(at(3.5f)); // it moves
        QVERIFY2(std::abs(double(born()) - 500) <= 2, qPrintable(QString::number(born())));
        simulation.step(at(3.5f));
        const uint64_t before = born();
        simulation.step(); // it has left
        simulation.step();
        QCOMPARE(born(), before);
    }

    void player_keeps_to_the_clock() {
        Player player([] {});
        player.set_effect(shared(effect_of(single_particle({}))));
        QElapsedTimer since;
        since.start();
        player.play();
        const auto steps = [&player] {
            player.take_frame();
            return player.frame().step;
        };
        QTRY_VERIFY(steps() >= 40);
        // Sixty in a second; on a busy machine fewer, never more.
        QVERIFY2(double(steps()) <= double(since.elapsed()) * 0.06 + 4, qPrintable(QString::number(steps())));
    }
};

QTEST_GUILESS_MAIN(TestRuntime)
#include "tst_runtime.moc"
