// Handles in the live view, dragged with a real mouse.
#include "window_driver.h"

#include "../core/sample_effects.h"

#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/view/force_lens.h"
#include "desktop/view/handles.h"
#include "desktop/view/live_view.h"
#include "desktop/workbench/picture_maker.h"

#include <QApplication>
#include <QPainter>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QtTest>

using namespace ember;
using namespace ember::sample;

class TestHandles : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    LiveView* view() { return window_->view(); }
    const Effect& effect() { return *window_->workbench().document().effect(); }
    template <class Body>
    const Body& body(const char* id) {
        return std::get<Body>(find_element(effect(), id)->body);
    }

    Handle handle(const std::string& id, const std::string& key, int part,
                  Handle::Kind kind = Handle::Kind::along) {
        for (const Handle& each :
             handles_of(effect(), id, window_->workbench().pictureMaker().shot().readings.placements)) {
            if (each.key == key && each.part == part && each.kind == kind) {
                return each;
            }
        }
        qFatal("no such handle");
    }
    QPoint pixelOf(const Handle& handle) {
        return on_picture(knob_of(handle, view()->camera(), view()->size()), view()->camera(), view()->size())
            ->toPoint();
    }
    void move(QPoint to, Qt::KeyboardModifiers keys = {}) {
        QMouseEvent event(QEvent::MouseMove, to, view()->mapToGlobal(to), Qt::NoButton, Qt::LeftButton, keys);
        QApplication::sendEvent(view(), &event);
    }
    void drag(QPoint from, QPoint to, Qt::KeyboardModifiers keys = {}) {
        QTest::mousePress(view(), Qt::LeftButton, keys, from);
        for (int i = 1; i <= 4; ++i) {
            move(from + (to - from) * i / 4, keys);
        }
        QTest::mouseRelease(view(), Qt::LeftButton, keys, to);
    }
    // To where the handle would be so many metres further along its axis.
    QPoint further(const Handle& handle, float metres) {
        const auto at = [&](float m) {
            return *on_picture(handle.place + handle.axis * m, view()->camera(), view()->size());
        };
        return pixelOf(handle) + (at(metres) - at(0)).toPoint();
    }

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = driver::shown_window(folder_->path());
        QVERIFY(window_ != nullptr);
        Emitter emitter;
        emitter.look = "soft-dots";
        emitter.shape = BirthShape::box;
        emitter.position = {0, 1, 0};
        emitter.size = {1, 1, 1};
        Wind wind;
        wind.reach = ReachShape::ball;
        wind.reach_position = {0.5f, 1, 0};
        wind.reach_size = {1, 1, 1};
        wind.fade_distance = 0.5f;
        Box box;
        box.position = {-1.5f, 0.5f, 0};
        window_->workbench().document().reset(effect_of(emitter, {wind, box}), {});
        window_->workbench().player().pause();
        // Until the picture is of this effect.
        QTRY_COMPARE(window_->workbench().pictureMaker().shot().readings.placements.size(), size_t(3));
        QTRY_VERIFY(window_->workbench().pictureMaker().shot().readings.effect ==
                    window_->workbench().document().effect());
        window_->select("e");
    }
    void cleanup() {
        window_->workbench().document().reset(effect(), {});
        window_.reset();
    }

    void emitter_is_moved_along_an_axis_and_undone_at_once() {
        const Handle y = handle("e", "position", 1);
        drag(pixelOf(y), further(y, 0.6f));
        const Vec3 moved = body<Emitter>("e").position;
        QVERIFY(std::abs(moved.y - 1.6f) < 0.05f);
        QCOMPARE(moved.x, 0.0f);
        QCOMPARE(moved.z, 0.0f);
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(body<Emitter>("e").position, (Vec3{0, 1, 0}));
    }

    void middle_moves_across_the_view_and_the_camera_stays() {
        const Camera before = view()->camera();
        const Handle middle = handle("e", "position", 0, Handle::Kind::move);
        const QPoint from = pixelOf(middle);
        drag(from, from + QPoint(60, -40));
        const auto now = on_picture(body<Emitter>("e").position, view()->camera(), view()->size());
        QVERIFY(std::hypot(now->x() - from.x() - 60, now->y() - from.y() + 40) < 2);
        QCOMPARE(view()->camera(), before);
    }

    void fade_of_a_reach_is_dragged() {
        window_->select("i1");
        const Handle fade = handle("i1", "fade_distance", 0);
        drag(pixelOf(fade), further(fade, 0.4f));
        QVERIFY(std::abs(body<Wind>("i1").fade_distance - 0.9f) < 0.04f);
        // The reach itself keeps its extent; its own handle changes that, by twice the way of one side.
        QCOMPARE(body<Wind>("i1").reach_size.x, 1.0f);
        const Handle extent = handle("i1", "reach_size", 0);
        drag(pixelOf(extent), further(extent, 0.25f));
        QVERIFY(std::abs(body<Wind>("i1").reach_size.x - 1.5f) < 0.06f);
        // Inwards it ends at the least that it can be.
        const Handle again = handle("i1", "fade_distance", 0);
        drag(pixelOf(again), further(again, -50));
        QCOMPARE(body<Wind>("i1").fade_distance, 0.0f);
    }

    void control_snaps_and_escape_takes_back() {
        const Handle size = handle("e", "size", 0);
        drag(pixelOf(size), further(size, 0.33f), Qt::ControlModifier);
        const float x = body<Emitter>("e").size.x;
        QVERIFY(x > 1.3f && std::abs(x * 10 - std::round(x * 10)) < 1e-4f);

        const Effect before = effect();
        const Handle y = handle("e", "position", 1);
        const QPoint from = pixelOf(y);
        QTest::mousePress(view(), Qt::LeftButton, {}, from);
        move(from + QPoint(0, -50));
        QVERIFY(body<Emitter>("e").position.y > 1.1f);
        QTest::keyClick(view(), Qt::Key_Escape);
        QCOMPARE(effect(), before);
        move(from + QPoint(0, -90));
        QTest::mouseRelease(view(), Qt::LeftButton, {}, from + QPoint(0, -90));
        QCOMPARE(effect(), before);
    }

    void direction_is_aimed() {
        const Handle aim = handle("e", "direction", 0, Handle::Kind::aim);
        const QPoint from = pixelOf(aim);
        drag(from, from + QPoint(45, 30));
        const Vec3 direction = body<Emitter>("e").direction;
        QVERIFY(std::abs(length(direction) - 1) < 0.01f);
        QVERIFY(dot(direction, axes_of(view()->camera()).right) > 0.4f);
    }

    void pressing_a_place_selects_what_stands_there() {
        const auto box = on_picture(body<Box>("i2").position, view()->camera(), view()->size());
        QTest::mouseClick(view(), Qt::LeftButton, {}, box->toPoint());
        QCOMPARE(window_->workbench().selection(), std::string("i2"));
    }

    void hidden_handles_are_not_taken() {
        QTest::keyClick(window_.get(), Qt::Key_K);
        QVERIFY(!view()->handlesShown());
        const Handle y = handle("e", "position", 1);
        const Camera before = view()->camera();
        drag(pixelOf(y), pixelOf(y) + QPoint(30, 30));
        QCOMPARE(body<Emitter>("e").position, (Vec3{0, 1, 0}));
        QVERIFY(view()->camera() != before);
    }

    void points_of_a_path_are_dragged_added_and_taken_away() {
        PathMover mover;
        mover.path = PathKind::points;
        mover.position = {0, 1, 0};
        mover.points = {{-1, 0, 0}, {0, 0.5f, 0}, {1, 0, 0}};
        Effect with_path = effect();
        with_path.elements.push_back({.id = "m", .name = "Mover", .body = mover});
        window_->workbench().document().reset(with_path, {});
        QTRY_VERIFY(window_->workbench().pictureMaker().shot().readings.effect ==
                    window_->workbench().document().effect());
        window_->select("m");
        const auto point = [&](int number) {
            for (const Handle& each :
                 handles_of(effect(), "m", window_->workbench().pictureMaker().shot().readings.placements)) {
                if (each.point == number) {
                    return each;
                }
            }
            qFatal("no such point");
        };
        // It stands where the path passes, whatever the mover's own place along it is.
        QVERIFY(length(point(0).place - Vec3{-1, 1, 0}) < 1e-4f);
        const QPoint from = pixelOf(point(2));
        drag(from, from + QPoint(30, -40));
        const Vec3 moved = body<PathMover>("m").points[2];
        const auto now = on_picture(moved + Vec3{0, 1, 0}, view()->camera(), view()->size());
        QVERIFY(std::hypot(now->x() - from.x() - 30, now->y() - from.y() + 40) < 2);
        QCOMPARE(body<PathMover>("m").points[1], (Vec3{0, 0.5f, 0}));
        QVERIFY(figure_of(effect(), "m", point(2)).startsWith("Points 3: "));

        QTest::mouseDClick(view(), Qt::LeftButton, {}, pixelOf(point(0)));
        QCOMPARE(body<PathMover>("m").points.size(), size_t(4));
        QCOMPARE(body<PathMover>("m").points[1], (Vec3{-0.5f, 0.25f, 0}));
        for (int i = 0; i < 3; ++i) {
            QTest::mouseDClick(view(), Qt::LeftButton, Qt::ShiftModifier, pixelOf(point(1)));
        }
        QCOMPARE(body<PathMover>("m").points.size(), size_t(2)); // a path keeps two
    }

    void what_rides_is_moved_within_its_carrier() {
        Effect riding = effect();
        Orbit turned;
        turned.radius = 0;
        turned.turn = {0, 90, 0};
        riding.elements.push_back({.id = "m", .name = "Mover", .body = turned});
        std::get<Emitter>(riding.elements[0].body).rides_on = "m";
        window_->workbench().document().reset(riding, {});
        QTRY_VERIFY(window_->workbench().pictureMaker().shot().readings.effect ==
                    window_->workbench().document().effect());
        window_->select("e");
        const auto& placements = window_->workbench().pictureMaker().shot().readings.placements;
        const Handle x = handle("e", "position", 0);
        // Its x points where the carrier's x does.
        QVERIFY(length(x.axis - placements[3].axes.x) < 1e-3f);
        const Vec3 before = body<Emitter>("e").position;
        const Effect moved = dragged(effect(), "e", x, {0, 0}, QPointF(further(x, 0.5f) - pixelOf(x)), false,
                                     view()->camera(), view()->size());
        const Vec3 after = std::get<Emitter>(moved.elements[0].body).position;
        QVERIFY(std::abs(after.x - before.x - 0.5f) < 0.06f);
        QCOMPARE(after.z, before.z);
    }

    // Pale over dark: seen on snow, at night and on sparks.
    void what_is_chosen_is_seen_on_any_ground() {
        for (const QColor& ground : {QColor(Qt::white), QColor(Qt::black), theme::ember}) {
            QImage image(view()->size(), QImage::Format_RGB32);
            image.fill(ground);
            const QImage before = image;
            QPainter painter(&image);
            paint_handles(painter, effect(), window_->workbench().selection(),
                          window_->workbench().pictureMaker().shot().readings.placements, -1,
                          view()->camera(), view()->size());
            painter.end();
            int pale = 0, dark = 0;
            for (int y = 0; y < image.height(); ++y) {
                for (int x = 0; x < image.width(); ++x) {
                    if (image.pixel(x, y) != before.pixel(x, y)) {
                        pale += qGreen(image.pixel(x, y)) > 200 ? 1 : 0;
                        dark += qGreen(image.pixel(x, y)) < 60 ? 1 : 0;
                    }
                }
            }
            QVERIFY2(ground == Qt::white || pale > 100, qPrintable(QString::number(pale)));
            QVERIFY2(ground == Qt::black || dark > 100, qPrintable(QString::number(dark)));
        }
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    theme::apply(application);
    TestHandles test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_handles.moc"
