// What the strip remembers of the last seconds.
#include "desktop/strip/cost_history.h"

#include "core/effect/edit.h"

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
        // The dearest first.
        QCOMPARE(history.samples().back().dearest.size(), size_t(2));
        QCOMPARE(history.samples().back().dearest[0].second, 5.0f);
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

    void a_first_reading_that_was_gone_back_to_is_a_sample() {
        CostHistory history;
        history.add(at(3, 4, 9)); // a window that looks at a run that has been played already
        QCOMPARE(history.samples().size(), size_t(1));
        QVERIFY(!history.gone_back_to());
    }
};

QTEST_APPLESS_MAIN(TestCostHistory)
#include "tst_cost_history.moc"
