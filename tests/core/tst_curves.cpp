#include "core/base/curve_edit.h"

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

    void added_points_lie_on_the_curve() {
        Curve curve = {{{0, 0}, {0.5f, 1}, {1, 0}}};
        const float before = curve.at(0.3f);
        QCOMPARE(add_point(curve, 0.3f), std::optional<size_t>(1));
        QCOMPARE(curve.points[1].value, before);
        QVERIFY(!add_point(curve, 0.3005f));                    // too close
        QCOMPARE(add_point(curve, 7), std::optional<size_t>()); // held to 1, where there is one
        for (int i = 0; i < 200; ++i) {
            add_point(curve, float(i) / 200 + 0.0021f);
        }
        QCOMPARE(curve.points.size(), most_curve_points);
    }

    // Whatever is asked for, the order of time and the limits hold.
    void shifted_points_stay_in_order_and_within_limits() {
        const Curve curve = {{{0, 0}, {0.2f, 0.5f}, {0.4f, 0.7f}, {0.6f, 0.2f}, {1, 1}}};
        for (const PointSet& points :
             {PointSet{0}, PointSet{2}, PointSet{1, 3}, PointSet{0, 4}, PointSet{0, 1, 2, 3, 4}}) {
            for (const float time : {-3.0f, -0.15f, 0.0f, 0.1f, 0.19f, 5.0f}) {
                for (const float value : {-9.0f, -0.1f, 0.3f, 9.0f}) {
                    const Curve moved = shifted(curve, points, time, value, {0, 1});
                    for (size_t i = 0; i < moved.points.size(); ++i) {
                        const Curve::Point& p = moved.points[i];
                        QVERIFY(p.time >= 0 && p.time <= 1 && p.value >= 0 && p.value <= 1);
                        QVERIFY(i == 0 || p.time > moved.points[i - 1].time);
                    }
                    // They keep their shape.
                    const size_t a = points.front(), b = points.back();
                    QVERIFY(std::abs((moved.points[b].time - moved.points[a].time) -
                                     (curve.points[b].time - curve.points[a].time)) < 1e-5f);
                }
            }
        }
    }

    void stretching_goes_about_the_first_point_and_never_out_of_order() {
        const Curve curve = {{{0.2f, 0.5f}, {0.4f, 1}, {0.9f, 0.1f}}};
        const Curve stretched = scaled(curve, {0, 1}, 2, 0.5f, {0, 2});
        QCOMPARE(stretched.points[0].time, 0.2f);
        QVERIFY(std::abs(stretched.points[1].time - 0.6f) < 1e-6f);
        QCOMPARE(stretched.points[1].value, 0.5f);
        QCOMPARE(scaled(curve, {0, 1}, 10, 1, {0, 2}), curve);
        QCOMPARE(scaled(curve, {0, 1, 2}, -1, 1, {0, 2}), curve);
        QCOMPARE(scaled(curve, {0, 1, 2}, 0, 1, {0, 2}), curve);
    }

    // Handles and slopes begin as the curve already ran.
    void another_bend_keeps_the_run() {
        const Curve curve = {{{0, 0}, {0.25f, 0.6f}, {0.7f, 0.8f}, {1, 0.1f}}};
        for (const Curve::Bend bend : {Curve::Bend::slopes, Curve::Bend::handles}) {
            const Curve other = bent(curve, {1, 2}, bend);
            for (int i = 0; i <= 100; ++i) {
                QVERIFY(std::abs(other.at(float(i) / 100) - curve.at(float(i) / 100)) < 0.005f);
            }
        }
    }

    void last_point_is_never_removed() {
        const Curve curve = {{{0, 3}, {1, 4}}};
        QCOMPARE(without_points(curve, {0, 1}).points.size(), size_t(1));
        QCOMPARE(without_points(curve, {0}).points[0].value, 4.0f);
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
