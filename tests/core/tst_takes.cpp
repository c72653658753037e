// Takes: a run is kept with all that reached it, written, read and made again, to the byte.
#include "demos.h"
#include "sample_effects.h"
#include "state_bytes.h"

#include "core/base/file.h"
#include "core/effect/edit.h"
#include "core/effect/track.h"
#include "core/runtime/past.h"
#include "core/runtime/player.h"
#include "core/runtime/take.h"

#include <oneapi/tbb/global_control.h>

#include <QTemporaryDir>
#include <QtTest>

#include <condition_variable>
#include <mutex>

using namespace ember;
using namespace ember::sample;

namespace {

// A run with people in it, and what somebody turned meanwhile: some dials, one of them taken back.
struct Played {
    Take take;
    QByteArray end;
    std::vector<std::string> ids;
    Assets assets;

    Played(const QString& demo, uint64_t steps) : Played(demo_effect(demo), steps) {}
    Played(Effect effect, uint64_t steps) {
        assets = demo_assets(effect);
        ids = ids_of(effect);
        const EffectPtr first = shared(effect);
        Simulation simulation;
        simulation.set_effect(first, assets);
        while (simulation.is_warming_up()) {
            simulation.step();
        }
        Past past;
        const uint64_t begin = simulation.steps();
        while (simulation.steps() < begin + steps) {
            const uint64_t done = simulation.steps() - begin;
            if (done == steps / 3) {
                simulation.set_effect(shared(with_muted(effect, effect.elements.back().id, true)),
                                      simulation.assets());
            } else if (done == steps / 2) {
                simulation.set_effect(first, simulation.assets()); // taken back
            } else if (done > steps / 2 && done < steps / 2 + 20) {
                effect.stage.exposure = float(done) * 0.01f; // a dial that is turned
                effect.elements[0].name = "turn " + std::to_string(done);
                simulation.set_effect(shared(effect), simulation.assets());
            }
            const StepInputs inputs = people_at(simulation.steps());
            past.note(simulation, inputs);
            simulation.step(inputs);
        }
        take = past.take(simulation).value_or(Take());
        take.name = "first \"try\"";
        take.note = "weather\nfine";
        take.is_marked = true;
        take.worst_frame_ms = 12.25;
        take.most_particles = 321;
        take.picture = std::string("\x89PNG\0\xff", 6);
        end = state_bytes(simulation, ids);
    }

    bool ends_alike(const Take& other) const {
        Simulation simulation;
        simulation.set_effect(other.effect_at(0), assets);
        while (simulation.steps() < other.steps()) {
            simulation.step(inputs_of_step(other, simulation));
        }
        return state_bytes(simulation, ids) == end;
    }
};

} // namespace

class TestTakes : public QObject {
    Q_OBJECT

  private slots:
    void a_run_is_made_again_to_the_byte_data() { add_demo_rows(); }
    void a_run_is_made_again_to_the_byte() {
        QFETCH(const QString, name);
        const Played played(name, 150);
        QVERIFY(played.take.effects.size() > 10);
        QVERIFY(played.ends_alike(played.take));
        const ReadTakes read = parse_takes(takes_text({played.take}), "x");
        QVERIFY2(read.problems.empty(), read.problems.empty() ? "" : read.problems[0].text().c_str());
        QCOMPARE(read.takes.size(), size_t(1));
        QVERIFY(read.takes[0].inputs == played.take.inputs);
        for (const auto& [step, effect] : played.take.effects) {
            QVERIFY(*read.takes[0].effects.at(step) == *effect);
        }
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        QVERIFY(played.ends_alike(read.takes[0]));
    }

    // Pointer, clicks, a burst at a key, dials that are turned and one that is taken back.
    void half_a_minute_is_made_again_to_the_byte() {
        Effect effect = demo_effect("sluice-spray.ember.json");
        Trigger bursts;
        bursts.when = TriggerWhen::key;
        bursts.key = 1;
        bursts.what = std::find_if(effect.elements.begin(), effect.elements.end(), [](const Element& each) {
                          return std::holds_alternative<Emitter>(each.body);
                      })->id;
        bursts.births = 50;
        effect.elements.push_back({.id = "bursts", .name = "Bursts", .body = bursts});
        const Played played(effect, 30 * 60);
        const Take still = [&] {
            Take take = played.take;
            take.inputs = InputLog(1.0 / 60);
            for (uint64_t step = 0; step < played.take.steps(); ++step) {
                take.inputs.add(step, {});
            }
            return take;
        }();
        QVERIFY(!played.ends_alike(still)); // what people did is seen in it
        const ReadTakes read = parse_takes(takes_text({played.take}), "x");
        QCOMPARE(read.takes.size(), size_t(1));
        QVERIFY(played.ends_alike(read.takes[0]));
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        QVERIFY(played.ends_alike(read.takes[0]));
    }

    // On another machine a run goes its own way in the last digits, and after a while in each particle; what
    // one sees of it stays (docs/takes.md).
    void another_instruction_set_shows_the_same_effect_data() { add_demo_rows(); }
    void another_instruction_set_shows_the_same_effect() {
        QFETCH(QString, name);
        const Played played(name, 150);
        struct Seen {
            double count = 0, pieces = 0, mass = 0;
            Vec3 middle;
        };
        const auto seen_with = [&](Isa isa) {
            Simulation simulation(isa);
            simulation.set_effect(played.take.effect_at(0), played.assets);
            while (simulation.steps() < played.take.steps()) {
                simulation.step(inputs_of_step(played.take, simulation));
            }
            Seen seen;
            for (const std::string& id : played.ids) {
                for (const ParticleState& particle : particles(simulation, id)) {
                    seen.count += 1;
                    seen.middle += particle.position;
                }
                const SmokeVolume* volume = simulation.find_smoke(id);
                seen.mass += volume != nullptr ? volume->mass() : 0;
            }
            seen.middle = seen.middle * float(1 / std::max(seen.count, 1.0));
            seen.pieces = double(simulation.meters().debris.pieces);
            return seen;
        };
        const Isa other = best_isa() == Isa::avx2 ? Isa::v2 : Isa::scalar;
        const Seen quick = seen_with(best_isa()), plain = seen_with(other);
        const auto is_near = [](double a, double b, double share) {
            return std::abs(a - b) <= share * std::max(a, b) + 2;
        };
        // Grit and dust are born of pieces, which meet otherwise.
        QVERIFY2(is_near(quick.count, plain.count, quick.pieces > 0 ? 0.08 : 0.02),
                 qPrintable(QString("%1 and %2 particles").arg(quick.count).arg(plain.count)));
        QVERIFY(is_near(quick.pieces, plain.pieces, 0.08));
        QVERIFY(std::abs(quick.mass - plain.mass) <= 0.02 * quick.mass + 1e-6);
        if (quick.pieces > 0) {
            return; // where they break, and what is born there, goes its own way
        }
        QVERIFY2(length(quick.middle - plain.middle) < 0.05f,
                 qPrintable(QString::number(length(quick.middle - plain.middle))));
    }

    void all_that_is_said_of_one_is_kept() {
        const Played played("sluice-spray.ember.json", 60);
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("t.takes.json").toStdString();
        QVERIFY(!save_takes({played.take, played.take}, path));
        const ReadTakes read = read_takes(path);
        QVERIFY(read.problems.empty());
        QCOMPARE(read.takes.size(), size_t(2));
        const Take& back = read.takes[1];
        QCOMPARE(back.name, played.take.name);
        QCOMPARE(back.note, played.take.note);
        QCOMPARE(back.is_marked, true);
        QCOMPARE(back.worst_frame_ms, 12.25);
        QCOMPARE(back.most_particles, uint64_t(321));
        QCOMPARE(back.picture, played.take.picture);
        // Twenty turns of a dial take little room: only what has changed is written.
        const size_t whole = effect_text(*played.take.effect_at(0)).size(),
                     kept = takes_text({played.take}).size();
        QVERIFY2(kept < 4 * whole, qPrintable(QStringLiteral("%1 for %2").arg(kept).arg(whole)));
    }

    void damage_is_said_and_takes_that_are_sound_are_kept() {
        const Played played("sluice-spray.ember.json", 30);
        const std::string text = takes_text({played.take, played.take});
        // Cut short anywhere: no text of a file.
        for (const double share : {0.01, 0.3, 0.9, 0.999}) {
            const ReadTakes read = parse_takes(text.substr(0, size_t(double(text.size() - 3) * share)), "x");
            QVERIFY(read.takes.empty() && !read.problems.empty());
        }
        const auto changed = [&](const std::string& what, const std::string& by, bool last = false) {
            std::string other = text;
            const auto at = last ? other.rfind(what) : other.find(what);
            other.replace(at, what.size(), by);
            return parse_takes(other, "x");
        };
        const ReadTakes newer = changed("\"version\": 1", "\"version\": 2");
        QVERIFY(newer.takes.empty() && QString::fromStdString(newer.problems.at(0).text()).contains("newer"));
        QVERIFY(changed("crisp-ember takes", "another").takes.empty());
        // The first take alone is damaged.
        const std::string inputs = "\"inputs\": \"";
        const ReadTakes one = changed(inputs, inputs + "zz");
        QCOMPARE(one.takes.size(), size_t(1));
        QVERIFY2(one.problems.at(0).place.starts_with("/takes/0"), one.problems[0].text().c_str());
        const ReadTakes later = changed(inputs, inputs + "00", true);
        QCOMPARE(later.takes.size(), size_t(1));
        QVERIFY(later.problems.at(0).place.starts_with("/takes/1"));
        const ReadTakes wrong_edit = changed("\"step\": ", "\"step\": -");
        QCOMPARE(wrong_edit.takes.size(), size_t(1));
        QVERIFY(parse_takes("[]", "x").problems.size() == 1);
        QVERIFY(parse_takes("{\"format\":\"crisp-ember takes\",\"version\":1,\"takes\":[7]}", "x")
                    .problems.size() == 1);
    }

    void a_run_whose_start_is_gone_is_no_take() {
        Simulation simulation;
        simulation.set_effect(shared(starter_effect()));
        Past past;
        QVERIFY(!past.take(simulation));
        simulation.step();
        past.note(simulation, {});
        simulation.step();
        QVERIFY(!past.take(simulation)); // the first step was not noted
    }

    // Somebody plays; what was played is kept and played again, and goes on live behind its end.
    void the_player_keeps_and_replays() {
        std::mutex mutex;
        std::condition_variable came;
        uint64_t step = 0;
        bool is_replayed = false;
        std::vector<std::pair<uint32_t, uint32_t>> places; // as they lie in the frame
        Player* playing = nullptr;
        Player player([&] {
            const std::lock_guard lock(mutex);
            if (playing != nullptr && playing->take_frame()) {
                const Frame& frame = playing->frame();
                step = frame.step;
                is_replayed = frame.is_replayed;
                places.clear();
                for (const FrameParticle& particle :
                     frame.sources.empty() ? std::vector<FrameParticle>() : frame.sources[0].particles) {
                    places.emplace_back(particle.low_bits, particle.high_bits);
                }
            }
            came.notify_all();
        });
        {
            const std::lock_guard lock(mutex);
            playing = &player;
        }
        const auto wait_for = [&](auto is_so) {
            std::unique_lock lock(mutex);
            return came.wait_for(lock, std::chrono::minutes(2), is_so);
        };
        const auto step_to = [&](uint64_t to) {
            for (uint64_t next = 1; next <= to; ++next) {
                player.set_pointer(PointerRay{{float(next) * 0.05f - 1, 1, 4}, {0, 0, -1}});
                player.step_once();
                if (!wait_for([&] { return step == next; })) {
                    return false;
                }
            }
            return true;
        };
        // Particles that are pulled to the pointer.
        Effect effect = effect_of(still(600, 100), {Pull{}});
        effect.elements.push_back({.id = "hand", .name = "hand", .body = Pointer{}});
        std::get<Pull>(effect.elements[1].body).rides_on = "hand";
        player.start(shared(effect));
        QVERIFY(step_to(40));
        const auto before = places;
        std::optional<Take> take;
        bool is_there = false;
        player.take([&](std::optional<Take> taken) {
            const std::lock_guard lock(mutex);
            take = std::move(taken);
            is_there = true;
            came.notify_all();
        });
        QVERIFY(wait_for([&] { return is_there; }));
        QVERIFY(take && take->steps() == 40);

        player.set_pointer(std::nullopt);
        player.replay(std::make_shared<const Take>(*take), {});
        QVERIFY(wait_for([&] { return step == 0 && is_replayed; }));
        for (uint64_t next = 1; next <= 41; ++next) {
            player.step_once();
            QVERIFY(wait_for([&] { return step == next; }));
            if (next == 40) {
                QVERIFY(places.size() == before.size() && places.size() > 200);
                QVERIFY(std::equal(places.begin(), places.end(), before.begin()));
            }
            QCOMPARE(is_replayed, next < 40);
        }
        player.stop();
    }
};

QTEST_GUILESS_MAIN(TestTakes)
#include "tst_takes.moc"
