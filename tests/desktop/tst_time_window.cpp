// Time in the window: spans that loop, moments that have not been played, keys over time and takes, by mouse
// and keys.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/track.h"
#include "desktop/controls/colour_editor.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/value_slider.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/files.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/strip/track_lanes.h"
#include "desktop/takes/takes_dialog.h"
#include "desktop/theme.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/live_view.h"

#include <QListWidget>
#include <QPushButton>
#include <QStatusBar>
#include <QtTest>

using namespace ember;

class TestTimeWindow : public driver::WindowTest {
    Q_OBJECT

    BudgetStrip* strip() { return window_->strip(); }
    ParameterRow* row(const char* holder, const char* key) { return window_->detail()->row(holder, key); }
    void key(int key, Qt::KeyboardModifiers keys = {}) {
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get(), 120000));
        QTest::keyClick(window_.get(), Qt::Key(key), keys);
    }
    void drag(QWidget* widget, QPoint from, QPoint to, Qt::KeyboardModifiers keys = {}) {
        QTest::mousePress(widget, Qt::LeftButton, keys, from);
        for (int i = 1; i <= 4; ++i) {
            const QPoint at = from + (to - from) * i / 4;
            QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                             keys);
            QApplication::sendEvent(widget, &move);
        }
        QTest::mouseRelease(widget, Qt::LeftButton, keys, to);
    }
    std::vector<Curve::Point> keysOf(const char* holder, const char* parameter) {
        const Track* track = find_track(effect(), holder, parameter);
        return track != nullptr ? track->curves[0].points : std::vector<Curve::Point>();
    }
    // Paused, at a moment that has been stepped to.
    void standAt(double time_s) {
        bench().setPlaying(false);
        bench().player().go_to(time_s);
        QTRY_VERIFY(std::abs(readings().time_s - time_s) < 1e-6);
    }

  private slots:
    void init() {
        openWindow();
        window_->select("emitter");
    }
    void cleanup() {
        bench().document().reset(effect(), {});
        window_.reset();
    }

    void a_moment_that_was_not_played_is_stepped_to() {
        standAt(0.5);
        // By a press on the strip, far to the right of what has been played.
        QTest::mouseClick(strip(), Qt::LeftButton, {}, strip()->momentPlace(6));
        QTRY_VERIFY(std::abs(readings().time_s - 6) < 0.05);
        QVERIFY(!bench().isPlaying());
        QCOMPARE(readings().kept_to_s, readings().time_s);
        // And back into what has been played since.
        QTest::mouseClick(strip(), Qt::LeftButton, {}, strip()->momentPlace(2));
        QTRY_VERIFY(std::abs(readings().time_s - 2) < 0.05);
    }

    void a_span_is_marked_and_loops() {
        standAt(1.5);
        drag(strip(), strip()->axisPlace(0.5), strip()->axisPlace(1.0));
        QVERIFY(strip()->span().has_value());
        const auto [from, to] = *strip()->span();
        QVERIFY(std::abs(from - 0.5) < 0.05 && std::abs(to - 1) < 0.05);
        key(Qt::Key_J);
        standAt(0.7);
        QSignalSpy shown(&bench(), &Workbench::shown);
        bench().setPlaying(true);
        // It turns back at the span's end, again and again.
        int turns = 0;
        double before = readings().time_s, latest = 0;
        for (QDeadlineTimer left(120000); turns < 2 && !left.hasExpired();) {
            shown.wait(1000);
            turns += readings().time_s < before ? 1 : 0;
            before = readings().time_s;
            latest = std::max(latest, before);
        }
        QCOMPARE(turns, 2);
        QVERIFY(latest <= to + 0.02);
        // Anew: from the start, with what has been edited since.
        key(Qt::Key_J, Qt::ShiftModifier);
        turns = 0;
        for (QDeadlineTimer left(120000); turns < 1 && !left.hasExpired();) {
            shown.wait(1000);
            turns += readings().time_s < before - 0.01 ? 1 : 0;
            before = readings().time_s;
        }
        QCOMPARE(turns, 1);
        // Without the mark it goes on.
        key(Qt::Key_J, Qt::ShiftModifier);
        QTest::mouseClick(strip(), Qt::LeftButton, {}, strip()->axisPlace(0.2));
        QVERIFY(!strip()->span());
        QTRY_VERIFY(readings().time_s > to + 0.1);
    }

    void a_number_is_keyed_turned_and_its_keys_are_moved() {
        standAt(0.5);
        auto* field = row("emitter", "rate")->findChild<NumberField*>();
        const auto own = double(std::get<Emitter>(find_element(effect(), "emitter")->body).rate);
        QTest::keyClick(field, Qt::Key_K, Qt::AltModifier);
        QCOMPARE(keysOf("emitter", "rate").size(), size_t(1));
        QVERIFY(std::abs(keysOf("emitter", "rate")[0].time - 0.5f) < 1e-3f);
        QCOMPARE(double(keysOf("emitter", "rate")[0].value), own);
        // Another moment, another number.
        standAt(1);
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, "90");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(keysOf("emitter", "rate").size(), size_t(2));
        QCOMPARE(keysOf("emitter", "rate")[1].value, 90.0f);
        QCOMPARE(double(std::get<Emitter>(find_element(effect(), "emitter")->body).rate),
                 own); // its own stays
        // Between them the field says what is between.
        standAt(0.75);
        QTRY_VERIFY(std::abs(field->number() - (own + 90) / 2) < 5);

        TrackLanes* lanes = strip()->tracks();
        QTRY_VERIFY(lanes->isVisible() && lanes->height() >= TrackLanes::lane_height);
        drag(lanes, lanes->keyPlace(0, 1),
             QPoint(lanes->keyPlace(0, 1).x() + lanes->width() / 10, lanes->keyPlace(0, 1).y()));
        const float moved = keysOf("emitter", "rate")[1].time;
        QVERIFY2(moved > 1.3f, qPrintable(QString::number(double(moved))));
        key(Qt::Key_Z, Qt::ControlModifier); // one step of undo
        QVERIFY(std::abs(keysOf("emitter", "rate")[1].time - 1) < 1e-3f);
        // A double-click puts one where the curve is, Shift stretches all, the right button takes one away.
        const QPoint between = (lanes->keyPlace(0, 0) + lanes->keyPlace(0, 1)) / 2;
        QTest::mouseDClick(lanes, Qt::LeftButton, {}, between);
        QCOMPARE(keysOf("emitter", "rate").size(), size_t(3));
        const float middle = keysOf("emitter", "rate")[1].time;
        drag(lanes, lanes->keyPlace(0, 2), lanes->keyPlace(0, 2) + QPoint(lanes->width() / 10, 0),
             Qt::ShiftModifier);
        QVERIFY(keysOf("emitter", "rate")[1].time > middle + 0.1f);
        QVERIFY(std::abs(keysOf("emitter", "rate")[0].time - 0.5f) < 1e-3f);
        QTest::mouseClick(lanes, Qt::RightButton, {}, lanes->keyPlace(0, 1));
        QCOMPARE(keysOf("emitter", "rate").size(), size_t(2));
        // By keys: a step on, and away.
        QTest::mouseClick(lanes, Qt::LeftButton, {}, lanes->keyPlace(0, 0));
        lanes->setFocus();
        QTest::keyClick(lanes, Qt::Key_Right);
        QVERIFY(std::abs(keysOf("emitter", "rate")[0].time - 0.5f - 1 / 60.0f) < 1e-3f);
        QTest::keyClick(lanes, Qt::Key_Delete);
        QCOMPARE(keysOf("emitter", "rate").size(), size_t(1));
        QVERIFY(find_element(effect(), "emitter") != nullptr); // the element is not deleted
    }

    void a_key_is_copied_and_snaps_to_the_moment_that_is_shown() {
        standAt(1.2);
        window_->workbench().edit(
            with_key(with_key(effect(), "emitter", "rate", 0.25, 30.0f), "emitter", "rate", 0.5, 60.0f),
            "keys");
        TrackLanes* lanes = strip()->tracks();
        QTRY_VERIFY(lanes->isVisible());
        const QPoint first = lanes->keyPlace(0, 0), second = lanes->keyPlace(0, 1);
        const double per_second = double(second.x() - first.x()) / 0.25;
        const int shown_x = first.x() + int(0.95 * per_second);
        // Nearly to the moment that is shown: it stands exactly there.
        drag(lanes, first, QPoint(shown_x - 3, first.y()), Qt::ControlModifier);
        auto keys = keysOf("emitter", "rate");
        QCOMPARE(keys.size(), size_t(3));
        QVERIFY(keys[0].time == 0.25f && keys[0].value == 30 && keys[1].value == 60);
        QVERIFY2(std::abs(keys[2].time - 1.2f) < 1e-3f, qPrintable(QString::number(double(keys[2].time))));
        QCOMPARE(keys[2].value, 30.0f);
        key(Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(keysOf("emitter", "rate").size(), size_t(2));
        // By keys: the one that was pressed, once more at the moment that is shown; no element is copied.
        QTest::mouseClick(lanes, Qt::LeftButton, {}, second);
        lanes->setFocus();
        const size_t elements = effect().elements.size();
        QTest::keyClick(lanes, Qt::Key_D, Qt::ControlModifier);
        keys = keysOf("emitter", "rate");
        QVERIFY(keys.size() == 3 && std::abs(keys[2].time - 1.2f) < 1e-3f && keys[2].value == 60);
        QCOMPARE(effect().elements.size(), elements);
    }

    void a_colour_is_keyed() {
        window_->select("stage");
        standAt(0.5);
        ParameterRow* colour = row("stage", "sun_colour");
        QTest::mouseClick(colour->findChild<QPushButton*>(), Qt::LeftButton);
        TintField* tints = colour->findChild<ColourEditor*>()->field();
        QTest::mouseClick(tints, Qt::LeftButton, {}, tints->placeOf(0.0, 0.9).toPoint());
        QTest::keyClick(colour->findChild<QPushButton*>(), Qt::Key_K, Qt::AltModifier);
        const Track* track = find_track(effect(), "stage", "sun_colour");
        QVERIFY(track != nullptr && track->curves.size() == 3);
        standAt(1.5);
        QTest::mouseClick(tints, Qt::LeftButton, {}, tints->placeOf(0.66, 0.9).toPoint());
        track = find_track(effect(), "stage", "sun_colour");
        for (const Curve& curve : track->curves) {
            QCOMPARE(curve.points.size(), size_t(2));
        }
        QVERIFY(track->curves[0].points[0].value > 2 * track->curves[0].points[1].value); // red goes
        QVERIFY(track->curves[2].points[1].value > 2 * track->curves[2].points[0].value); // blue comes
        // Between them it says what is between.
        standAt(1);
        const auto& red = track->curves[0].points;
        const QPushButton* shown = colour->findChild<QPushButton*>();
        QTRY_VERIFY(std::abs(shown->text().section(' ', 0, 0).toFloat() - (red[0].value + red[1].value) / 2) <
                    0.02f);
    }

    void the_axis_is_scrolled_by_wheel_and_keys() {
        standAt(4);
        const auto turn = [&](int notches, Qt::KeyboardModifiers keys) {
            const QPointF place = strip()->rect().center();
            QWheelEvent event(place, strip()->mapToGlobal(place), {}, {0, notches * 120}, Qt::NoButton, keys,
                              Qt::NoScrollPhase, false);
            QApplication::sendEvent(strip(), &event);
        };
        turn(1, {});
        turn(1, {}); // 2.5 s
        QTRY_VERIFY(std::abs(strip()->firstMoment() - 1.5) < 0.05);
        turn(4, Qt::ShiftModifier);
        QVERIFY(std::abs(strip()->firstMoment() - 1.25) < 0.05);
        key(Qt::Key_PageUp, Qt::ControlModifier);
        QVERIFY(std::abs(strip()->firstMoment() - 0.625) < 0.05);
        for (int i = 0; i < 5; ++i) {
            turn(1, Qt::ShiftModifier);
        }
        QCOMPARE(strip()->firstMoment(), 0.0);
        // What is pressed is what is seen there; and time goes on without taking the axis along.
        QTest::mouseClick(strip(), Qt::LeftButton, {}, strip()->momentPlace(0.5));
        QTRY_VERIFY(std::abs(readings().time_s - 0.5) < 0.05);
        bench().setPlaying(true);
        QTRY_VERIFY(readings().time_s > 1);
        QCOMPARE(strip()->firstMoment(), 0.0);
        bench().setPlaying(false);
        // Later than what was played only as far as something stands there.
        key(Qt::Key_End, Qt::ControlModifier);
        const double along = strip()->firstMoment();
        key(Qt::Key_PageDown, Qt::ControlModifier);
        QCOMPARE(strip()->firstMoment(), along);
        bench().edit(with_key(effect(), "emitter", "rate", 20, 30.0f), "a key far on");
        for (int i = 0; i < 50; ++i) {
            key(Qt::Key_PageDown, Qt::ControlModifier);
        }
        QVERIFY(std::abs(strip()->firstMoment() + strip()->spanSeen() - 20) < 0.05);
        key(Qt::Key_PageUp, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(strip()->spanSeen(), 5.0);
        key(Qt::Key_PageDown, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(strip()->spanSeen(), 2.5);
        key(Qt::Key_End, Qt::ControlModifier);
        QCOMPARE(strip()->firstMoment(), along);
    }

    void a_moment_is_typed() {
        standAt(0.5);
        key(Qt::Key_G);
        NumberField* field = window_->topBar()->timeField();
        QTRY_VERIFY(field->hasFocus());
        QTest::keyClicks(field, "1.5");
        QTest::keyClick(field, Qt::Key_Return);
        QTRY_VERIFY(std::abs(readings().time_s - 1.5) < 1e-6);
        QTRY_COMPARE(field->text(), QString("1.50 s"));
        QVERIFY(!bench().isPlaying() && !field->hasFocus());
        // Backwards while it plays, which goes on from there; in another unit.
        bench().setPlaying(true);
        QTRY_VERIFY(readings().time_s > 2);
        key(Qt::Key_G);
        QTest::keyClicks(field, "600 ms");
        QTest::keyClick(field, Qt::Key_Return);
        QTRY_VERIFY(readings().time_s < 1.9);
        QVERIFY(bench().isPlaying());
        // What is no time is refused, and nothing moves.
        bench().setPlaying(false);
        const double then_s = readings().time_s;
        key(Qt::Key_G);
        QTest::keyClicks(field, "-3");
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(field->property("refused").toBool());
        QTest::keyClick(field, Qt::Key_Escape);
        QVERIFY(std::abs(readings().time_s - then_s) < 0.1);
    }

    void an_open_lane_moves_keys_up_and_down_and_bends_them() {
        window_->workbench().edit(with_key(with_key(with_key(effect(), "emitter", "rate", 0.5, 30.0f),
                                                    "emitter", "rate", 1.5, 60.0f),
                                           "emitter", "rate", 2.5, 40.0f),
                                  "keys");
        TrackLanes* lanes = strip()->tracks();
        QTRY_VERIFY(lanes->isVisible());
        const int height = strip()->height();
        QTest::mouseClick(lanes, Qt::LeftButton, {}, lanes->markRect(0).center());
        QTRY_VERIFY(lanes->height() >= TrackLanes::open_height);
        QVERIFY(strip()->height() > height); // it makes room
        const auto key = [&] { return keysOf("emitter", "rate")[1]; };
        drag(lanes, lanes->keyPlace(0, 1), lanes->keyPlace(0, 1) - QPoint(0, 15));
        QVERIFY2(key().value > 65, qPrintable(QString::number(double(key().value))));
        QVERIFY(std::abs(key().time - 1.5f) < 0.02f);
        window_->workbench().undo();
        QCOMPARE(key().value, 60.0f);
        // No number leaves its range.
        drag(lanes, lanes->keyPlace(0, 1), lanes->keyPlace(0, 1) + QPoint(0, 4000));
        QVERIFY(key().value >= 0);
        window_->workbench().undo();
        // The chosen one has handles, in line until Alt breaks them.
        QTest::mouseClick(lanes, Qt::LeftButton, {}, lanes->keyPlace(0, 1));
        drag(lanes, lanes->handlePlace(0, 1, 0, true), lanes->handlePlace(0, 1, 0, true) - QPoint(0, 10));
        QCOMPARE(key().bend, Curve::Bend::handles);
        QVERIFY(key().out_value > 0 && key().in_value < 0); // in line
        const float in_value = key().in_value;
        drag(lanes, lanes->handlePlace(0, 1, 0, true), lanes->handlePlace(0, 1, 0, true) + QPoint(0, 14),
             Qt::AltModifier);
        QCOMPARE(key().in_value, in_value);
        QTest::mouseDClick(lanes, Qt::LeftButton, {}, lanes->keyPlace(0, 1));
        QCOMPARE(key().bend, Curve::Bend::smooth);
        QTest::mouseClick(lanes, Qt::LeftButton, {}, lanes->markRect(0).center());
        QTRY_VERIFY(lanes->height() < TrackLanes::open_height);
    }

    void escape_and_p_stop_on_the_way_to_a_moment() {
        for (const int stops : {int(Qt::Key_Escape), int(Qt::Key_P)}) {
            standAt(0.2);
            bench().player().go_to(3000);
            QTRY_VERIFY(bench().player().is_racing());
            key(stops);
            QVERIFY(!bench().player().is_racing());
            QVERIFY(!bench().isPlaying());
        }
        key(Qt::Key_P);
        QVERIFY(bench().isPlaying());
    }

    void the_window_says_that_an_effect_is_over() {
        Effect short_one = effect();
        short_one.stage.length = 5;
        window_->workbench().document().reset(short_one, {});
        standAt(4.8);
        QSignalSpy playing(&window_->workbench(), &Workbench::playingChanged);
        window_->workbench().setPlaying(true);
        QTRY_VERIFY(playing.size() > 1 && !playing.last()[0].toBool());
        QTRY_VERIFY(std::abs(readings().time_s - 5) < 0.01);
        key(Qt::Key_P); // from the start again
        QTRY_VERIFY(readings().time_s < 4);
    }

    void turning_while_it_plays_records() {
        bench().setPlaying(true);
        QTRY_VERIFY(readings().time_s > 0.2);
        auto* slider = row("emitter", "spread")->findChild<ValueSlider*>();
        QTest::keyClick(slider, Qt::Key_K, Qt::AltModifier);
        QCOMPARE(keysOf("emitter", "spread").size(), size_t(1));
        const QPoint from = slider->knobPlace(0).toPoint();
        QTest::mousePress(slider, Qt::LeftButton, {}, from);
        for (int i = 1; i <= 8; ++i) {
            const double before = readings().time_s;
            QTRY_VERIFY(readings().time_s > before);
            const QPoint at = from + QPoint(2 * i, 0);
            QMouseEvent move(QEvent::MouseMove, at, slider->mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                             {});
            QApplication::sendEvent(slider, &move);
        }
        QTest::mouseRelease(slider, Qt::LeftButton, {}, from + QPoint(16, 0));
        const auto keys = keysOf("emitter", "spread");
        QVERIFY2(keys.size() > 4, qPrintable(QString::number(keys.size())));
        for (size_t i = 1; i + 1 < keys.size(); ++i) {
            QVERIFY(keys[i].time < keys[i + 1].time && keys[i].value <= keys[i + 1].value);
        }
        key(Qt::Key_Z, Qt::ControlModifier); // one gesture
        QCOMPARE(keysOf("emitter", "spread").size(), size_t(1));
    }

    void a_keyed_camera_flies_until_it_is_moved() {
        Effect next = effect();
        next = with_key(next, "stage", "camera_azimuth", 0, 0.0f);
        next = with_key(next, "stage", "camera_azimuth", 1, 60.0f);
        bench().edit(next, "fly");
        QVERIFY(window_->view()->isFlying());
        standAt(0.5);
        QTRY_VERIFY(std::abs(window_->view()->camera().azimuth - 30) < 1.5f);
        window_->view()->setFocus();
        QTest::keyClick(window_->view(), Qt::Key_Left); // by hand
        QVERIFY(!window_->view()->isFlying());
        const float by_hand = window_->view()->camera().azimuth;
        standAt(0.9);
        QCOMPARE(window_->view()->camera().azimuth, by_hand);
        key(Qt::Key_H);
        QVERIFY(window_->view()->isFlying());
        QTRY_VERIFY(std::abs(window_->view()->camera().azimuth - 54) < 1.5f);
    }

    void a_run_is_kept_and_played_again() {
        // Not before there is a file that it may lie beside.
        key(Qt::Key_T, Qt::ControlModifier);
        QVERIFY(window_->statusBar()->currentMessage().contains("save the effect"));
        const QString path = folder_->filePath("try.ember.json");
        QVERIFY(window_->files().saveTo(path));
        key(Qt::Key_B);
        bench().setPlaying(true);
        QTRY_VERIFY(readings().time_s > 0.5);
        bench().edit(with_seed(with_effect_name(effect(), "Turned"), effect().seed), "turn");
        QTRY_VERIFY(readings().time_s > 1);
        key(Qt::Key_T, Qt::ControlModifier);
        QTRY_VERIFY(QFile::exists(folder_->filePath("try.takes.json")));
        const std::vector<Take> takes = bench().takes();
        QCOMPARE(takes.size(), size_t(1));
        QVERIFY(takes[0].steps() >= 60 && takes[0].effects.size() == 2 && !takes[0].picture.empty());

        bench().edit(with_effect_name(effect(), "Another"), "rename");
        driver::when_open<TakesDialog>([](TakesDialog* dialog) {
            QCOMPARE(dialog->list()->count(), 1);
            QVERIFY(dialog->list()->item(0)->text().contains("the effect is another now"));
            QTest::mouseClick(dialog->markButton(), Qt::LeftButton);
            dialog->nameField()->setFocus();
            dialog->nameField()->selectAll();
            QTest::keyClicks(dialog->nameField(), "Good one");
            QTest::keyClick(dialog->nameField(), Qt::Key_Return);
            QTest::mouseClick(dialog->playButton(), Qt::LeftButton);
        });
        key(Qt::Key_T, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(effect().name, std::string("Turned")); // as it was at the take's end
        QTRY_VERIFY(readings().is_replayed);
        QVERIFY(bench().isPlaying());
        QTRY_VERIFY(!readings().is_replayed && readings().time_s > 1); // then live
        const std::vector<Take> now = bench().takes();
        QVERIFY(now.size() == 1 && now[0].is_marked && now[0].name == "Good one");
        key(Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(effect().name, std::string("Another"));
    }

    void takes_that_cannot_be_read_are_not_written_over() {
        QVERIFY(window_->files().saveTo(folder_->filePath("try.ember.json")));
        QFile file(folder_->filePath("try.takes.json"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write("{\"format\": \"crisp-ember takes\", \"version\": 99}");
        file.close();
        key(Qt::Key_B);
        bench().setPlaying(true);
        QTRY_VERIFY(readings().time_s > 0.2);
        key(Qt::Key_T, Qt::ControlModifier);
        QTRY_VERIFY(window_->statusBar()->currentMessage().startsWith("Not kept"));
        QVERIFY(file.open(QIODevice::ReadOnly));
        QVERIFY(file.readAll().contains("99"));
    }

    void time_goes_slower_and_faster() {
        bench().setSpeed(0.05);
        bench().setPlaying(true);
        driver::wait_for_pictures(*window_, 2);
        const uint64_t before = readings().step;
        driver::wait_for_pictures(*window_, 3);
        QVERIFY(readings().step - before <= 6); // one step or two a picture
        bench().setSpeed(1);
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    QCoreApplication::setApplicationName(QStringLiteral("crisp-ember-tests"));
    QCoreApplication::setOrganizationName(QStringLiteral("crisp-ember-tests"));
    theme::apply(application);
    TestTimeWindow test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_time_window.moc"
