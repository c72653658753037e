// Going back in time: any moment that was played is there again, to the byte, edits and people included.
#include "demos.h"
#include "sample_effects.h"
#include "state_bytes.h"

#include "core/effect/edit.h"
#include "core/runtime/past.h"
#include "core/runtime/player.h"

#include <QtTest>

#include <condition_variable>
#include <mutex>
#include <random>

using namespace ember;
using namespace ember::sample;

namespace {

bool always() {
    return true;
}

std::vector<std::byte> bytes_of_particles(const Frame& shown) {
    std::vector<std::byte> bytes;
    for (const FrameSource& source : shown.sources) {
        const auto part = std::as_bytes(std::span(source.particles));
        bytes.insert(bytes.end(), part.begin(), part.end());
    }
    return bytes;
}

// A run that is noted; what it held before each step is known.
struct Run {
    Simulation simulation;
    Past past;
    std::vector<QByteArray> seen;
    std::vector<std::string> ids;

    explicit Run(size_t most_bytes = size_t(256) << 20) : past(most_bytes) {}

    void play(uint64_t steps) {
        for (uint64_t i = 0; i < steps; ++i) {
            seen.resize(simulation.steps() + 1);
            seen.back() = state_bytes(simulation, ids);
            const StepInputs inputs = people_at(simulation.steps());
            past.note(simulation, inputs);
            simulation.step(inputs);
        }
    }
};

} // namespace

class TestPast : public QObject {
    Q_OBJECT

  private slots:
    void any_moment_is_there_again_data() { add_demo_rows(); }

    void any_moment_is_there_again() {
        QFETCH(const QString, name);
        Effect effect = demo_effect(name);
        effect.stage.warm_up = 0;
        const Assets assets = demo_assets(effect);
        Run run;
        run.ids = ids_of(effect);
        run.simulation.set_effect(shared(effect), assets);
        run.play(200);
        // Two edits on the way, one of them in the same step as another.
        run.simulation.set_effect(shared(with_seed(effect, 5)), assets);
        effect = with_muted(with_seed(effect, 5), effect.elements.front().id, true);
        run.simulation.set_effect(shared(effect), assets);
        run.play(130);
        QCOMPARE(run.past.begin(), uint64_t(0));
        QCOMPARE(run.past.end(), uint64_t(330));
        QVERIFY(run.past.bytes() < size_t(256) << 20);

        std::mt19937 draw(uint32_t(name.size()));
        for (int i = 0; i < 30; ++i) {
            const uint64_t step = draw() % 330;
            QVERIFY(run.past.go_to(run.simulation, step, always));
            QCOMPARE(run.simulation.steps(), step);
            QVERIFY2(state_bytes(run.simulation, run.ids) == run.seen[step],
                     qPrintable(QStringLiteral("step %1").arg(step)));
        }
    }

    // With little memory moments are farther apart, those long ago the farthest; all can still be gone to.
    void memory_is_held_and_every_moment_reached() {
        const Effect effect = demo_effect("sluice-spray.ember.json");
        constexpr size_t most_bytes = 9'000'000;
        Run run(most_bytes);
        run.ids = ids_of(effect);
        run.simulation.set_effect(shared(effect));
        run.play(900);
        QVERIFY(run.past.bytes() <= most_bytes);
        QVERIFY(run.past.bytes() > most_bytes / 3);
        int recent = 0, early = 0;
        const auto steps_to = [&](uint64_t step) {
            int steps = 0;
            run.past.go_to(run.simulation, 899, always); // so that it has to go back
            const bool is_there = run.past.go_to(run.simulation, step, [&] { return ++steps > 0; });
            return is_there && state_bytes(run.simulation, run.ids) == run.seen[step] ? steps : -1;
        };
        for (const uint64_t step : {14, 137, 255, 390, 520, 640, 790, 880}) {
            const int steps = steps_to(step);
            QVERIFY(steps >= 0);
            (step > 450 ? recent : early) += steps;
        }
        QVERIFY2(recent < early, qPrintable(QStringLiteral("%1 and %2").arg(recent).arg(early)));
    }

    // Playing on from an earlier moment forgets what came after it; the same inputs bring it back.
    void playing_on_forgets_what_came_after() {
        const Effect effect = demo_effect("salt-stack.ember.json");
        const Assets assets = demo_assets(effect);
        Run run;
        run.ids = ids_of(effect);
        run.simulation.set_effect(shared(effect), assets);
        run.play(240);
        const std::vector<QByteArray> before = run.seen;
        QVERIFY(run.past.go_to(run.simulation, 100, always));
        QCOMPARE(run.past.end(), uint64_t(240)); // only looked at
        run.play(1);
        QCOMPARE(run.past.end(), uint64_t(101));
        run.play(139);
        QVERIFY(run.seen == before);
        QVERIFY(!run.past.go_to(run.simulation, 241, always));
    }

    // Files that come late are an edit, too: what was played without them stays as it was.
    void files_that_come_late_come_late_again() {
        const Effect effect = demo_effect("salt-stack.ember.json");
        const EffectPtr whole = shared(effect);
        Run run;
        run.ids = ids_of(effect);
        run.simulation.set_effect(whole);
        run.play(40);
        run.simulation.set_effect(whole, demo_assets(effect));
        run.play(60);
        for (const uint64_t step : {90, 44, 40, 39, 20, 52}) {
            QVERIFY(run.past.go_to(run.simulation, step, always));
            QVERIFY2(state_bytes(run.simulation, run.ids) == run.seen[step],
                     qPrintable(QString::number(step)));
        }
        QVERIFY(run.seen[39] != run.seen[99]);
    }

    void it_stops_on_the_way_when_it_is_told() {
        const Effect effect = demo_effect("sluice-spray.ember.json");
        Run run;
        run.simulation.set_effect(shared(effect));
        run.play(100);
        int steps = 0;
        QVERIFY(!run.past.go_to(run.simulation, 44, [&] { return ++steps < 6; }));
        QCOMPARE(run.simulation.steps(), uint64_t(35));
        QVERIFY(run.past.go_to(run.simulation, 44, always));
    }

    void a_player_goes_to_moments_and_on_from_there() {
        Player player([] {});
        const Effect effect = demo_effect("sluice-spray.ember.json");
        player.set_effect(shared(effect));
        player.play();
        const auto frame = [&]() -> const Frame& {
            player.take_frame();
            return player.frame();
        };
        QTRY_VERIFY(frame().step > 90);
        player.pause();
        player.go_to(1.0);
        QTRY_COMPARE(frame().step, uint64_t(60));
        QVERIFY(frame().kept_to_s > 1.4); // the rest is still there
        player.go_by(-1);
        player.go_by(-1);
        QTRY_COMPARE(frame().step, uint64_t(58));
        player.go_by(1);
        QTRY_COMPARE(frame().step, uint64_t(59));
        // Farther than was played: stepped to.
        player.go_to(3);
        QTRY_COMPARE(frame().step, uint64_t(180));
        QCOMPARE(frame().kept_to_s, frame().time_s);
        player.go_to(1e9); // an hour at the most, and ended by a pause
        player.pause();
        player.go_to(-1e9);
        QTRY_COMPARE(frame().step, uint64_t(0));
        // The newest effect, wherever one goes.
        const EffectPtr other = shared(with_seed(effect, 99));
        player.set_effect(other);
        player.go_to(0.5);
        QTRY_COMPARE(frame().step, uint64_t(30));
        QCOMPARE(frame().effect, other);
        player.play();
        QTRY_VERIFY(frame().step > 40);
        QVERIFY(std::abs(frame().kept_to_s - frame().time_s) < 1e-6);
    }

    // What was played counts within the memory limit, and takes at most half of what the limit leaves.
    void what_was_played_keeps_within_the_memory_limit() {
        const auto played = [](float limit_mb) {
            Effect effect = demo_effect("sluice-spray.ember.json");
            effect.budget.memory_mb = limit_mb;
            Player player([] {});
            player.set_effect(shared(effect));
            player.go_to(10);
            const auto frame = [&]() -> const Frame& {
                player.take_frame();
                return player.frame();
            };
            [&] { QTRY_COMPARE(frame().step, uint64_t(600)); }();
            return std::pair(double(frame().kept_bytes) / 1e6, double(frame().meters.bytes) / 1e6);
        };
        const auto [wide, held] = played(1000);
        const auto limit = float(held + 40);
        const auto [narrow, still_held] = played(limit);
        QCOMPARE(still_held, held);
        QVERIFY2(wide > 25, qPrintable(QString::number(wide)));
        QVERIFY2(narrow > 10 && narrow <= 20.01, qPrintable(QString::number(narrow)));
        QVERIFY(played(1).first <= 16); // enough to go back to something
    }

    // What has to be stepped to is shown roughly first, as what is kept nearest before it; a loop is not.
    void a_moment_between_what_is_kept_is_shown_roughly_first() {
        std::mutex mutex;
        std::condition_variable came;
        std::vector<uint64_t> shown;
        Player* playing = nullptr;
        Player player([&] {
            const std::lock_guard lock(mutex);
            if (playing != nullptr && playing->take_frame()) {
                shown.push_back(playing->frame().step);
            }
            came.notify_all();
        });
        const auto shows = [&](uint64_t step) {
            std::unique_lock lock(mutex);
            const auto is_there = [&] { return !shown.empty() && shown.back() == step; };
            return came.wait_for(lock, std::chrono::minutes(2), is_there);
        };
        {
            const std::lock_guard lock(mutex);
            playing = &player;
        }
        player.set_effect(shared(demo_effect("sluice-spray.ember.json")));
        for (uint64_t step = 1; step <= 20; ++step) {
            player.step_once();
            QVERIFY(shows(step));
        }
        const auto shown_on_the_way_to = [&](double time_s, uint64_t step) {
            {
                const std::lock_guard lock(mutex);
                shown.clear();
            }
            player.go_to(time_s);
            return shows(step) ? shown : std::vector<uint64_t>();
        };
        // Snapshots are at least 15 steps apart, and the first is that of the start.
        QCOMPARE(shown_on_the_way_to(14 / 60.0, 14), (std::vector<uint64_t>{0, 14}));
        QCOMPARE(shown_on_the_way_to(5 / 60.0, 5), std::vector<uint64_t>{5}); // soon there
    }

    // What is edited while a moment is held is seen there as if it had been so from the start; the newest
    // edit counts, and the run goes as far as before.
    void an_edit_at_a_held_moment_steps_the_run_anew() {
        Player player([] {});
        const Effect effect = demo_effect("sluice-spray.ember.json");
        player.set_effect(shared(effect));
        player.play();
        const auto frame = [&]() -> const Frame& {
            player.take_frame();
            return player.frame();
        };
        QTRY_VERIFY(frame().step > 90);
        player.pause();
        player.go_to(1.0);
        QTRY_COMPARE(frame().step, uint64_t(60));
        const double until_s = frame().kept_to_s;
        const auto plain = [&](const Effect& of) {
            Simulation simulation;
            simulation.set_effect(shared(of));
            for (int i = 0; i < 60; ++i) {
                simulation.step();
            }
            Frame end;
            simulation.write_frame(end);
            return bytes_of_particles(end);
        };
        const auto with_strength = [](const Effect& of, float strength) {
            const Parameter& parameter = *holder_of(*find_element(of, "gravity")).find("strength");
            return shared(with_value(of, "gravity", parameter, strength));
        };
        player.set_effect(with_strength(effect, 3));
        const EffectPtr last = with_strength(effect, 1);
        player.set_effect(last);
        const std::vector<std::byte> wanted = plain(*last);
        QTRY_VERIFY(frame().effect == last && bytes_of_particles(frame()) == wanted);
        QCOMPARE(frame().step, uint64_t(60));
        QVERIFY(std::abs(frame().kept_to_s - until_s) < 1e-6);

        // Another moment that is gone to while it is on its way is reached too, and shown.
        for (int i = 0; i < 8; ++i) {
            const EffectPtr first = with_strength(effect, 5 + float(i)), second = with_strength(effect, 2);
            player.set_effect(first);
            QTRY_VERIFY(frame().effect == first);
            player.set_effect(second);
            player.go_to(i % 2 == 0 ? 0.5 : 1.0);
            const uint64_t there = i % 2 == 0 ? 30 : 60;
            QTRY_VERIFY(frame().effect == second && frame().step == there);
        }
        player.set_effect(last);
        QTRY_VERIFY(frame().effect == last && bytes_of_particles(frame()) == wanted);

        // What no step depends on changes no particle.
        Effect lit = *last;
        lit.stage.exposure = 1;
        const EffectPtr brighter = shared(lit);
        player.set_effect(brighter);
        QTRY_VERIFY(frame().effect == brighter);
        QVERIFY(bytes_of_particles(frame()) == wanted);

        // It goes on from there, and then edits act from where it is.
        player.step_once();
        QTRY_COMPARE(frame().step, uint64_t(61));
        const std::vector<std::byte> here = bytes_of_particles(frame());
        const EffectPtr heavier = with_strength(lit, 20);
        player.set_effect(heavier);
        QTRY_VERIFY(frame().effect == heavier);
        QVERIFY(bytes_of_particles(frame()) == here);
    }

    // Only what comes after the first difference is stepped anew; the bytes are those of the whole.
    void a_later_key_steps_only_what_comes_after_it() {
        const auto keyed = [](float last) {
            Effect effect = demo_effect("sluice-spray.ember.json");
            Track track = {"gravity", "strength", {Curve{{{0, 1}, {2, 2}, {2.2f, 1}, {2.4f, last}}}}, {}};
            return shared(with_track(effect, track));
        };
        Player player([] {});
        player.set_effect(keyed(1));
        const auto frame = [&]() -> const Frame& {
            player.take_frame();
            return player.frame();
        };
        player.go_to(3);
        QTRY_COMPARE(frame().step, uint64_t(180));
        player.go_to(2.5);
        QTRY_COMPARE(frame().step, uint64_t(150));
        player.take_costs();
        const EffectPtr later = keyed(30);
        player.set_effect(later);
        Simulation simulation;
        simulation.set_effect(later);
        for (int i = 0; i < 150; ++i) {
            simulation.step();
        }
        Frame wanted;
        simulation.write_frame(wanted);
        QTRY_VERIFY(frame().effect == later && bytes_of_particles(frame()) == bytes_of_particles(wanted));
        QVERIFY(frame().step == 150 && frame().kept_to_s > 2.9);
        const std::vector<StepCost> costs = player.take_costs();
        QVERIFY(!costs.empty());
        QVERIFY2(costs.front().step > 30 && costs.front().step <= 120,
                 std::to_string(costs.front().step).c_str());
        // An edit that changes everything steps everything.
        player.set_effect(shared(with_seed(*later, 5)));
        bool begins_anew = false;
        const auto has_begun_anew = [&] {
            for (const StepCost& cost : player.take_costs()) {
                begins_anew = begins_anew || cost.step == 1;
            }
            return begins_anew;
        };
        QTRY_VERIFY(has_begun_anew() && frame().effect->seed == 5 && frame().step == 150);
    }

    void an_effect_that_has_a_length_stops_at_its_end_and_begins_again() {
        Effect effect = demo_effect("sluice-spray.ember.json");
        effect.stage.length = 5;
        Player player([] {});
        player.set_effect(shared(effect));
        const auto frame = [&]() -> const Frame& {
            player.take_frame();
            return player.frame();
        };
        player.go_to(4.8);
        QTRY_COMPARE(frame().step, uint64_t(288));
        player.play();
        QTRY_COMPARE(frame().step, uint64_t(300));
        QTRY_VERIFY(!player.is_playing());
        player.play(); // from the start
        QTRY_VERIFY(frame().step < 200);
        QVERIFY(player.is_playing());
        // One may look behind it; and a span that is looped is not ended by it.
        player.pause();
        player.go_to(5);
        QTRY_COMPARE(frame().step, uint64_t(300));
        player.step_once();
        QTRY_COMPARE(frame().step, uint64_t(301));
        player.set_loop(Player::Loop{4.5, 5.5});
        player.go_to(4.9);
        player.play();
        QTRY_VERIFY(frame().step > 310);
        QVERIFY(player.is_playing());
    }

    // Another effect that is opened, or another warm-up, has no past, whatever was played before.
    void what_begins_anew_has_no_past() {
        Effect effect = demo_effect("sluice-spray.ember.json");
        Player player([] {});
        const auto frame = [&]() -> const Frame& {
            player.take_frame();
            return player.frame();
        };
        const auto play_on = [&] {
            player.play();
            QTRY_VERIFY(frame().time_s > 1);
            player.pause();
        };
        player.set_effect(shared(effect));
        play_on();
        player.start(shared(with_seed(effect, 7)));
        QTRY_COMPARE(frame().step, uint64_t(0));
        QCOMPARE(frame().kept_to_s, 0.0);
        player.step_once();
        QTRY_COMPARE(frame().step, uint64_t(1));

        play_on();
        effect.stage.warm_up = 0.5f;
        player.set_effect(shared(effect));
        QTRY_VERIFY(frame().effect->stage.warm_up > 0 && frame().time_s == 0);
        QCOMPARE(frame().step, uint64_t(30));
        QCOMPARE(frame().kept_to_s, 0.0);
        player.go_by(-5);
        player.step_once();
        QTRY_COMPARE(frame().step, uint64_t(31));
    }

    // Nothing has been played yet, or it warms up: there is nowhere to go.
    void there_is_nowhere_to_go_before_anything_was_played() {
        Player player([] {});
        player.go_to(3);
        Effect effect = demo_effect("sluice-spray.ember.json");
        effect.stage.warm_up = 1;
        player.set_effect(shared(effect));
        player.go_to(0.5);
        player.go_by(-5);
        QTRY_COMPARE((player.take_frame(), player.frame().step), uint64_t(60));
        QCOMPARE(player.frame().time_s, 0.0);
        player.step_once();
        QTRY_COMPARE((player.take_frame(), player.frame().step), uint64_t(61));
        player.go_by(-20); // not into the warm-up
        QTRY_COMPARE((player.take_frame(), player.frame().step), uint64_t(60));
    }
};

QTEST_GUILESS_MAIN(TestPast)
#include "tst_past.moc"
