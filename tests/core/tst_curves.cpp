#include "core/base/curve.h"

#include <QtTest>

using namespace ember;

class TestCurves : public QObject {
    Q_OBJECT

  private slots:
    void curve_passes_through_its_points() {
        const Curve curve = {{{0, 0.2f}, {0.3f, 1.5f}, {0.7f, 0.9f}, {1, 0}}};
        for (const Curve::Point& point : curve.points) {
            QVERIFY(std::abs(curve.at(point.time) - point.value) < 1e-6f);
        }
    }

    void curve_never_overshoots_its_points() {
        const Curve curve = {{{0, 0}, {0.1f, 0}, {0.2f, 1}, {0.9f, 1}, {1, 0.5f}}};
        for (int i = 0; i <= 1000; ++i) {
            const float value = curve.at(float(i) / 1000);
            QVERIFY(value >= 0 && value <= 1);
        }
    }

    void curve_is_constant_outside_its_points() {
        const Curve curve = {{{0.4f, 2}, {0.6f, 3}}};
        QCOMPARE(curve.at(0), 2.0f);
        QCOMPARE(curve.at(1), 3.0f);
    }

    void straight_points_give_a_straight_line() {
        const Curve curve = {{{0, 0}, {0.25f, 0.25f}, {0.8f, 0.8f}, {1, 1}}};
        for (int i = 0; i <= 100; ++i) {
            QVERIFY(std::abs(curve.at(float(i) / 100) - float(i) / 100) < 1e-5f);
        }
    }

    void ramp_mixes_in_linear_light() {
        const Ramp ramp = {{{0, {0, 0, 0, 1}}, {1, {4, 2, 1, 0}}}};
        QCOMPARE(ramp.at(0.5f), (Colour{2, 1, 0.5f, 0.5f}));
    }

    void table_holds_what_the_curve_says() {
        const Curve curve = {{{0, 0.1f}, {0.5f, 1}, {1, 0.3f}}};
        const LifeTable<float> table = sampled(curve);
        for (int i = 0; i <= 100; ++i) {
            const float share = float(i) / 100;
            QVERIFY(std::abs(table.at(share) - curve.at(share)) < 0.01f);
        }
    }
};

QTEST_APPLESS_MAIN(TestCurves)
#include "tst_curves.moc"
