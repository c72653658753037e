// Trials: an effect tried beside the one that plays is the one that would play; numbers and seeds are tried
// as they are said.
#include "core/budget/trial.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/track.h"

#include <QtTest>

using namespace ember;

class TestTrials : public QObject {
    Q_OBJECT

    static Effect demo() { return *read_effect(EMBER_DEMO).effect; }

  private slots:
    void a_trial_reaches_the_moment_that_a_run_reaches() {
        Effect effect = demo();
        effect.stage.warm_up = 0.5f;
        const auto shared = std::make_shared<const Effect>(effect);
        Trial trial(shared, {}, {0, 1.5});
        int steps = 0;
        double last = -1;
        while (trial.step()) {
            ++steps;
            QVERIFY(trial.progress() > last);
            last = trial.progress();
        }
        QCOMPARE(steps, 120); // half a second of warm-up, one and a half after it
        QCOMPARE(trial.progress(), 1.0);
        QVERIFY(!trial.step());
        Simulation run;
        run.set_effect(shared);
        for (int i = 0; i < steps; ++i) {
            run.step();
        }
        Frame tried, plain;
        trial.simulation().write_frame(tried);
        run.write_frame(plain);
        QCOMPARE(tried.sources.size(), plain.sources.size());
        size_t particles = 0;
        for (size_t i = 0; i < plain.sources.size(); ++i) {
            QCOMPARE(tried.sources[i].particles.size(), plain.sources[i].particles.size());
            QVERIFY(std::memcmp(tried.sources[i].particles.data(), plain.sources[i].particles.data(),
                                plain.sources[i].particles.size() * sizeof(FrameParticle)) == 0);
            particles += plain.sources[i].particles.size();
        }
        const TrialFigures figures = trial.figures();
        QCOMPARE(figures.particles_then, particles);
        QVERIFY(figures.particles_most >= figures.particles_then);
        QVERIFY(figures.dearest_ms >= figures.median_ms && figures.median_ms > 0);
        QVERIFY(figures.at_s > 0 && figures.at_s <= 1.5);
    }

    void a_trial_to_the_start_makes_no_step_behind_the_warm_up() {
        Trial trial(std::make_shared<const Effect>(demo()), {}, {0, 0});
        while (trial.step()) {
        }
        QVERIFY(trial.simulation().time_s() <= 0);
        QCOMPARE(trial.figures().median_ms, 0.0);
    }

    void numbers_are_tried_in_even_steps_for_every_kind() {
        const Effect effect = demo();
        const TriedNumber strength = {"gravity", "strength", 0, 2, 12, 6};
        QVERIFY(!refusal_of(effect, strength));
        for (int i = 0; i < 6; ++i) {
            const Effect tried = with_try(effect, strength, i);
            QCOMPARE(std::get<Gravity>(find_element(tried, "gravity")->body).strength, 2.0f + 2 * float(i));
        }
        // A count is whole, an end of a range takes the other along, a vector has parts.
        const TriedNumber octaves = {"wall-eddies", "octaves", 0, 1, 4, 3};
        QCOMPARE(
            std::get<Turbulence>(find_element(with_try(effect, octaves, 1), "wall-eddies")->body).octaves, 3);
        const TriedNumber low = {"spray-jet", "lifetime", 0, 1, 100, 2};
        const Range lifetime =
            std::get<Emitter>(find_element(with_try(effect, low, 1), "spray-jet")->body).lifetime;
        QCOMPARE(lifetime.low, 100.0f);
        QCOMPARE(lifetime.high, 100.0f);
        const TriedNumber height = {"spray-jet", "position", 1, -1, 1, 3};
        QCOMPARE(std::get<Emitter>(find_element(with_try(effect, height, 2), "spray-jet")->body).position.y,
                 1.0f);
        const TriedNumber bloom = {std::string(stage_id), "bloom", 0, 0, 1, 2};
        QCOMPARE(with_try(effect, bloom, 1).stage.bloom, 1.0f);
    }

    void what_keys_or_drives_a_number_gives_way_to_the_try() {
        Effect effect = with_key(demo(), "gravity", "strength", 1, 3.0f);
        QVERIFY(find_track(effect, "gravity", "strength") != nullptr);
        const Effect tried = with_try(effect, {"gravity", "strength", 0, 2, 12, 2}, 1);
        QVERIFY(find_track(tried, "gravity", "strength") == nullptr);
        QCOMPARE(std::get<Gravity>(find_element(tried, "gravity")->body).strength, 12.0f);
    }

    void what_cannot_be_tried_is_refused_in_words() {
        const Effect effect = demo();
        const float nan = std::nanf(""), inf = std::numeric_limits<float>::infinity();
        for (const TriedNumber& wrong : {
                 TriedNumber{"nobody", "strength", 0, 0, 1, 3},
                 TriedNumber{"gravity", "nothing", 0, 0, 1, 3},
                 TriedNumber{"spray-jet", "shape", 0, 0, 1, 3},
                 TriedNumber{"gravity", "strength", 1, 0, 1, 3},
                 TriedNumber{"gravity", "strength", -1, 0, 1, 3},
                 TriedNumber{"gravity", "strength", 0, nan, 1, 3},
                 TriedNumber{"gravity", "strength", 0, 0, inf, 3},
                 TriedNumber{"gravity", "strength", 0, 0, 1e30f, 3},
                 TriedNumber{"gravity", "strength", 0, 0, 1, 1},
                 TriedNumber{"gravity", "strength", 0, 0, 1, 1000000},
             }) {
            const auto refused = refusal_of(effect, wrong);
            QVERIFY(refused && !refused->empty());
        }
    }

    void another_seed_is_another_run() {
        const Effect effect = demo();
        QCOMPARE(with_seed(effect, 77).seed, 77u);
        Trial a(std::make_shared<const Effect>(effect), {}, {0, 0.5});
        Trial b(std::make_shared<const Effect>(with_seed(effect, effect.seed + 1)), {}, {0, 0.5});
        while (a.step() && b.step()) {
        }
        Frame first, second;
        a.simulation().write_frame(first);
        b.simulation().write_frame(second);
        QVERIFY(std::memcmp(first.sources[0].particles.data(), second.sources[0].particles.data(),
                            std::min(first.sources[0].particles.size(), second.sources[0].particles.size()) *
                                sizeof(FrameParticle)) != 0);
    }
};

QTEST_APPLESS_MAIN(TestTrials)
#include "tst_trials.moc"
