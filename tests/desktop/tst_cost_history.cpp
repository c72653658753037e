// What the strip remembers of the last seconds.
#include "desktop/strip/cost_history.h"

#include "core/effect/edit.h"
#include "desktop/strip/budget_strip.h"

#include <QImage>
#include <QtTest>

using namespace ember;

namespace {

Readings at(double time_s, double step_ms = 4, double kept_to_s = 0) {
    Readings readings;
    readings.time_s = time_s;
    readings.kept_to_s = std::max(kept_to_s, time_s);
    readings.meters.forces_ms = step_ms;
    readings.draw.total_ms = 3;
    readings.meters.particles = size_t(time_s * 1000);
    return readings;
}

StepCost step_at(uint64_t step, double ms) {
    StepCost cost;
    cost.step = step;
    cost.time_s = double(step) / 60;
    cost.meters.forces_ms = ms;
    return cost;
}

CostHistory played(double until_s) {
    CostHistory history;
    for (int i = 0; double(i) / 60 <= until_s + 1e-9; ++i) {
        history.add(at(double(i) / 60));
    }
    return history;
}

} // namespace

class TestCostHistory : public QObject {
    Q_OBJECT

  private slots:
    void a_sample_is_the_sum_of_its_parts() {
        CostHistory history;
        Readings readings = at(1);
        readings.meters.births_ms = 0.5;
        readings.meters.collision_ms = 1;
        readings.meters.smoke_ms = 2;
        readings.meters.debris_ms = 8;
        history.add(readings);
        QCOMPARE(history.samples().back().frame_ms(), 4 + 0.5 + 1 + 2 + 8 + 3);
        QCOMPARE(history.samples().back().particles, 1000.0);
    }

    void what_breaks_and_what_is_full_is_noted_once() {
        CostHistory history;
        Effect effect = starter_effect();
        std::string wall;
        effect = with_new_element(effect, *find_type("breakable"), wall);
        const auto shared = std::make_shared<const Effect>(effect);
        const size_t index =
            effect.elements.size() == 0 ? 0 : size_t(find_element(effect, wall) - effect.elements.data());
        const auto add = [&](double time_s, size_t broken, uint64_t refused) {
            Readings readings = at(time_s);
            readings.effect = shared;
            readings.meters.elements.resize(effect.elements.size());
            readings.meters.elements[index].debris.faces_broken = broken;
            readings.meters.elements[0].refused_lately = refused;
            readings.meters.elements[0].ms = 3;
            readings.meters.elements[index].ms = 5;
            history.add(readings);
        };
        add(0, 4, 0); // it had broken before it was looked at
        QVERIFY(history.events().empty());
        add(0.1, 9, 0);
        add(0.2, 9, 7);
        add(0.3, 9, 7); // still full
        QCOMPARE(history.events().size(), size_t(2));
        QVERIFY(history.events()[0].words.contains("breaks") && history.events()[0].time_s == 0.1);
        QVERIFY(history.events()[1].words.contains("full"));
        add(0.4, 9, 0);
        add(0.5, 9, 3); // full again
        QCOMPARE(history.events().size(), size_t(3));
        QCOMPARE(history.samples().back().elements[index].step_ms, 5.0f);
        // Begun anew it is forgotten.
        add(0.05, 0, 0);
        QVERIFY(history.events().empty());
    }

    // While it is paused, the same moment is drawn again and again.
    void one_moment_has_one_sample_the_newest() {
        CostHistory history = played(1);
        const size_t before = history.samples().size();
        history.add(at(1, 9));
        history.add(at(1, 7));
        QCOMPARE(history.samples().size(), before);
        QCOMPARE(history.samples().back().forces_ms, 7.0);
        QVERIFY(!history.gone_back_to());
    }

    void going_back_keeps_what_was_played_later() {
        CostHistory history = played(2);
        const size_t before = history.samples().size();
        history.add(at(0.5, 50, 2));
        QCOMPARE(*history.gone_back_to(), 0.5);
        QCOMPARE(history.samples().size(), before);
        for (const CostSample& sample : history.samples()) {
            QCOMPARE(sample.forces_ms, 4.0); // stepping there is no cost of that moment
        }
        history.add(at(2));
        QVERIFY(!history.gone_back_to());
    }

    void playing_on_from_an_earlier_moment_forgets_what_was_after_it() {
        CostHistory history = played(2);
        history.add(at(0.5, 4, 2));
        history.add(at(0.5 + 1.0 / 60, 6)); // nothing later is kept any more
        QVERIFY(!history.gone_back_to());
        QVERIFY(std::abs(history.samples().back().time_s - 0.5 - 1.0 / 60) < 1e-9);
        double last = -1;
        for (const CostSample& sample : history.samples()) {
            QVERIFY(sample.time_s > last);
            last = sample.time_s;
        }
        QCOMPARE(history.samples().size(), size_t(32));
    }

    void starting_again_forgets_all() {
        CostHistory history = played(2);
        history.add(at(0));
        QCOMPARE(history.samples().size(), size_t(1));
    }

    void only_so_many_seconds_are_kept() {
        CostHistory history;
        for (int i = 0; i <= 400; ++i) {
            history.add(at(i));
        }
        QCOMPARE(history.samples().front().time_s, 400 - CostHistory::span_s);
        QCOMPARE(history.samples().back().time_s, 400.0);
        history.clear();
        QVERIFY(history.samples().empty());
    }

    // Every step is a sample, also those whose frame nobody drew.
    void steps_between_pictures_are_kept() {
        CostHistory history;
        std::vector<StepCost> steps;
        for (uint64_t i = 0; i < 6; ++i) {
            steps.push_back(step_at(i, i == 3 ? 40 : 4));
        }
        history.add(at(5.0 / 60), steps);
        QCOMPARE(history.samples().size(), size_t(6));
        QCOMPARE(history.samples()[3].frame_ms(), 43.0);
        QCOMPARE(history.samples()[4].frame_ms(), 7.0);
        // Made again, as after an edit, a step takes the place of what it was; what is later stays.
        history.add(at(2.0 / 60, 4, 5.0 / 60), {step_at(1, 9), step_at(2, 11)});
        QCOMPARE(history.samples().size(), size_t(6));
        QCOMPARE(history.samples()[1].forces_ms, 9.0);
        QCOMPARE(history.samples()[2].forces_ms, 11.0);
        QCOMPARE(history.samples()[3].forces_ms, 40.0);
        QCOMPARE(*history.gone_back_to(), 2.0 / 60);
    }

    void steps_that_are_newer_than_the_picture_are_kept() {
        CostHistory history;
        for (uint64_t shown = 0; shown < 60; shown += 12) { // while one is drawn, twelve more are made
            std::vector<StepCost> steps;
            for (uint64_t i = shown; i < shown + 12; ++i) {
                steps.push_back(step_at(i, 4));
            }
            history.add(at(double(shown) / 60), steps);
        }
        QCOMPARE(history.samples().size(), size_t(60));
        // One has gone back, and plays on from there: what was after it is gone.
        history.add(at(10.0 / 60), {step_at(10, 4), step_at(11, 4)});
        QCOMPARE(history.samples().size(), size_t(12));
    }

    void what_was_dearer_than_usual_says_why() {
        CostHistory history;
        Effect effect = starter_effect();
        std::string wall;
        effect = with_new_element(effect, *find_type("breakable"), wall);
        effect.budget.frame_ms = 20;
        const auto shared = std::make_shared<const Effect>(effect);
        const size_t index = size_t(find_element(effect, wall) - effect.elements.data());
        for (uint64_t i = 0; i <= 120; ++i) {
            StepCost step = step_at(i, 4);
            step.effect = shared;
            step.meters.elements.resize(effect.elements.size());
            ElementMeter& emitter = step.meters.elements[0];
            emitter.ms = 1;
            emitter.born = i * 10 + (i >= 90 ? 1800 : 0);
            ElementMeter& breakable = step.meters.elements[index];
            breakable.ms = i == 95 ? 30 : 0.5;
            breakable.debris.faces_broken = i >= 91 ? 43 : 0;
            breakable.debris.pieces = i >= 91 ? 12 : 1;
            step.meters.debris_ms = breakable.ms;
            step.gives[0] = i >= 93 ? 4 : 0;
            history.add(at(step.time_s), {step});
        }
        const auto why = history.why(95.0 / 60);
        QVERIFY(why);
        QCOMPARE(why->frame_ms, 4 + 30 + 3.0);
        QCOMPARE(why->parts[0].id, wall);
        QCOMPARE(why->parts[0].usual_ms, 0.5);
        QCOMPARE(why->parts[0].excess(), 29.5);
        QCOMPARE(why->passed, QStringList{"Frame 37.0 of 20.0 ms"});
        QVERIFY(why->before[0].contains("broke at 43 faces, 12 pieces"));
        QVERIFY(why->before.join(' ').contains("bore 2.1 k"));
        // A quiet moment has nothing to blame, and one that was never played has no why.
        const auto quiet = history.why(40.0 / 60);
        QVERIFY(quiet && quiet->passed.isEmpty() && quiet->parts[0].excess() <= 0);
        QVERIFY(!history.why(9));
        QVERIFY(!CostHistory().why(0));
    }

    void bursts_triggers_and_limits_that_are_passed_are_told_once() {
        CostHistory history;
        std::string bell;
        Effect effect = with_new_element(starter_effect(), *find_type("trigger"), bell);
        effect.budget.particles = 100;
        const size_t trigger = size_t(find_element(effect, bell) - effect.elements.data());
        const auto shared = std::make_shared<const Effect>(effect);
        for (uint64_t i = 0; i < 50; ++i) {
            StepCost step = step_at(i, 4);
            step.effect = shared;
            step.meters.elements.resize(effect.elements.size());
            step.meters.elements[0].bursts = i == 10 ? 1 : 0;
            step.meters.elements[trigger].fired = i == 20 ? 2 : 0;
            step.meters.particles = i >= 30 ? 150 : 50;
            history.add(at(step.time_s), {step});
        }
        QStringList words;
        for (const CostEvent& event : history.events()) {
            words << event.words;
        }
        const auto name = [&](size_t i) { return QString::fromStdString(effect.elements[i].name); };
        QCOMPARE(words,
                 (QStringList{name(0) + " bursts", name(trigger) + " goes off", "Particles over 100"}));
        QVERIFY(std::abs(history.events()[0].time_s - 10 / 60.0) < 1e-6);
    }

    void what_the_keeper_does_is_told_once() {
        CostHistory history;
        Effect effect = starter_effect();
        effect.budget.keeper = true;
        const auto shared = std::make_shared<const Effect>(effect);
        for (uint64_t i = 0; i < 40; ++i) {
            StepCost step = step_at(i, 4);
            step.effect = shared;
            step.gives[size_t(GiveWay::births)] = i >= 10 && i < 30 ? most_given : 0;
            history.add(at(step.time_s), {step});
        }
        QCOMPARE(history.events().size(), size_t(2));
        QCOMPARE(history.events()[0].words, QString("gives way: births at 25 %"));
        QCOMPARE(history.events()[1].words, QString("all is done again"));
    }

    // Behind the moment that is held what was measured before the last edit is hatched, until it has been
    // made anew.
    void what_was_before_the_last_edit_is_hatched() {
        const auto before = std::make_shared<const Effect>(starter_effect());
        const auto after = std::make_shared<const Effect>(with_seed(*before, 7));
        const auto steps_with = [](const EffectPtr& effect, uint64_t from) {
            std::vector<StepCost> steps;
            for (uint64_t step = from; step <= 4 * 60; ++step) {
                steps.push_back(step_at(step, 4));
                steps.back().effect = effect;
            }
            return steps;
        };
        const auto readings_of = [](const EffectPtr& effect, double time_s) {
            Readings readings = at(time_s, 4, 4);
            readings.effect = effect;
            return readings;
        };
        BudgetStrip strip;
        strip.resize(800, 130);
        strip.setEffect(before);
        strip.addReadings(readings_of(before, 4), steps_with(before, 1));
        strip.addReadings(readings_of(before, 2)); // gone back
        const auto picture = [&] { return strip.grab().toImage().convertToFormat(QImage::Format_RGB32); };
        const QImage plain = picture();
        strip.setEffect(after);
        strip.addReadings(readings_of(after, 2));
        const QImage stale = picture();
        int earlier = 0, later = 0;
        const int held = strip.momentPlace(2).x(), end = strip.momentPlace(4).x();
        for (int y = 0; y < plain.height(); ++y) {
            for (int x = 0; x < plain.width(); ++x) {
                const bool is_other = plain.pixel(x, y) != stale.pixel(x, y);
                (x >= held && x <= end ? later : earlier) += is_other ? 1 : 0;
            }
        }
        QCOMPARE(earlier, 0);
        QVERIFY2(later > (end - held) * 5, qPrintable(QString::number(later)));
        strip.addReadings(readings_of(after, 2), steps_with(after, 120));
        QVERIFY(picture() == plain);
    }

    void a_first_reading_that_was_gone_back_to_is_a_sample() {
        CostHistory history;
        history.add(at(3, 4, 9)); // a window that looks at a run that has been played already
        QCOMPARE(history.samples().size(), size_t(1));
        QVERIFY(!history.gone_back_to());
    }
};

QTEST_MAIN(TestCostHistory)
#include "tst_cost_history.moc"
