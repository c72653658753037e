// Giving way near the frame limit: what is given is what was ordered, is kept with runs, and does not pump.
#include "core/budget/keeper.h"
#include "core/effect/edit.h"
#include "core/effect/track.h"
#include "core/runtime/past.h"
#include "core/runtime/simulation.h"
#include "core/scene/input_log.h"

#include "demos.h"
#include "sample_effects.h"
#include "state_bytes.h"

#include <QtTest>

#include <deque>

using namespace ember;

namespace {

constexpr double frame_s = 1.0 / 60;

Gives all_given() {
    Gives gives;
    gives.fill(most_given);
    return gives;
}

Effect with_keeper(Effect effect) {
    effect.budget.keeper = true;
    return effect;
}

const Emitter& emitter_of(const Effect& effect) {
    return std::get<Emitter>(effect.elements[0].body);
}

// Something to give in every way.
Effect with_everything() {
    std::string id;
    Effect effect = starter_effect();
    effect = with_new_element(effect, *find_type("breakable"), id);
    effect = with_new_element(effect, *find_type("smoke"), id);
    effect.looks[0].copies = 4;
    return effect;
}

// What frames cost while so much is given, for as long as it takes.
template <class Cost>
std::vector<int> run_keeper(Keeper& keeper, const Budget& budget, double seconds, Cost cost) {
    Effect effect = with_everything();
    effect.budget = budget;
    std::vector<int> changes_at;
    for (int i = 0; i < int(seconds / frame_s); ++i) {
        const int before = keeper.changes();
        keeper.note(effect, frame_s, cost(i * frame_s, keeper.gives()));
        if (keeper.changes() != before) {
            changes_at.push_back(i);
        }
    }
    return changes_at;
}

double given_share(const Gives& gives) {
    double sum = 0;
    for (const uint8_t given : gives) {
        sum += given;
    }
    return sum / (double(give_ways) * most_given);
}

} // namespace

class TestKeeper : public QObject {
    Q_OBJECT

  private slots:
    void what_is_given_is_what_was_ordered() {
        Effect effect = with_keeper(sample::effect_of(sample::still(600, 1)));
        effect.looks[0].copies = 6;
        effect.budget.births_least = 0.25f;
        Effect now = effect;
        give_way({}, now);
        QCOMPARE(now, effect);
        Gives half{};
        half[size_t(GiveWay::births)] = most_given / 2;
        give_way(half, now);
        QCOMPARE(emitter_of(now).rate, 600 * 0.625f);
        QCOMPARE(now.looks[0].copies, 6);
        now = effect;
        give_way(all_given(), now);
        QCOMPARE(emitter_of(now).rate, 150.0f);
        // Of copies the live view shows fewer; what is saved has all.
        QCOMPARE(now.looks[0].copies, 6);
        QCOMPARE(now.stage.copies_shown, 0.0f);
        // A source keeps what is said of it.
        std::get<Emitter>(effect.elements[0].body).keeps = 1;
        now = effect;
        give_way(all_given(), now);
        QCOMPARE(emitter_of(now).rate, 600.0f);
        // Without a keeper nothing gives.
        effect.budget.keeper = false;
        std::get<Emitter>(effect.elements[0].body).keeps = 0;
        now = effect;
        give_way(all_given(), now);
        QCOMPARE(now, effect);
    }

    void smoke_and_pieces_give_too() {
        Effect effect = with_keeper(starter_effect());
        std::string wall, steam;
        effect = with_new_element(effect, *find_type("breakable"), wall);
        effect = with_new_element(effect, *find_type("smoke"), steam);
        Breakable was = std::get<Breakable>(find_element(effect, wall)->body);
        Effect now = effect;
        give_way(all_given(), now);
        const auto& is = std::get<Breakable>(find_element(now, wall)->body);
        QCOMPARE(is.linger.high, was.linger.high * effect.budget.cleanup_least);
        QCOMPARE(is.capacity, int(std::lround(float(was.capacity) * effect.budget.pieces_least)));
        QCOMPARE(std::get<Smoke>(find_element(now, steam)->body).moves_every, 4);
    }

    // In whole blocks, never finer than it was, and never less than one.
    void smoke_gives_detail_in_whole_blocks() {
        Smoke smoke;
        smoke.size = {2, 2, 2};
        Effect effect = with_keeper(sample::effect_of(sample::still(600, 1)));
        effect.elements.push_back({.id = "steam", .name = "Steam", .body = smoke});
        const auto smoke_of = [](Effect& of) -> Smoke& { return std::get<Smoke>(of.elements[1].body); };
        const auto left = [&](int resolution, int given, float least) {
            Effect now = effect;
            now.budget.cells_least = least;
            smoke_of(now).resolution = resolution;
            Gives gives{};
            gives[size_t(GiveWay::cells)] = uint8_t(given);
            give_way(gives, now);
            return smoke_of(now).resolution;
        };
        QCOMPARE(left(64, most_given, 0.5f), 32);
        QCOMPARE(left(64, most_given / 2, 0.5f), 48);
        QCOMPARE(left(60, 0, 0.5f), 60);
        QCOMPARE(left(60, 1, 0.5f), 56);
        QCOMPARE(left(512, most_given, 0.25f), 128);
        QCOMPARE(left(8, most_given, 0.25f), 8);
        QCOMPARE(left(10, most_given, 1), 10);
        // What runs goes on with what there is.
        smoke_of(effect).resolution = 48;
        Simulation simulation;
        simulation.set_effect(sample::shared(effect));
        StepInputs gives;
        gives.gives[size_t(GiveWay::cells)] = most_given;
        Frame frame;
        for (const int along : {48, 24, 48}) {
            for (int i = 0; i < 20; ++i) {
                simulation.step(along == 24 ? gives : StepInputs());
            }
            simulation.write_frame(frame);
            QCOMPARE(frame.smokes.size(), size_t(1));
            QCOMPARE(frame.smokes[0]->size.x, along);
        }
    }

    void a_step_gives_what_reaches_it_and_no_other_does() {
        const Effect effect = with_keeper(sample::effect_of(sample::still(600, 1)));
        Simulation simulation;
        simulation.set_effect(sample::shared(effect));
        StepInputs gives;
        gives.gives = all_given();
        for (int i = 0; i < 60; ++i) {
            simulation.step(gives);
        }
        QCOMPARE(simulation.find_pool("e")->born(), uint64_t(150));
        Frame frame;
        simulation.write_frame(frame);
        QCOMPARE(frame.gives, all_given());
        QCOMPARE(emitter_of(*frame.now).rate, 150.0f);
        for (int i = 0; i < 60; ++i) {
            simulation.step();
        }
        QCOMPARE(simulation.find_pool("e")->born(), uint64_t(750));
        simulation.write_frame(frame);
        QCOMPARE(frame.now, frame.effect);
        // What was given for one step is no longer given in the next, where other things change too.
        Effect driven = effect;
        driven.looks[0].copies = 6;
        driven = with_key(driven, "e", "rate", 0, 600.0f);
        simulation.set_effect(sample::shared(driven));
        simulation.step(gives);
        simulation.write_frame(frame);
        QCOMPARE(frame.now->stage.copies_shown, 0.0f);
        simulation.step();
        simulation.write_frame(frame);
        QCOMPARE(frame.now->stage.copies_shown, 1.0f);
        QCOMPARE(emitter_of(*frame.now).rate, 600.0f);
    }

    // Snapshots, logs and the past make the same run again, with all that was given.
    void runs_that_gave_are_made_again_data() {
        QTest::addColumn<QString>("file");
        QTest::addRow("particles") << "sluice-spray.ember.json";
        QTest::addRow("smoke") << "pan-steam.ember.json";
    }
    void runs_that_gave_are_made_again() {
        QFETCH(QString, file);
        Effect effect = with_keeper(sample::demo_effect(file));
        const Assets assets = sample::demo_assets(effect);
        const std::vector<std::string> ids = sample::ids_of(effect);
        Simulation run, again;
        run.set_effect(sample::shared(effect), assets);
        Past past;
        while (run.is_warming_up()) {
            run.step();
        }
        const uint64_t start = run.steps();
        InputLog log(run.step_s());
        std::shared_ptr<const Simulation::Snapshot> kept;
        const auto inputs_at = [](uint64_t step) {
            StepInputs inputs = sample::people_at(step);
            inputs.gives[size_t(GiveWay::births)] = uint8_t(step / 7 % 17);
            inputs.gives[size_t(GiveWay::copies)] = uint8_t(step / 11 % 17);
            inputs.gives[size_t(GiveWay::cells)] = uint8_t(step / 5 % 17);
            return inputs;
        };
        for (uint64_t i = 0; i < 120; ++i) {
            if (i == 60) {
                kept = run.snapshot();
            }
            log.add(run.steps(), inputs_at(i));
            past.note(run, inputs_at(i));
            run.step(inputs_at(i));
        }
        const auto whole = sample::state_bytes(run, ids);
        Problems problems;
        const auto read = InputLog::read(log.bytes(), "log", problems);
        QVERIFY2(read && problems.empty(), problems.empty() ? "" : problems[0].text().c_str());
        QCOMPARE(*read, log);
        again.restore(*kept);
        while (again.steps() < start + 120) {
            again.step(read->at(again.steps()));
        }
        QVERIFY(sample::state_bytes(again, ids) == whole);
        QVERIFY(past.go_to(run, start + 30, [] { return true; }));
        QVERIFY(past.go_to(run, start + 120, [] { return true; }));
        QVERIFY(sample::state_bytes(run, ids) == whole);
    }

    void logs_of_version_1_are_read_and_damaged_ones_refused() {
        InputLog log(frame_s);
        log.add(0, {});
        StepInputs clicked;
        clicked.clicks = 2;
        log.add(1, clicked);
        std::string bytes = log.bytes();
        QCOMPARE(int(bytes[8]), 3);
        bytes[8] = 1; // nothing was given, so that it is as version 1 wrote it
        Problems problems;
        const auto read = InputLog::read(bytes, "log", problems);
        QVERIFY(read && *read == log);
        StepInputs gives;
        gives.gives[2] = most_given;
        log.add(2, gives);
        std::string wrong = log.bytes();
        QVERIFY(InputLog::read(wrong, "log", problems) && problems.empty());
        // Version 2 had six ways.
        std::string older = wrong.substr(0, wrong.size() - 2);
        older[8] = 2;
        const auto of_version_2 = InputLog::read(older, "log", problems);
        QVERIFY(of_version_2 && *of_version_2 == log && problems.empty());
        wrong[8] = 1; // which knew of no giving
        QVERIFY(!InputLog::read(wrong, "log", problems));
        wrong = log.bytes();
        wrong[wrong.size() - 4] = most_given + 1;
        QVERIFY(!InputLog::read(wrong, "log", problems));
        QVERIFY(problems.back().text().find("given") != std::string::npos);
        wrong = log.bytes().substr(0, log.bytes().size() - 2);
        QVERIFY(!InputLog::read(wrong, "log", problems));
    }

    void turns_go_one_after_another_and_those_alike_together() {
        Budget budget;
        budget.keeper = true;
        budget.copies_turn = 1;
        budget.smoke_turn = 1;
        budget.births_turn = 2;
        budget.picture_turn = budget.cleanup_turn = budget.pieces_turn = 0;
        budget.far_turn = budget.cells_turn = 0;
        Keeper keeper;
        run_keeper(keeper, budget, 4, [&](double, const Gives& gives) {
            for (const GiveWay never :
                 {GiveWay::picture, GiveWay::cleanup, GiveWay::pieces, GiveWay::far, GiveWay::cells}) {
                if (gives[size_t(never)] != 0) {
                    return -1.0; // a mean below everything, which the test sees below
                }
            }
            const int first = gives[size_t(GiveWay::copies)];
            const bool in_turn = gives[size_t(GiveWay::smoke)] == first &&
                                 (gives[size_t(GiveWay::births)] == 0 || first == most_given);
            return in_turn ? double(budget.frame_ms) * 1.2 : -1.0;
        });
        QCOMPARE(keeper.gives()[size_t(GiveWay::copies)], uint8_t(most_given));
        QCOMPARE(keeper.gives()[size_t(GiveWay::births)], uint8_t(most_given));
        QCOMPARE(keeper.gives()[size_t(GiveWay::picture)], uint8_t(0));
        QVERIFY(words_of(budget, keeper.gives()).find("births at 25 %") != std::string::npos);
        QVERIFY(words_of(budget, keeper.gives()).find("smoke in one of 4 steps") != std::string::npos);
        QVERIFY(words_of(budget, {}).empty());
    }

    // Turns in which there is nothing to give take no time.
    void ways_without_anything_to_give_are_passed_over() {
        Effect effect = with_keeper(sample::effect_of(sample::still(600, 1)));
        effect.budget.births_turn = 6;
        effect.budget.picture_turn = 0;
        Keeper keeper;
        keeper.note(effect, frame_s, 10 * double(effect.budget.frame_ms));
        for (int i = 0; i < 60; ++i) {
            keeper.note(effect, frame_s, 10 * double(effect.budget.frame_ms));
        }
        Gives expected{};
        expected[size_t(GiveWay::births)] = most_given;
        QCOMPARE(keeper.gives(), expected);
        std::get<Emitter>(effect.elements[0].body).keeps = 1;
        Keeper other;
        for (int i = 0; i < 60; ++i) {
            other.note(effect, frame_s, 10 * double(effect.budget.frame_ms));
        }
        QCOMPARE(other.gives(), Gives());
    }

    // A load that sits on the limit, whatever is given of it.
    void what_sits_on_the_limit_does_not_pump() {
        Budget budget;
        budget.keeper = true;
        const double limit = double(budget.frame_ms);
        for (const double effect_of_giving : {0.15, 0.4, 0.9}) {
            Keeper keeper;
            uint32_t noise = 1;
            const auto cost = [&](double, const Gives& gives) {
                noise = noise * 1664525u + 1013904223u;
                const double wobble = 1 + 0.06 * (double(noise >> 8) / 16777216.0 - 0.5);
                return limit * (1 - effect_of_giving * given_share(gives)) * wobble;
            };
            run_keeper(keeper, budget, 10, cost); // it settles
            const std::vector<int> changes = run_keeper(keeper, budget, 120, cost);
            QVERIFY2(changes.size() < 12, qPrintable(QString::number(changes.size())));
            QVERIFY(cost(0, keeper.gives()) < limit);
        }
    }

    // Fewer births are felt only as what lives dies: until then the next turn helps out.
    void what_is_far_over_the_limit_is_within_it_after_two_seconds() {
        Budget budget;
        budget.keeper = true;
        budget.births_turn = 1;
        budget.picture_turn = 2;
        budget.copies_turn = budget.smoke_turn = budget.cells_turn = budget.cleanup_turn =
            budget.pieces_turn = 0;
        const double limit = double(budget.frame_ms), lifetime_s = 1.6;
        Keeper keeper;
        double felt = 0;
        int frames = 0, over = 0;
        run_keeper(keeper, budget, 12, [&](double at_s, const Gives& gives) {
            felt += (double(gives[size_t(GiveWay::births)]) / most_given - felt) * frame_s / lifetime_s;
            const double picture = double(gives[size_t(GiveWay::picture)]) / most_given;
            const double ms = limit * 2.6 * (1 - 0.75 * felt) * (1 - 0.6 * picture);
            frames += at_s > 2 ? 1 : 0;
            over += at_s > 2 && ms > limit ? 1 : 0;
            return ms;
        });
        QVERIFY(frames > 500);
        QVERIFY2(over < 0.05 * frames, qPrintable(QString("%1 of %2").arg(over).arg(frames)));
    }

    // As when an effect begins: particles that live 2.3 s gather until there are two or three times too many.
    // The picture gives first, births only after it.
    void costs_that_climb_are_met_before_they_are_there() {
        Budget budget;
        budget.keeper = true;
        budget.copies_turn = budget.smoke_turn = budget.cleanup_turn = budget.pieces_turn = 0;
        const double limit = double(budget.frame_ms), lifetime_s = 2.3;
        for (const double times : {1.2, 2.0, 3.0}) {
            Keeper keeper;
            uint32_t noise = 7;
            std::deque<double> births; // of each frame, of those that live
            double alive = 0;
            int frames = 0, over = 0;
            run_keeper(keeper, budget, 12, [&](double at_s, const Gives& gives) {
                const double born = times * frame_s / lifetime_s *
                                    (1 - 0.75 * double(gives[size_t(GiveWay::births)]) / most_given);
                births.push_back(born);
                alive += born;
                if (double(births.size()) * frame_s > lifetime_s) {
                    alive -= births.front();
                    births.pop_front();
                }
                noise = noise * 1664525u + 1013904223u;
                const double wobble = 1 + 0.2 * (double(noise >> 8) / 16777216.0 - 0.5);
                const double side = 1 - 0.4 * double(gives[size_t(GiveWay::picture)]) / most_given;
                const double ms =
                    limit * (alive * (0.34 + 0.25 * side * side) + 0.27 * side * side) * wobble +
                    (at_s < 0.3 ? limit : 0); // first pictures take longer
                frames += at_s > 2 ? 1 : 0;
                over += at_s > 2 && ms > limit ? 1 : 0;
                return ms;
            });
            QVERIFY(frames > 500);
            QVERIFY2(over < 0.05 * frames,
                     qPrintable(QString("%1 times: %2 of %3").arg(times).arg(over).arg(frames)));
        }
    }

    void what_was_given_comes_back_once_there_is_room() {
        Budget budget;
        budget.keeper = true;
        const double limit = double(budget.frame_ms);
        Keeper keeper;
        const auto cost = [&](double at_s, const Gives& gives) {
            return (at_s < 5 ? 2.0 : 0.4) * limit * (1 - 0.7 * given_share(gives));
        };
        run_keeper(keeper, budget, 5, cost);
        QVERIFY(cost(0, keeper.gives()) < limit);
        QVERIFY(given_share(keeper.gives()) > 0.3);
        run_keeper(keeper, budget, 120,
                   [&](double at_s, const Gives& gives) { return cost(at_s + 5, gives); });
        QCOMPARE(keeper.gives(), Gives());
        // Switched off it gives nothing, at once.
        run_keeper(keeper, budget, 3, [&](double, const Gives&) { return 3 * limit; });
        QVERIFY(keeper.gives() != Gives());
        Effect effect = with_everything();
        effect.budget = budget;
        effect.budget.keeper = false;
        QCOMPARE(keeper.note(effect, frame_s, 3 * limit), Gives());
    }

    void figures_that_are_none_change_nothing() {
        Effect effect = with_everything();
        effect.budget.keeper = true;
        Keeper keeper;
        for (const double wrong : {std::nan(""), double(INFINITY), -double(INFINITY)}) {
            QCOMPARE(keeper.note(effect, frame_s, wrong), Gives());
            QCOMPARE(keeper.note(effect, wrong == wrong ? 0 : wrong, 1000), Gives());
        }
        keeper.note(effect, frame_s, 1);
        QCOMPARE(keeper.gives(), Gives());
    }
};

QTEST_APPLESS_MAIN(TestKeeper)
#include "tst_keeper.moc"
