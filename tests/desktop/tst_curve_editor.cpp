// Curves and ramps, drawn with real mouse and keys in the window.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "desktop/controls/colour_editor.h"
#include "desktop/controls/number_field.h"
#include "desktop/curves/curve_editor.h"
#include "desktop/curves/ramp_editor.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/life_preview.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/view/live_view.h"
#include "desktop/workbench/picture_maker.h"

#include <QClipboard>
#include <QComboBox>
#include <QPushButton>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QtTest>

using namespace ember;

class TestCurveEditor : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    const Effect& effect() { return *window_->workbench().document().effect(); }
    const Look& look() { return effect().looks[0]; }

    ParameterRow* row(const std::string& holder, const std::string& key) {
        ParameterRow* found = window_->detail()->row(holder, key);
        Q_ASSERT(found != nullptr);
        return found;
    }
    template <class Editor>
    Editor* open(const std::string& holder, const std::string& key) {
        ParameterRow* found = row(holder, key);
        window_->detail()->openEditor(key);
        // Until it has its size and is scrolled to.
        auto* editor = found->findChild<Editor*>();
        const auto is_seen = [&] {
            return !editor->rect().isEmpty() && editor->visibleRegion().boundingRect() == editor->rect();
        };
        return QTest::qWaitFor(is_seen, 120000) ? editor : nullptr;
    }
    CurvePlot* sizeCurve() { return open<CurveEditor>("soft-dots", "size_over_life")->plot(); }

    static void drag(QWidget* widget, QPointF from, QPointF to, Qt::KeyboardModifiers keys = {}) {
        QTest::mousePress(widget, Qt::LeftButton, keys, from.toPoint());
        for (int i = 1; i <= 4; ++i) {
            const QPoint place = (from + (to - from) * i / 4).toPoint();
            QMouseEvent move(QEvent::MouseMove, place, widget->mapToGlobal(place), Qt::NoButton,
                             Qt::LeftButton, keys);
            QApplication::sendEvent(widget, &move);
        }
        QTest::mouseRelease(widget, Qt::LeftButton, keys, to.toPoint());
    }

    // How wide a dot is drawn at an age, from the light that it sends.
    double drawnSize(float age_share) {
        Effect effect = this->effect();
        effect.elements.resize(1);
        effect.stage.bloom = 0;
        effect.stage.sky_strength = effect.stage.sun_strength = 0;
        effect.stage.sky_top = effect.stage.sky_horizon = {0, 0, 0, 1};
        effect.looks[0].colour_over_life = {};
        effect.looks[0].blend = Blend::add;
        effect.looks[0].surface_fade = 0;
        Frame frame;
        frame.effect = std::make_shared<const Effect>(effect);
        frame.sources.resize(1);
        frame.sources[0].largest_size = 2;
        frame.sources[0].add({{0, 0, 0}}, age_share, 1);
        Renderer renderer;
        Picture picture;
        renderer.draw(frame, effect, {{0, 0, 0}, 4, 0, 0, 40}, 400, 400, picture);
        const LightPlanes light = renderer.light();
        double sum = 0;
        for (int y = 0; y < 400; ++y) {
            for (int x = 0; x < 400; ++x) {
                sum += double(light.red[size_t(y * light.stride + x)]);
            }
        }
        return std::sqrt(sum);
    }

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = driver::shown_window(folder_->path());
        QVERIFY(window_ != nullptr);
        QSignalSpy shown(window_.get(), &MainWindow::pictureShown);
        QVERIFY(shown.wait(120000));
        window_->select("emitter");
    }
    void cleanup() {
        window_->workbench().document().reset(effect(), {});
        window_.reset();
    }

    void curve_of_five_points_is_drawn_and_sizes_follow_it() {
        CurvePlot* plot = sizeCurve();
        plot->replace({{{0, 1}}});
        window_->workbench().document().endGesture();
        // The one point that there is goes to the start; four more are pressed onto the line and dragged.
        const float times[] = {0, 0.2f, 0.45f, 0.7f, 1};
        const float values[] = {0.2f, 0.9f, 0.5f, 1, 0.3f};
        drag(plot, plot->placeOf(0, 1), plot->placeOf(0, values[0]));
        for (int i = 1; i < 5; ++i) {
            drag(plot, plot->placeOf(times[i] - (i == 4 ? 0.01f : 0), plot->curve().at(times[i])),
                 plot->placeOf(times[i], values[i]));
        }
        const Curve& curve = look().size_over_life;
        QCOMPARE(curve.points.size(), size_t(5));
        for (int i = 0; i < 5; ++i) {
            QVERIFY(std::abs(curve.points[size_t(i)].value - values[i]) < 0.01f);
            QVERIFY(std::abs(curve.points[size_t(i)].time - times[i]) < 0.01f);
        }
        const double full = drawnSize(0.7f) / double(curve.at(0.7f)); // of size 1
        for (const float age : {0.1f, 0.2f, 0.33f, 0.45f, 0.58f, 0.9f}) {
            QVERIFY(std::abs(drawnSize(age) / full - double(curve.at(age))) < 0.01);
        }
    }

    void a_drag_is_one_undo_and_escape_takes_it_back() {
        CurvePlot* plot = sizeCurve();
        plot->replace({{{0, 0}, {0.5f, 0.5f}, {1, 0}}});
        window_->workbench().document().endGesture();
        const Curve before = look().size_over_life;
        drag(plot, plot->placeOf(0.5f, 0.5f), plot->placeOf(0.7f, 0.9f));
        QVERIFY(std::abs(look().size_over_life.points[1].time - 0.7f) < 0.01f);
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(look().size_over_life, before);

        QTest::mousePress(plot, Qt::LeftButton, {}, plot->placeOf(0.5f, 0.5f).toPoint());
        QTest::mouseMove(plot, plot->placeOf(0.3f, 0.2f).toPoint());
        const QPointF there = plot->placeOf(0.3f, 0.2f);
        QMouseEvent move(QEvent::MouseMove, there, plot->mapToGlobal(there), Qt::NoButton, Qt::LeftButton,
                         {});
        QApplication::sendEvent(plot, &move);
        QVERIFY(look().size_over_life != before);
        QTest::keyClick(plot, Qt::Key_Escape);
        QTest::mouseRelease(plot, Qt::LeftButton, {}, plot->placeOf(0.3f, 0.2f).toPoint());
        QCOMPARE(look().size_over_life, before);
    }

    void several_points_are_framed_moved_and_stretched() {
        CurvePlot* plot = sizeCurve();
        plot->replace({{{0, 0}, {0.3f, 0.4f}, {0.4f, 0.4f}, {0.5f, 0.4f}, {1, 0}}});
        drag(plot, plot->placeOf(0.2f, 0.75f), plot->placeOf(0.6f, 0.1f));
        QCOMPARE(plot->selection(), (PointSet{1, 2, 3}));
        drag(plot, plot->placeOf(0.4f, 0.4f), plot->placeOf(0.5f, 0.6f));
        QVERIFY(std::abs(look().size_over_life.points[1].time - 0.4f) < 0.01f);
        QVERIFY(std::abs(look().size_over_life.points[3].time - 0.6f) < 0.01f);
        QVERIFY(std::abs(look().size_over_life.points[3].value - 0.6f) < 0.01f);
        QCOMPARE(look().size_over_life.points[4], (Curve::Point{1, 0}));

        auto* editor = row("soft-dots", "size_over_life")->findChild<CurveEditor*>();
        NumberField* time = editor->timeField();
        time->setFocus();
        time->selectAll();
        QTest::keyClicks(time, "0.5");
        QTest::keyClick(time, Qt::Key_Return);
        const auto& points = look().size_over_life.points;
        QVERIFY(std::abs((points[3].time - points[1].time) - 0.1f) < 0.01f);
    }

    void handles_overshoot_break_and_go_back_to_smooth() {
        CurvePlot* plot = sizeCurve();
        plot->replace({{{0, 0}, {0.5f, 1}, {1, 1}}});
        QTest::mouseDClick(plot, Qt::LeftButton, {}, plot->placeOf(0.5f, 1).toPoint());
        QVERIFY(look().size_over_life.points[1].bend == Curve::Bend::handles);
        drag(plot, plot->handlePlace(1, true), plot->placeOf(0.7f, 1.4f));
        const Curve joined = look().size_over_life;
        float highest = 0;
        for (int i = 0; i <= 100; ++i) {
            highest = std::max(highest, joined.at(float(i) / 100));
        }
        QVERIFY(highest > 1.1f);
        const auto slope = [](float value, float time) { return value / time; };
        const Curve::Point& p = joined.points[1];
        QVERIFY(std::abs(slope(p.out_value, p.out_time) - slope(p.in_value, p.in_time)) < 0.05f);

        drag(plot, plot->handlePlace(1, true), plot->placeOf(0.7f, 0.6f), Qt::AltModifier);
        const Curve::Point broken = look().size_over_life.points[1];
        QCOMPARE(broken.in_value, p.in_value);
        QVERIFY(broken.out_value < 0);
        QTest::mouseDClick(plot, Qt::LeftButton, {}, plot->placeOf(0.5f, 1).toPoint());
        QVERIFY(look().size_over_life.points[1].bend == Curve::Bend::smooth);
    }

    void keys_add_walk_nudge_and_delete() {
        CurvePlot* plot = sizeCurve();
        plot->replace({{{0, 1}, {1, 0}}});
        plot->setFocus();
        QTest::keyClick(plot, Qt::Key_PageDown);
        QCOMPARE(plot->selection(), PointSet({0}));
        QTest::keyClick(plot, Qt::Key_Insert);
        QCOMPARE(look().size_over_life.points.size(), size_t(3));
        QCOMPARE(plot->selection(), PointSet({1}));
        QTest::keyClick(plot, Qt::Key_Right);
        QVERIFY(std::abs(look().size_over_life.points[1].time - 0.51f) < 1e-4f);
        QTest::keyClick(plot, Qt::Key_Left, Qt::ShiftModifier);
        QVERIFY(std::abs(look().size_over_life.points[1].time - 0.41f) < 1e-4f);
        QTest::keyClick(plot, Qt::Key_Up);
        QVERIFY(look().size_over_life.points[1].value > 0.5f);
        QTest::keyClick(plot, Qt::Key_Delete);
        QCOMPARE(look().size_over_life.points.size(), size_t(2));
        QTest::keyClick(plot, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClick(plot, Qt::Key_Delete);
        QCOMPARE(look().size_over_life.points.size(), size_t(1));
    }

    void curves_are_copied_between_parameters_and_nonsense_is_refused() {
        CurvePlot* from = sizeCurve();
        from->replace({{{0, 0.1f}, {0.25f, 1}, {1, 0.2f}}});
        QTest::keyClick(from, Qt::Key_C, Qt::ControlModifier);
        CurvePlot* to = open<CurveEditor>("soft-dots", "opacity_over_life")->plot();
        QTest::keyClick(to, Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(look().opacity_over_life, look().size_over_life);

        QApplication::clipboard()->setText("[[0, 1e40], [\"a\"]]");
        QTest::keyClick(to, Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(look().opacity_over_life, look().size_over_life);
        // Beyond what an opacity may be.
        QApplication::clipboard()->setText("[[0, 7], [1, 0]]");
        QTest::keyClick(to, Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(look().opacity_over_life, look().size_over_life);
    }

    void spread_of_live_particles_reaches_the_plot() {
        sizeCurve();
        QTRY_VERIFY(std::accumulate(window_->workbench().pictureMaker().shot().readings.spread.begin(),
                                    window_->workbench().pictureMaker().shot().readings.spread.end(),
                                    0.0f) > 50);
        const Readings& readings = window_->workbench().pictureMaker().shot().readings;
        QCOMPARE(size_t(std::accumulate(readings.spread.begin(), readings.spread.end(), 0.0f)),
                 readings.find("emitter")->live);
        window_->select("stage");
        QTRY_COMPARE(window_->workbench().pictureMaker().shot().readings.spread, AgeSpread{});
    }

    void ramp_stops_are_added_moved_lit_and_removed() {
        auto* editor = open<RampEditor>("soft-dots", "colour_over_life");
        RampBand* band = editor->band();
        const auto count = [this] { return look().colour_over_life.stops.size(); };
        const size_t first = count();
        const QPoint middle(band->width() * 4 / 10, 20);
        drag(band, middle, middle);
        QCOMPARE(count(), first + 1);
        const size_t stop = band->selected();
        drag(band, band->stopPlace(stop), band->stopPlace(stop) + QPointF(20, 0));
        QVERIFY(look().colour_over_life.stops[stop].time > 0.43f);

        const auto type = [](NumberField* field, const char* text) {
            field->setFocus();
            field->selectAll();
            QTest::keyClicks(field, text);
            QTest::keyClick(field, Qt::Key_Return);
        };
        type(editor->colour()->strengthField(), "5");
        type(editor->opacityField(), "0.25");
        const Colour lit = look().colour_over_life.stops[stop].colour;
        QVERIFY(std::abs(std::max({lit.red, lit.green, lit.blue}) - 5) < 1e-4f);
        QCOMPARE(lit.alpha, 0.25f);

        band->setFocus();
        QTest::keyClick(band, Qt::Key_Delete);
        QCOMPARE(count(), first);
        for (int i = 0; i < 10; ++i) {
            QTest::keyClick(band, Qt::Key_Delete);
        }
        QCOMPARE(count(), size_t(1));
    }

    void tint_is_picked_from_the_picture() {
        auto* editor = open<RampEditor>("soft-dots", "colour_over_life");
        QTest::mouseClick(editor->colour()->pickButton(), Qt::LeftButton);
        const Camera before = window_->view()->camera();
        const QPoint place(30, 30);
        const Picture& picture = window_->workbench().pictureMaker().shot().picture;
        const QColor seen(QRgb(picture.pixels[size_t(place.y() * picture.width + place.x())]));
        QTest::mouseClick(window_->view(), Qt::LeftButton, {}, place);
        const Colour taken = look().colour_over_life.stops[editor->band()->selected()].colour;
        const QColor shown = screen_colour(taken);
        QVERIFY(std::abs(shown.hueF() - seen.hueF()) < 0.1);
        QCOMPARE(window_->view()->camera(), before);
    }

    void preview_opens_and_closes_by_keyboard() {
        auto* preview = row("soft-dots", "size_over_life")->findChild<LifePreview*>();
        preview->setFocus();
        QTest::keyClick(preview, Qt::Key_Space);
        auto* editor = row("soft-dots", "size_over_life")->findChild<CurveEditor*>();
        QVERIFY(editor != nullptr && editor->isVisible());
        QTest::keyClick(preview, Qt::Key_Space);
        QVERIFY(!editor->isVisible());
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    theme::apply(application);
    TestCurveEditor test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_curve_editor.moc"
