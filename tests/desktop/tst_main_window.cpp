// The whole window, driven by real mouse and keys.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/choice_pictures.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/typed_number.h"
#include "desktop/controls/value_slider.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/dialogs/history_list.h"
#include "desktop/dialogs/picture_sheet.h"
#include "desktop/files.h"
#include "desktop/finder.h"
#include "desktop/gallery/gallery.h"
#include "desktop/main_window.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/theme.h"
#include "desktop/top/gauge.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/live_view.h"

#include "../core/sample_files.h"

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QDir>
#include <QFileDialog>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMessageBox>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QScrollBar>
#include <QSignalSpy>
#include <QStandardItemModel>
#include <QStatusBar>
#include <QTemporaryDir>
#include <QThread>
#include <QTimer>
#include <QToolButton>
#include <QTreeWidget>
#include <QtTest>

#include <algorithm>

#include <functional>

using namespace ember;

namespace {

// Tries `answer` on whatever dialog is open, again and again, until it says that it is done.
class DialogAnswer {
  public:
    explicit DialogAnswer(std::function<bool(QWidget*)> answer) {
        QObject::connect(&timer_, &QTimer::timeout, [this, answer = std::move(answer)] {
            QWidget* dialog = QApplication::activeModalWidget();
            if (!done_ && dialog != nullptr && dialog->isVisible()) {
                done_ = answer(dialog);
            }
        });
        timer_.start(20);
    }
    bool is_done() const { return done_; }

  private:
    QTimer timer_;
    bool done_ = false;
};

// Presses the button with this text in the next message box; notes what the box asked.
class Answer : public DialogAnswer {
  public:
    explicit Answer(const QString& button)
        : DialogAnswer([this, button](QWidget* dialog) {
              auto* box = qobject_cast<QMessageBox*>(dialog);
              if (box == nullptr) {
                  return false;
              }
              asked_ = box->text() + "\n" + box->informativeText();
              for (QAbstractButton* each : box->buttons()) {
                  if (each->text().remove('&') == button) {
                      each->click();
                      return true;
                  }
              }
              return false;
          }) {}
    QString asked() const { return asked_; }

  private:
    QString asked_;
};

// Gives a path to the next file dialog.
class FileAnswer : public DialogAnswer {
  public:
    explicit FileAnswer(const QString& path)
        : DialogAnswer([path](QWidget* dialog) {
              auto* field = dialog->findChild<QLineEdit*>("fileNameEdit");
              if (field == nullptr) {
                  return false;
              }
              field->setText(path); // typed, Qt's own list of completions would come between
              static_cast<QDialog*>(dialog)->accept();
              return true;
          }) {}
};

} // namespace

class TestMainWindow : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    Document& document() { return window_->workbench().document(); }
    const Effect& effect() { return *document().effect(); }
    Board* board() { return window_->boardPanel()->board(); }
    const Element& element(const char* id) { return *find_element(effect(), id); }
    const Readings& readings() { return window_->workbench().pictureMaker().shot().readings; }

    void waitForPicture() {
        QSignalSpy shown(window_.get(), &MainWindow::pictureShown);
        QVERIFY(shown.wait(120000));
    }
    // After a dialog has been answered.
    void backToWindow() {
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
    }
    // Chooses in the gallery that a button of the board opens, by keyboard.
    void addByGallery(QToolButton* button, const char* words) {
        driver::answer_gallery(words);
        QTest::mouseClick(button, Qt::LeftButton);
        backToWindow();
    }
    // "New", and the first of what there is to start from.
    void startAnew() {
        driver::answer_gallery("");
        QTest::keyClick(window_.get(), Qt::Key_N, Qt::ControlModifier);
    }
    void dragBoard(QPoint from, QPoint by) {
        QTest::mousePress(board(), Qt::LeftButton, {}, from);
        for (int i = 1; i <= 5; ++i) {
            QTest::mouseMove(board(), from + by * i / 5);
        }
        QTest::mouseRelease(board(), Qt::LeftButton, {}, from + by);
    }
    // Positions of the particles of the frame that is on the screen.
    float meanHeight() {
        Simulation simulation;
        simulation.set_effect(document().effect());
        for (int i = 0; i < 90; ++i) {
            simulation.step();
        }
        double sum = 0;
        Frame frame;
        simulation.write_frame(frame);
        for (size_t i = 0; i < frame.particle_count(); ++i) {
            sum += double(frame.sources.at(0).position(i).y);
        }
        return float(sum / double(frame.sources[0].particles.size()));
    }

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = std::make_unique<MainWindow>(folder_->path() + "/state");
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
    }
    void cleanup() {
        document().reset(starter_effect(), {});
        window_.reset();
    }

    // However long the window takes between saying that there is another effect and giving it to the player.
    void bursts_at_the_start_are_there_when_a_file_is_opened() {
        Emitter emitter;
        emitter.rate = 0;
        emitter.burst_count = 321;
        emitter.capacity = 1000;
        emitter.lifetime = {1000, 1000};
        emitter.look = effect().looks.front().id;
        Effect effect = starter_effect();
        effect.elements = {{.id = "burst", .name = "Burst", .body = emitter}};
        const QString path = folder_->filePath("burst.ember.json");
        QVERIFY(!save_effect(effect, path.toStdString()));
        connect(&document(), &Document::replaced, window_.get(), [] { QThread::msleep(60); });
        window_->files().openPath(path);
        QTRY_VERIFY(readings().find("burst") != nullptr && readings().time_s > 0.2);
        QCOMPARE(readings().find("burst")->live, size_t(321));
    }

    void first_picture_shows_the_running_effect() {
        waitForPicture();
        QTRY_VERIFY(readings().meters.particles > 100);
        QTRY_VERIFY(window_->topBar()->particlesGauge()->value() > 100);
        QTRY_VERIFY(window_->topBar()->frameGauge()->value() > 0);
        QTRY_VERIFY(window_->topBar()->memoryGauge()->value() > 0);
        const QImage picture = window_->view()->grab().toImage();
        QSet<QRgb> colours;
        for (int x = 0; x < picture.width(); ++x) {
            colours.insert(picture.pixel(x, picture.height() / 2));
        }
        QVERIFY(colours.size() > 10);
    }

    void added_force_moves_the_particles_with_its_dial() {
        addByGallery(window_->boardPanel()->addInfluenceButton(), "Wind");
        QVERIFY(find_element(effect(), "wind") != nullptr);
        QCOMPARE(window_->workbench().selection(), std::string("wind"));

        // Upwards, so that it shows in the height of the particles.
        ParameterRow* direction = window_->detail()->row("wind", "direction");
        auto fields = direction->findChildren<NumberField*>();
        fields[1]->setFocus();
        fields[1]->selectAll();
        QTest::keyClicks(fields[1], "5");
        QTest::keyClick(fields[1], Qt::Key_Return);
        QCOMPARE(std::get<Wind>(element("wind").body).direction.y, 5.0f);

        const float with_full_wind = meanHeight();
        dragBoard(board()->cellRect("wind", "emitter").center(), {0, 60});
        const float weight = find_link(element("wind"), "emitter")->weight;
        QVERIFY2(weight > 0.2f && weight < 0.6f, qPrintable(QString::number(double(weight))));
        const float with_less = meanHeight();
        QVERIFY(with_less < with_full_wind - 0.05f);

        document().undo();
        QCOMPARE(find_link(element("wind"), "emitter")->weight, 1.0f);
        QCOMPARE(meanHeight(), with_full_wind);
    }

    void click_on_a_dial_unlinks_and_links() {
        const QPoint cell = board()->cellRect("gravity", "emitter").center();
        QTest::mouseClick(board(), Qt::LeftButton, {}, cell);
        QVERIFY(find_link(element("gravity"), "emitter") == nullptr);
        QTest::mouseClick(board(), Qt::LeftButton, {}, cell);
        QCOMPARE(find_link(element("gravity"), "emitter")->weight, 1.0f);
    }

    void dials_turn_by_keyboard() {
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->nameRect("gravity").center());
        board()->setFocus();
        QTest::keyClick(board(), Qt::Key_Minus);
        QTest::keyClick(board(), Qt::Key_Minus, Qt::AltModifier);
        QVERIFY(std::abs(find_link(element("gravity"), "emitter")->weight - 0.94f) < 1e-4f);
        QTest::keyClick(board(), Qt::Key_Space);
        QVERIFY(find_link(element("gravity"), "emitter") == nullptr);
        QTest::keyClick(board(), Qt::Key_Return);
        QWidget* editor = QApplication::focusWidget();
        QTest::keyClicks(editor, "35");
        QTest::keyClick(editor, Qt::Key_Return);
        QCOMPARE(find_link(element("gravity"), "emitter")->weight, 0.35f);
        QTest::keyClick(board(), Qt::Key_Down);
        QCOMPARE(window_->workbench().selection(), std::string("ground"));
    }

    void muted_row_costs_nothing() {
        const auto cost = [this] {
            const ElementMeter* meter = readings().find("gravity");
            return meter != nullptr ? meter->ms : -1;
        };
        QTRY_VERIFY(cost() > 0);
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->muteRect("gravity").center());
        QVERIFY(element("gravity").muted);
        QTRY_COMPARE(cost(), 0.0);
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(!element("gravity").muted);
        QTRY_VERIFY(cost() > 0);
    }

    void slider_changes_the_running_effect_within_one_gesture() {
        window_->select("gravity");
        auto* slider = window_->detail()->row("gravity", "strength")->findChild<ValueSlider*>();
        QTRY_VERIFY(readings().meters.particles > 100);
        const QPoint knob = slider->knobPlace(0).toPoint();
        const uint64_t step_before = readings().step;
        QTest::mousePress(slider, Qt::LeftButton, {}, knob);
        for (int x = 1; x <= 10; ++x) {
            QTest::mouseMove(slider, knob + QPoint(x, 0));
        }
        QTest::mouseRelease(slider, Qt::LeftButton, {}, knob + QPoint(10, 0));
        const float strength = std::get<Gravity>(element("gravity").body).strength;
        QVERIFY(strength > 3);
        QTRY_VERIFY(*readings().effect == effect());
        QVERIFY(readings().step >= step_before); // nothing has started again
        QVERIFY(readings().meters.particles > 100);
        document().undo();
        QCOMPARE(std::get<Gravity>(element("gravity").body).strength, 2.0f);
        QVERIFY(!document().history().can_undo());
    }

    void typed_nonsense_is_refused_and_the_value_stays() {
        window_->select("gravity");
        auto* field = window_->detail()->row("gravity", "strength")->findChild<NumberField*>();
        for (const char* nonsense : {"nan", "inf", "1e99", "-1e99", "five", ""}) {
            field->setFocus();
            field->selectAll();
            QTest::keyClick(field, Qt::Key_Backspace);
            QTest::keyClicks(field, nonsense);
            QTest::keyClick(field, Qt::Key_Return);
            QVERIFY(field->property("refused").toBool());
            QTest::keyClick(field, Qt::Key_Escape);
            QCOMPARE(field->text(), QString("2"));
        }
        QVERIFY(document().isSaved());
    }

    void arithmetic_and_units_are_typed() {
        const auto is = [](const char* text, const char* unit, double wanted) {
            const auto number = typed_number(text, unit);
            return number && std::abs(*number - wanted) < 1e-9 * std::max(1.0, std::abs(wanted));
        };
        QVERIFY(is("3/2", "m", 1.5));
        QVERIFY(is(" -(2 + 3) * 0,5", "", -2.5));
        QVERIFY(is("90 rpm", "deg/s", 540));
        QVERIFY(is("90 rpm", "1/s", 1.5));
        QVERIFY(is("2 km/h", "m/s", 2 / 3.6));
        QVERIFY(is("250mm + 1", "m", 1.25));
        QVERIFY(is("20k", "particles", 20000));
        QVERIFY(is("1.5M/2", "", 750000));
        QVERIFY(is("30 %", "", 0.3));
        QVERIFY(is("1e-3", "s", 0.001));
        QVERIFY(is("1 g", "m/s\u00b2", 9.80665));
        for (const char* text :
             {"", "2 +", "(1", "1)", "1/0", "2 apples", "3 kg", "2 s", "1e999", "nan", "--", "1 2"}) {
            QVERIFY2(!typed_number(text, "m"), text);
        }
        QVERIFY(!typed_number(QString(10000, '('), "m"));

        window_->select("emitter");
        ParameterRow* speed = window_->detail()->row("emitter", "speed");
        NumberField* high = speed->findChildren<NumberField*>()[1];
        high->setFocus();
        high->selectAll();
        QTest::keyClicks(high, "36 km/h");
        QTest::keyClick(high, Qt::Key_Return);
        QCOMPARE(std::get<Emitter>(element("emitter").body).speed.high, 10.0f);
        QTest::keyClick(high, Qt::Key_Up, Qt::ShiftModifier);
        const float coarse = std::get<Emitter>(element("emitter").body).speed.high - 10;
        QTest::keyClick(high, Qt::Key_Down);
        const float one = 10 + coarse - std::get<Emitter>(element("emitter").body).speed.high;
        QVERIFY(std::abs(coarse / one - 10) < 0.01f);
    }

    void earlier_values_are_gone_back_to() {
        window_->select("emitter");
        ParameterRow* rate = window_->detail()->row("emitter", "rate");
        auto* field = rate->findChild<NumberField*>();
        for (const char* text : {"700", "900"}) {
            field->setFocus();
            field->selectAll();
            QTest::keyClicks(field, text);
            QTest::keyClick(field, Qt::Key_Return);
        }
        const auto choose = [&](const QString& label) {
            driver::choose_in_menu(label);
            QContextMenuEvent event(QContextMenuEvent::Mouse, QPoint(5, 5),
                                    rate->nameLabel()->mapToGlobal(QPoint(5, 5)));
            QApplication::sendEvent(rate->nameLabel(), &event);
        };
        choose("Earlier: 700");
        QCOMPARE(std::get<Emitter>(element("emitter").body).rate, 700.0f);
        choose("Earlier: 900");
        QCOMPARE(std::get<Emitter>(element("emitter").body).rate, 900.0f);
        choose("Back to the default");
        QCOMPARE(std::get<Emitter>(element("emitter").body).rate, Emitter().rate);
    }

    void shared_look_is_made_own() {
        window_->select("emitter");
        backToWindow();
        QTest::keyClick(window_.get(), Qt::Key_D, Qt::ControlModifier);
        const std::string copy = window_->workbench().selection();
        QVERIFY(copy != "emitter");
        const auto look_of = [this](const std::string& id) {
            return std::get<Emitter>(find_element(effect(), id)->body).look;
        };
        QCOMPARE(look_of(copy), look_of("emitter"));
        QToolButton* own = nullptr;
        QTRY_VERIFY([&] {
            for (auto* button : window_->detail()->findChildren<QToolButton*>()) {
                own = button->isVisible() && button->text().startsWith("Make it") ? button : own;
            }
            return own != nullptr;
        }());
        QTest::mouseClick(own, Qt::LeftButton);
        QVERIFY(look_of(copy) != look_of("emitter"));
        Look renamed = *find_look(effect(), look_of(copy));
        renamed.id = look_of("emitter");
        renamed.name = find_look(effect(), look_of("emitter"))->name;
        QCOMPARE(renamed, *find_look(effect(), look_of("emitter")));
    }

    void every_kind_of_parameter_has_a_working_row() {
        for (const Element& each : starter_effect().elements) {
            window_->select(each.id);
            for (const Parameter& parameter : holder_of(each).parameters) {
                QVERIFY(window_->detail()->row(each.id, std::string(parameter.key)) != nullptr);
            }
        }
        window_->select("emitter");
        for (const Parameter& parameter : look_parameters()) {
            QVERIFY(window_->detail()->row("soft-dots", std::string(parameter.key)) != nullptr);
        }
        window_->select(std::string(stage_id));
        auto* exposure = window_->detail()->row(std::string(stage_id), "exposure")->findChild<ValueSlider*>();
        exposure->setFocus();
        QTest::keyClick(exposure, Qt::Key_Right);
        QVERIFY(effect().stage.exposure > 0);

        // The effect's camera, turned by its parameter, turns the live view.
        auto* azimuth =
            window_->detail()->row(std::string(stage_id), "camera_azimuth")->findChild<ValueSlider*>();
        azimuth->setFocus();
        QTest::keyClick(azimuth, Qt::Key_Right);
        QVERIFY(effect().stage.camera_azimuth != Stage().camera_azimuth);
        QCOMPARE(window_->view()->camera().azimuth, effect().stage.camera_azimuth);
    }

    void limit_line_is_dragged_and_typed() {
        BudgetStrip* strip = window_->strip();
        const QPoint line = strip->limitPlace(BudgetStrip::frame_lane);
        QTest::mousePress(strip, Qt::LeftButton, {}, line);
        QTest::mouseMove(strip, line + QPoint(0, 10));
        QTest::mouseMove(strip, line + QPoint(0, 20));
        QTest::mouseRelease(strip, Qt::LeftButton, {}, line + QPoint(0, 20));
        QVERIFY(effect().budget.frame_ms < 14);
        document().undo();
        QVERIFY(document().isSaved());

        QCOMPARE(strip->limitField(BudgetStrip::frame_lane)->text(), QStringLiteral("16.67"));
        // A folded lane is opened by its name.
        QVERIFY(!strip->limitField(BudgetStrip::particles_lane)->isVisible());
        QTest::mouseClick(strip, Qt::LeftButton, {}, strip->nameRect(BudgetStrip::particles_lane).center());
        NumberField* field = strip->limitField(BudgetStrip::particles_lane);
        QVERIFY(field->isVisible());
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, "5000");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(effect().budget.particles, 5000);
    }

    // Pressing on the strip goes to that moment; what played goes on from there when it is let go of, and
    // what was paused stays there.
    void the_strip_goes_to_any_moment_that_was_played() {
        BudgetStrip* strip = window_->strip();
        QTRY_VERIFY(readings().time_s > 2);
        QTest::mousePress(strip, Qt::LeftButton, {}, strip->momentPlace(1));
        QTRY_VERIFY(strip->goneBackTo() && std::abs(*strip->goneBackTo() - 1) < 0.1);
        QVERIFY(!window_->workbench().player().is_playing());
        QVERIFY(std::abs(readings().time_s - 1) < 0.1);
        const double until_s = readings().kept_to_s;
        QVERIFY(until_s > 2);
        // Dragged on: another moment; the costs that were measured stay where they are.
        QTest::mouseMove(strip, strip->momentPlace(0.5));
        QTRY_VERIFY(std::abs(readings().time_s - 0.5) < 0.1);
        QCOMPARE(readings().kept_to_s, until_s);
        QTest::mouseRelease(strip, Qt::LeftButton, {}, strip->momentPlace(0.5));
        QVERIFY(window_->workbench().player().is_playing());
        QTRY_VERIFY(readings().time_s > 0.7 && !strip->goneBackTo());
        QTRY_VERIFY(readings().time_s > 1.2);

        QTest::keyClick(window_.get(), Qt::Key_P);
        QTRY_VERIFY(!window_->workbench().player().is_playing());
        QTest::mouseClick(strip, Qt::LeftButton, {}, strip->momentPlace(0.3));
        QTRY_VERIFY(std::abs(readings().time_s - 0.3) < 0.1);
        QVERIFY(!window_->workbench().player().is_playing());
        const uint64_t step = readings().step;
        QTest::keyClick(window_.get(), Qt::Key_N, Qt::ShiftModifier);
        QTest::keyClick(window_.get(), Qt::Key_N, Qt::ShiftModifier);
        QTRY_COMPARE(readings().step, step - 2);
        QTest::keyClick(window_.get(), Qt::Key_N);
        QTRY_COMPARE(readings().step, step - 1);
    }

    // The wheel shows more seconds, up to what is kept, or fewer; what is pressed is what is seen there.
    void the_wheel_shows_more_of_the_past_or_less() {
        BudgetStrip* strip = window_->strip();
        QTRY_VERIFY(readings().time_s > 3.5);
        const auto turn = [&](int notches) {
            const QPointF place = strip->rect().center();
            QWheelEvent event(place, strip->mapToGlobal(place), {}, {0, notches * 120}, Qt::NoButton,
                              Qt::NoModifier, Qt::NoScrollPhase, false);
            QApplication::sendEvent(strip, &event);
        };
        QCOMPARE(strip->spanSeen(), 10.0);
        const int before = strip->momentPlace(3).x() - strip->momentPlace(1).x();
        turn(1);
        QCOMPARE(strip->spanSeen(), 5.0);
        QVERIFY(std::abs((strip->momentPlace(3).x() - strip->momentPlace(1).x()) - 2 * before) <= 2);
        for (int i = 0; i < 9; ++i) {
            turn(1);
        }
        QCOMPARE(strip->spanSeen(), 2.5);
        for (int i = 0; i < 12; ++i) {
            turn(-1);
        }
        QCOMPARE(strip->spanSeen(), 160.0);
        QTest::mousePress(strip, Qt::LeftButton, {}, strip->momentPlace(1));
        QTRY_VERIFY(strip->goneBackTo() && std::abs(*strip->goneBackTo() - 1) < 0.3);
        QTest::mouseRelease(strip, Qt::LeftButton, {}, strip->momentPlace(1));
    }

    void transport_plays_steps_and_goes_back() {
        window_->view()->setFocus();
        QTRY_VERIFY(readings().step > 10);
        QTest::keyClick(window_.get(), Qt::Key_P);
        QTRY_VERIFY(!window_->workbench().player().is_playing());
        // The step that was under way is shown, however late: one back and one on again come behind it.
        QTest::keyClick(window_.get(), Qt::Key_N, Qt::ShiftModifier);
        QTRY_VERIFY(readings().kept_to_s > readings().time_s);
        const uint64_t paused = readings().step;
        QTest::keyClick(window_.get(), Qt::Key_N);
        QTRY_COMPARE(readings().step, paused + 1);
        QTest::keyClick(window_.get(), Qt::Key_B);
        QTRY_COMPARE(readings().step, uint64_t(0));
    }

    void another_seed_starts_again() {
        QTRY_VERIFY(readings().step > 30);
        NumberField* seed = window_->topBar()->seedField();
        seed->setFocus();
        seed->selectAll();
        QTest::keyClicks(seed, "77");
        QTest::keyClick(seed, Qt::Key_Return);
        QCOMPARE(effect().seed, 77u);
        QTRY_VERIFY(readings().effect->seed == 77);
        QVERIFY(readings().step < 30);
    }

    void live_view_orbits_pans_and_zooms() {
        LiveView* view = window_->view();
        window_->select("stage"); // which has no handles in the way
        const Camera before = view->camera();
        const QPoint middle = view->rect().center();
        const auto drag = [&](Qt::MouseButton button, Qt::KeyboardModifiers modifiers) {
            QTest::mousePress(view, button, modifiers, middle);
            QMouseEvent move(QEvent::MouseMove, middle + QPoint(40, 10),
                             view->mapToGlobal(middle + QPoint(40, 10)), Qt::NoButton, button, modifiers);
            QApplication::sendEvent(view, &move);
            QTest::mouseRelease(view, button, modifiers, middle + QPoint(40, 10));
        };
        drag(Qt::LeftButton, {});
        QVERIFY(std::abs(view->camera().azimuth - before.azimuth) > 5);
        QCOMPARE(view->camera().target, before.target);
        drag(Qt::RightButton, {});
        QVERIFY(length(view->camera().target - before.target) > 0.1f);
        QWheelEvent wheel(middle, view->mapToGlobal(middle), {}, {0, 120}, Qt::NoButton, {},
                          Qt::NoScrollPhase, false);
        QApplication::sendEvent(view, &wheel);
        QVERIFY(view->camera().distance < before.distance);
        QVERIFY(document().isSaved()); // looking is not editing

        view->setFocus();
        QTest::keyClick(view, Qt::Key_H);
        QVERIFY(view->camera() == before);
        QTest::keyClick(view, Qt::Key_Left);
        QTest::keyClick(view, Qt::Key_H, Qt::ShiftModifier);
        QCOMPARE(effect().stage.camera_azimuth, view->camera().azimuth);
        QVERIFY(!document().isSaved());
    }

    void elements_are_duplicated_renamed_and_deleted_by_keyboard() {
        window_->select("gravity");
        QTest::keyClick(window_.get(), Qt::Key_D, Qt::ControlModifier);
        QCOMPARE(window_->workbench().selection(), std::string("gravity-2"));
        QTest::keyClick(window_.get(), Qt::Key_F2);
        QTest::keyClicks(QApplication::focusWidget(), "Undertow");
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
        QCOMPARE(element("gravity-2").name, std::string("Undertow"));
        board()->setFocus();
        QTest::keyClick(board(), Qt::Key_Delete);
        QVERIFY(find_element(effect(), "gravity-2") == nullptr);
        QVERIFY(find_element(effect(), window_->workbench().selection()) != nullptr);
        for (int i = 0; i < 3; ++i) {
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        }
        QVERIFY(effect() == starter_effect());
        for (int i = 0; i < 3; ++i) {
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        }
        QVERIFY(find_element(effect(), "gravity-2") == nullptr);
        QVERIFY(!document().history().can_redo());
    }

    void every_element_can_be_deleted() {
        while (!effect().elements.empty()) {
            window_->select(effect().elements.front().id);
            board()->setFocus();
            QTest::keyClick(board(), Qt::Key_Delete);
        }
        QCOMPARE(window_->workbench().selection(), std::string(stage_id));
        waitForPicture();
        QTRY_COMPARE(readings().meters.particles, size_t(0));
    }

    void saved_effect_opens_as_the_same_document() {
        addByGallery(window_->boardPanel()->addInfluenceButton(), "Turbulence");
        const Effect before = effect();
        const QString path = folder_->filePath("gate.ember.json");
        const FileAnswer save_as(path);
        QTest::keyClick(window_.get(), Qt::Key_S, Qt::ControlModifier);
        QTRY_VERIFY(document().isSaved());
        QCOMPARE(document().path(), path);
        QCOMPARE(effect().name, std::string("gate")); // the untitled takes the file's name

        backToWindow();
        startAnew();
        QCOMPARE(effect().elements.size(), size_t(3));
        backToWindow();
        const FileAnswer open(path);
        QTest::keyClick(window_.get(), Qt::Key_O, Qt::ControlModifier);
        QTRY_COMPARE(effect().elements.size(), size_t(4));
        QVERIFY(with_effect_name(effect(), before.name) == before);

        QMenu recent;
        window_->files().fillRecent(&recent);
        QCOMPARE(recent.actions().first()->toolTip(), path);
    }

    void unsaved_changes_are_guarded() {
        document().apply(with_seed(effect(), 5), "seed");
        {
            const Answer answer("Go on working");
            QVERIFY(!window_->close());
            QVERIFY(answer.asked().contains("unsaved changes"));
        }
        QVERIFY(window_->isVisible());
        {
            backToWindow();
            const Answer answer("Discard the changes");
            startAnew();
            QCOMPARE(effect().seed, starter_effect().seed);
        }
    }

    void broken_file_is_opened_only_if_the_artist_says_so() {
        Effect sound = starter_effect();
        std::get<Emitter>(sound.elements[0].body).rate = 401;
        std::string text = effect_text(sound);
        text.replace(text.find("\"rate\": 401"), 11, "\"rate\": -4");
        const QString path = folder_->filePath("broken.ember.json");
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(text.c_str());
        file.close();
        document().reset(with_seed(starter_effect(), 123), {});
        {
            const Answer answer("Do not open");
            QVERIFY(!window_->files().openPath(path));
            QVERIFY2(answer.asked().contains("/elements/0/parameters/rate: found -4"),
                     qPrintable(answer.asked()));
        }
        QCOMPARE(effect().seed, 123u);
        const Answer answer("Open what is sound");
        QVERIFY(window_->files().openPath(path));
        QCOMPARE(std::get<Emitter>(effect().elements[0].body).rate, 400.0f);
        QVERIFY(document().path().isEmpty()); // saving must not overwrite the whole by the part
    }

    void unwritable_place_is_said_and_nothing_is_lost() {
        document().apply(with_seed(effect(), 5), "seed");
        const FileAnswer place("/proc/nowhere.ember.json");
        const Answer answer("OK");
        QTest::keyClick(window_.get(), Qt::Key_S, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(!document().isSaved());
        QCOMPARE(effect().seed, 5u);
        QVERIFY2(answer.asked().contains("cannot be written"), qPrintable(answer.asked()));
    }

    void capacity_beyond_the_whole_is_refused_with_the_memory_it_needs() {
        std::string id;
        Effect two = with_duplicate(effect(), "emitter", id);
        std::get<Emitter>(two.elements[0].body).capacity = 9'000'000;
        document().apply(two, "two");
        window_->select(id);
        auto* field = window_->detail()->row(id, "capacity")->findChild<NumberField*>();
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, "9000000");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(std::get<Emitter>(element(id.c_str()).body).capacity, 20000);
    }

    void mover_is_added_and_an_emitter_rides_on_it() {
        addByGallery(window_->boardPanel()->addMotionButton(), "Orbit");
        QTRY_VERIFY(find_element(effect(), "orbit") != nullptr);
        QVERIFY(board()->cellRect("orbit", "emitter").isEmpty()); // movers have no dials
        QVERIFY(!board()->muteRect("orbit").isEmpty() && board()->soloRect("orbit").isEmpty());
        window_->select("emitter");
        auto* rides = window_->detail()->row("emitter", "rides_on")->findChild<QComboBox*>();
        rides->setFocus();
        QTest::keyClicks(rides, "Orb");
        emit rides->activated(rides->currentIndex());
        QCOMPARE(std::get<Emitter>(element("emitter").body).rides_on, std::string("orbit"));
        // A metre to the side of where it was.
        Simulation simulation;
        simulation.set_effect(document().effect());
        for (int i = 0; i < 30; ++i) {
            simulation.step();
        }
        QVERIFY(simulation.meters().particles > 100);
        // Deleting the mover lets go of it.
        window_->select("orbit");
        window_->setFocus();
        QTest::keyClick(window_.get(), Qt::Key_Delete);
        QTRY_VERIFY(find_element(effect(), "orbit") == nullptr);
        QVERIFY(std::get<Emitter>(element("emitter").body).rides_on.empty());
    }

    void rows_are_shown_only_while_they_do_something() {
        window_->select("emitter");
        const auto shown = [&](const char* key) {
            return !window_->detail()->row("emitter", key)->isHidden();
        };
        QVERIFY(shown("rate") && shown("size") && !shown("thickness") && !shown("mesh"));
        auto* shapes = window_->detail()->row("emitter", "shape")->findChild<PictureChoice*>();
        QTest::mouseClick(shapes, Qt::LeftButton, {}, shapes->rectOf(int(BirthShape::ring)).center());
        QCOMPARE(std::get<Emitter>(element("emitter").body).shape, BirthShape::ring);
        QVERIFY(shown("thickness") && shown("extent") && !shown("points"));
        document().undo();
        QVERIFY(!shown("thickness"));
    }

    void path_points_are_typed_and_nonsense_is_refused() {
        Effect edited = effect();
        auto& emitter = std::get<Emitter>(edited.elements[0].body);
        emitter.shape = BirthShape::path;
        emitter.path = PathKind::points;
        document().apply(edited, "path");
        window_->select("emitter");
        auto* text = window_->detail()->row("emitter", "points")->findChild<QPlainTextEdit*>();
        text->setFocus();
        text->selectAll();
        for (const char* line : {"0 0 0", "1 2 0.5", "3 0 0"}) {
            QTest::keyClicks(text, line);
            QTest::keyClick(text, Qt::Key_Return);
        }
        QTest::keyClick(text, Qt::Key_Return, Qt::ControlModifier);
        QCOMPARE(std::get<Emitter>(element("emitter").body).points,
                 (Points{{0, 0, 0}, {1, 2, 0.5f}, {3, 0, 0}}));
        text->selectAll();
        QTest::keyClicks(text, "1 2");
        QTest::keyClick(text, Qt::Key_Return, Qt::ControlModifier);
        QCOMPARE(std::get<Emitter>(element("emitter").body).points.size(), size_t(3));
        QVERIFY(text->toPlainText().startsWith("0 0 0"));
    }

    void what_exceeds_the_capacity_is_said_before_it_hurts() {
        window_->select("emitter");
        auto* warning = [&]() -> QLabel* {
            for (QLabel* label : window_->detail()->findChildren<QLabel*>()) {
                if (label->accessibleName() == "Warning") {
                    return label;
                }
            }
            return nullptr;
        }();
        QVERIFY(warning != nullptr && warning->isHidden());
        Effect edited = effect();
        std::get<Emitter>(edited.elements[0].body).rate = 50000;
        document().apply(edited, "flood");
        QVERIFY(!warning->isHidden());
        QVERIFY2(warning->text().contains("about 100000 particles alive"), qPrintable(warning->text()));
    }

    void elements_that_ride_on_themselves_are_refused_and_nothing_is_lost() {
        Effect edited = effect();
        edited.elements.push_back({.id = "a", .name = "A", .body = Orbit{}});
        document().apply(edited, "orbit");
        window_->select("a");
        auto* rides = window_->detail()->row("a", "rides_on")->findChild<QComboBox*>();
        QCOMPARE(rides->findData("a"), -1); // not offered
        // What rides on it is shown, with the reason why it cannot be chosen.
        edited.elements.push_back({.id = "b", .name = "B", .body = Orbit{{{}, {}, "a"}}});
        edited.elements.push_back({.id = "wall", .name = "Wall", .body = Breakable{}});
        document().apply(edited, "two more");
        rides = window_->detail()->row("a", "rides_on")->findChild<QComboBox*>();
        const auto item_of = [&](const char* id) {
            return static_cast<QStandardItemModel*>(rides->model())->item(rides->findData(id));
        };
        QVERIFY(!item_of("b")->isEnabled() && item_of("b")->text().contains("rides on this"));
        QVERIFY(!item_of("wall")->isEnabled());
        QVERIFY(item_of("emitter")->isEnabled());
        // From elsewhere it is refused.
        edited = effect();
        std::get<Orbit>(edited.elements[edited.elements.size() - 3].body).rides_on = "b";
        QVERIFY(whole_refusal(edited));
    }

    void after_enter_undo_is_the_documents_in_every_field() {
        window_->select("emitter");
        const auto rate = [&] { return std::get<Emitter>(element("emitter").body).rate; };
        const float before = rate();
        auto* field = window_->detail()->row("emitter", "rate")->findChild<NumberField*>();
        QTest::mouseClick(field, Qt::LeftButton);
        QVERIFY(field->hasSelectedText() &&
                field->selectedText() == field->text()); // the first press takes all of it
        QTest::keyClicks(field, "77");
        // While something is being typed, undo is the field's.
        QTest::keyClick(field, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(rate(), before);
        QTest::keyClicks(field, "77");
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(rate() != before);
        QTest::keyClick(field, Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(rate(), before);
        QVERIFY(window_->statusBar()->currentMessage().contains("rate"));
        QTest::keyClick(field, Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(rate() != before);
        // In the title too, once it has been handed in.
        QTest::keyClick(window_.get(), Qt::Key_F2);
        QLineEdit* title = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        QVERIFY(title != nullptr);
        QTest::keyClicks(title, "Geyser");
        QTest::keyClick(title, Qt::Key_Return);
        QCOMPARE(element("emitter").name, std::string("Geyser"));
        QVERIFY(!title->hasFocus()); // keys are the window's again
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(element("emitter").name != "Geyser");
        QTest::keyClick(window_.get(), Qt::Key_F2);
        QTest::keyClicks(title, "No");
        QTest::keyClick(title, Qt::Key_Escape);
        QVERIFY(!title->hasFocus());
        QVERIFY(element("emitter").name != "No");
    }

    void an_edit_that_changes_nothing_is_no_step() {
        const auto undoes = document().history().can_undo();
        document().apply(effect(), "nothing");
        QCOMPARE(document().history().can_undo(), undoes);
    }

    void numbers_have_no_exponents() {
        QCOMPARE(shown_number(2.5e6, false), QString("2.5 M"));
        QCOMPARE(shown_number(1e7, true), QString("10 M"));
        QCOMPARE(shown_number(1234567, true), QString("1234567"));
        QCOMPARE(shown_number(1e-5, false), QString("0.00001"));
        QCOMPARE(shown_number(-0.5, false), QString("-0.5"));
        QCOMPARE(shown_number(0, false), QString("0"));
        for (const double number : {2.5e6, 1e7, 123456.0, 0.00012, -3e6}) {
            QCOMPARE(*typed_number(shown_number(number, false), {}), number);
        }
    }

    void rows_stay_under_the_hand_while_a_warning_comes() {
        window_->select("emitter");
        auto* rate = window_->detail()->row("emitter", "rate");
        auto* field = rate->findChild<NumberField*>();
        ParameterRow* next = window_->detail()->row("emitter", "lifetime");
        const QPoint before = next->mapTo(window_.get(), QPoint(0, 0));
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClicks(field, "900k");
        QTest::keyClick(field, Qt::Key_Return);
        QTRY_VERIFY(!rate->caution().isEmpty());
        QCOMPARE(next->mapTo(window_.get(), QPoint(0, 0)), before);
    }

    void shortcuts_fit_the_screen_and_are_found() {
        bool is_seen = false;
        DialogAnswer answer([&](QWidget* dialog) {
            auto* list = dialog->findChild<QTreeWidget*>();
            is_seen = list != nullptr && dialog->height() < window_->height();
            QTest::keyClicks(dialog->findChild<QLineEdit*>(), "undo");
            int shown = 0;
            for (int i = 0; list != nullptr && i < list->topLevelItemCount(); ++i) {
                shown += list->topLevelItem(i)->isHidden() ? 0 : 1;
            }
            is_seen = is_seen && shown >= 1 && shown < 4;
            static_cast<QDialog*>(dialog)->reject();
            return true;
        });
        QTest::keyClick(window_.get(), Qt::Key_F1);
        QVERIFY(answer.is_done() && is_seen);
    }

    void the_menu_shows_what_is_on() {
        const auto find = [&](const char* text) {
            for (QAction* action : window_->commands()) {
                if (action->text() == text) {
                    return action;
                }
            }
            return static_cast<QAction*>(nullptr);
        };
        QVERIFY(find("Handles")->isCheckable() && find("Handles")->isChecked());
        window_->view()->setFocus();
        QTest::keyClick(window_->view(), Qt::Key_K);
        QVERIFY(!find("Handles")->isChecked() && !window_->view()->handlesShown());
        QVERIFY(find("Wide board")->isCheckable());
    }

    void mesh_is_read_beside_the_interface_and_its_lack_is_said() {
        ember::sample::write_ball_mesh(folder_->filePath("ball.obj").toStdString());
        Effect edited = effect();
        edited.elements.push_back(
            {.id = "m", .name = "Mesh", .body = MeshCollider{}, .links = {{"emitter", 1}}});
        document().apply(edited, "mesh");
        QVERIFY(!document().save(folder_->filePath("effect.ember.json")));
        window_->select("m");
        auto* file = window_->detail()->row("m", "mesh")->findChild<QLineEdit*>();
        file->setFocus();
        QTest::keyClicks(file, "nowhere.obj");
        QTest::keyClick(file, Qt::Key_Return);
        const auto says = [&](const QString& what) {
            for (QLabel* label : window_->detail()->findChildren<QLabel*>()) {
                if (!label->isHidden() && label->text().contains(what)) {
                    return true;
                }
            }
            return false;
        };
        QTRY_VERIFY(says("no such file"));
        file->selectAll();
        QTest::keyClicks(file, "ball.obj");
        QTest::keyClick(file, Qt::Key_Return);
        QTRY_VERIFY(!says("no such file"));
        // It is in the running effect now: a frame has it among its colliders.
        const auto costs = [&] {
            const ElementMeter* meter = readings().find("m");
            return meter != nullptr && meter->ms > 0;
        };
        QTRY_VERIFY(costs());
        // Saved elsewhere, the file goes along.
        QDir().mkpath(folder_->filePath("other"));
        QVERIFY(window_->files().saveTo(folder_->filePath("other/copy.ember.json")));
        QVERIFY(QFileInfo::exists(folder_->filePath("other/ball.obj")));
    }

    void every_demo_opens_and_runs() {
        for (const QString& name : Files::demoNames()) {
            window_->files().openDemo(name);
            QTRY_VERIFY(readings().effect && *readings().effect == effect() &&
                        (readings().meters.particles > 1000 || readings().meters.debris.pieces > 50) &&
                        readings().time_s > 0);
            QVERIFY(document().isSaved() && document().path().isEmpty());
        }
        QCOMPARE(Files::demoNames().size(), 8);
    }

    void pictures_wait_for_steps_until_they_pause() {
        // What moves in Pan Steam leaves parts of its stage to be made smooth when there is time for it.
        window_->files().openDemo("pan-steam");
        QTRY_VERIFY(readings().effect && *readings().effect == effect() && readings().time_s > 0);
        const auto repeated = [&](int pictures) {
            int count = 0;
            for (int i = 0; i < pictures; ++i) {
                const uint64_t before = readings().step;
                driver::wait_for_pictures(*window_, 1);
                count += readings().step == before ? 1 : 0;
            }
            return count;
        };
        repeated(10);
        const int while_running = repeated(40);
        QVERIFY2(while_running <= 4, qPrintable(QString::number(while_running)));
        window_->view()->setFocus();
        QTest::keyClick(window_.get(), Qt::Key_P);
        repeated(2); // that are on their way
        QCOMPARE(repeated(3), 3);
    }

    void rows_are_filtered_and_hidden_by_their_heading() {
        addByGallery(window_->boardPanel()->addInfluenceButton(), "Wind");
        QVERIFY(!board()->nameRect("gravity").isEmpty());
        QLineEdit* filter = window_->boardPanel()->filterField();
        filter->setFocus();
        QTest::keyClicks(filter, "WIN");
        QVERIFY(board()->nameRect("gravity").isEmpty());
        QVERIFY(!board()->nameRect("wind").isEmpty());
        filter->clear();
        const QRect heading = board()->headingRect(Family::force);
        QTest::mouseClick(board(), Qt::LeftButton, {}, heading.center());
        QVERIFY(board()->nameRect("gravity").isEmpty() && board()->nameRect("wind").isEmpty());
        QVERIFY(!board()->nameRect("ground").isEmpty());
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->headingRect(Family::force).center());
        QVERIFY(!board()->nameRect("gravity").isEmpty());
    }

    void alt_turns_the_dials_of_a_whole_row() {
        window_->select("emitter");
        backToWindow();
        QTest::keyClick(window_.get(), Qt::Key_D, Qt::ControlModifier);
        const std::string copy = window_->workbench().selection();
        const QPoint from = board()->cellRect("gravity", "emitter").center();
        QTest::mousePress(board(), Qt::LeftButton, Qt::AltModifier, from);
        const QPoint to = from + QPoint(0, 40);
        QMouseEvent move(QEvent::MouseMove, to, board()->mapToGlobal(to), Qt::NoButton, Qt::LeftButton,
                         Qt::AltModifier);
        QApplication::sendEvent(board(), &move);
        QTest::mouseRelease(board(), Qt::LeftButton, Qt::AltModifier, to);
        QVERIFY(std::abs(find_link(element("gravity"), "emitter")->weight - 0.6f) < 0.02f);
        QCOMPARE(find_link(element("gravity"), copy)->weight,
                 find_link(element("gravity"), "emitter")->weight);
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(find_link(element("gravity"), copy)->weight, 1.0f);
    }

    void effect_of_sixty_elements_opens_about_as_fast_as_an_empty_one() {
        Effect crowded = starter_effect();
        std::string id;
        for (size_t i = 0; crowded.elements.size() < 60; ++i) {
            crowded = with_new_element(crowded, element_types()[i % element_types().size()], id);
        }
        const QString path = folder_->path() + "/crowded.ember.json";
        QVERIFY(!save_effect(crowded, path.toStdString()));
        QElapsedTimer watch;
        watch.start();
        QVERIFY(window_->files().openPath(path));
        waitForPicture();
        qInfo() << "opened in" << watch.elapsed() << "ms";
        QCOMPARE(effect().elements.size(), size_t(60));
    }

    void finder_runs_commands_adds_and_goes() {
        const auto find = [this](const char* letters) {
            driver::when_open<Finder>([letters](Finder* finder) {
                QTest::keyClicks(finder->field(), letters);
                QTest::keyClick(finder->field(), Qt::Key_Return);
            });
            backToWindow();
            QTest::keyClick(window_.get(), Qt::Key_F3);
        };
        find("add vor");
        QCOMPARE(window_->workbench().selection(), std::string("vortex"));
        find("go grav");
        QCOMPARE(window_->workbench().selection(), std::string("gravity"));
        find("duplic");
        QVERIFY(find_element(effect(), "gravity-2") != nullptr);
        find("undo");
        QVERIFY(find_element(effect(), "gravity-2") == nullptr);
    }

    void elements_are_copied_pasted_and_moved_by_keyboard() {
        window_->select("gravity");
        board()->setFocus();
        backToWindow();
        QTest::keyClick(window_.get(), Qt::Key_C, Qt::ControlModifier);
        QTest::keyClick(window_.get(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(window_->workbench().selection(), std::string("gravity-2"));
        const auto place = [this](const char* id) { return &element(id) - effect().elements.data(); };
        QVERIFY(place("gravity") < place("gravity-2"));
        QTest::keyClick(window_.get(), Qt::Key_Up, Qt::ControlModifier);
        QVERIFY(place("gravity") > place("gravity-2"));
        QApplication::clipboard()->setText("nonsense");
        const Effect before = effect();
        QTest::keyClick(window_.get(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(effect(), before);
    }

    void sections_fold_and_are_gone_to_and_parameters_are_filtered_and_found() {
        DetailPanel* detail = window_->detail();
        window_->select("emitter");
        const auto seen = [&](const char* key) { return detail->row("emitter", key)->isVisible(); };
        QVERIFY(seen("rate") && seen("position"));
        detail->filterField()->setFocus();
        QTest::keyClicks(detail->filterField(), "rat");
        QVERIFY(seen("rate") && !seen("position"));
        detail->filterField()->clear();
        QVERIFY(seen("position"));
        QTest::mouseClick(detail->heading("Amount"), Qt::LeftButton);
        QVERIFY(!seen("rate") && seen("position"));
        QVERIFY(detail->heading("Amount")->text().contains("+"));
        // The finder takes one there, and opens the section.
        driver::when_open<Finder>([](Finder* finder) {
            auto* field = finder->findChild<QLineEdit*>();
            QTest::keyClicks(field, "capacity of");
            QTest::keyClick(field, Qt::Key_Return);
        });
        backToWindow();
        QTest::keyClick(window_.get(), Qt::Key_F3);
        QTRY_VERIFY(seen("rate"));
        // A section is scrolled to.
        auto* scroll = detail->findChild<QScrollArea*>();
        driver::choose_in_menu([](const QString& text) { return text.startsWith("Look"); });
        QTest::mouseClick(detail->sectionsButton(), Qt::LeftButton);
        QTRY_VERIFY(scroll->verticalScrollBar()->value() > 100);
        const int place = scroll->verticalScrollBar()->value();
        // Another kind has its own place; back at the emitter it is where it was.
        window_->select("gravity");
        window_->select("emitter");
        QTRY_COMPARE(scroll->verticalScrollBar()->value(), place);
    }

    void what_is_outside_the_frame_is_dimmed() {
        Effect framed = effect();
        framed.stage.frame_shape = FrameShape::square;
        window_->workbench().edit(framed, "frame");
        const QRectF frame = window_->view()->frameRect();
        QVERIFY(std::abs(frame.width() - frame.height()) < 1e-6);
        QVERIFY(frame.height() == window_->view()->height() || frame.width() == window_->view()->width());
        driver::wait_for_pictures(*window_, 2);
        const QImage seen = window_->view()->grab().toImage();
        const Picture& picture = window_->workbench().pictureMaker().shot().picture;
        const auto dimmed = [&](QPoint at) {
            const QColor under(QRgb(picture.pixels[size_t(at.y()) * size_t(picture.width) + size_t(at.x())]));
            return seen.pixelColor(at).lightness() < under.lightness() * 0.75 + 2;
        };
        const QPoint outside = frame.left() > 20 ? QPoint(int(frame.left()) - 12, int(frame.center().y()))
                                                 : QPoint(int(frame.center().x()), int(frame.top()) - 12);
        QVERIFY(dimmed(outside));
        QVERIFY(!dimmed(frame.center().toPoint() + QPoint(0, 60)));
        framed.stage.frame_shape = FrameShape::free;
        window_->workbench().edit(framed, "frame");
        QCOMPARE(window_->view()->frameRect(), QRectF(window_->view()->rect()));
    }

    void picture_is_saved_at_any_size() {
        waitForPicture();
        const QString path = folder_->filePath("picture.png");
        QSignalSpy exported(&window_->workbench().pictureMaker(), &PictureMaker::exported);
        driver::when_open<PictureSheet>([path](PictureSheet* sheet) {
            const auto type = [](QLineEdit* field, const QString& text) {
                field->setFocus();
                field->selectAll();
                QTest::keyClicks(field, text);
                QTest::keyClick(field, Qt::Key_Return);
            };
            type(sheet->widthField(), "333");
            type(sheet->heightField(), "210");
            sheet->pathField()->setText(path);
            QTest::keyClick(sheet, Qt::Key_Return);
        });
        backToWindow();
        QTest::keyClick(window_.get(), Qt::Key_P, Qt::ControlModifier);
        QTRY_COMPARE(exported.count(), 1);
        QCOMPARE(exported[0][1].toString(), QString());
        const QImage image(path);
        QCOMPARE(image.size(), QSize(333, 210));
        // It is the picture that the window shows.
        const QImage shown = window_->view()->grab().toImage().scaled(333, 210, Qt::IgnoreAspectRatio,
                                                                      Qt::SmoothTransformation);
        QVERIFY(std::abs(qGreen(image.pixel(20, 200)) - qGreen(shown.pixel(20, 200))) < 40);
        // Where nothing can be written, that is said.
        window_->workbench().pictureMaker().exportPicture("/proc/nowhere.png", {64, 64});
        QTRY_COMPARE(exported.count(), 2);
        QVERIFY(exported[1][1].toString().contains("/proc/nowhere.png"));
    }

    void focus_is_set_by_a_press_on_what_is_seen() {
        waitForPicture();
        window_->view()->setHandlesShown(false);
        backToWindow();
        QTest::keyClick(window_.get(), Qt::Key_O);
        // The ground in front: y is 0 there.
        QTest::mouseClick(window_->view(), Qt::LeftButton, {},
                          QPoint(window_->view()->width() / 3, window_->view()->height() - 30));
        QTRY_VERIFY(effect().stage.focus != Stage().focus);
        QVERIFY(std::abs(effect().stage.focus.y) < 0.05f);
        const Camera& camera = window_->view()->camera();
        const ViewAxes view = axes_of(camera);
        QVERIFY(dot(effect().stage.focus - view.eye, view.forward) < camera.distance);
        // Escape leaves it.
        const Vec3 before = effect().stage.focus;
        backToWindow();
        QTest::keyClick(window_.get(), Qt::Key_O);
        QTest::keyClick(window_->view(), Qt::Key_Escape);
        QTest::mouseClick(window_->view(), Qt::LeftButton, {}, window_->view()->rect().center());
        const uint64_t step = readings().step; // a press would be answered with a picture
        QTRY_VERIFY(readings().step > step + 6);
        QCOMPARE(effect().stage.focus, before);
    }

    void every_shortcut_is_listed_once() {
        QSet<QString> keys;
        for (const QAction* action : window_->commands()) {
            QVERIFY(!action->toolTip().isEmpty());
            if (!action->shortcut().isEmpty()) {
                QVERIFY2(!keys.contains(action->shortcut().toString()),
                         qPrintable(action->shortcut().toString()));
                keys.insert(action->shortcut().toString());
            }
        }
        QVERIFY(keys.size() > 20);
    }

    void every_shortcut_of_the_list_works() {
        // What opens is closed again.
        QTimer closer;
        connect(&closer, &QTimer::timeout, [] {
            if (QWidget* open = QApplication::activePopupWidget()) {
                QTest::keyClick(open, Qt::Key_Escape);
            } else if (auto* dialog = qobject_cast<QDialog*>(QApplication::activeModalWidget())) {
                dialog->reject();
            }
        });
        closer.start(50);
        std::vector<QAction*> commands = window_->commands();
        // Last what opens the menu: without a window manager the window does not become active after it.
        std::stable_partition(commands.begin(), commands.end(),
                              [](const QAction* action) { return action->text() != "Open the menu"; });
        for (QAction* action : commands) {
            const QKeySequence keys = action->shortcut();
            if (keys.isEmpty() || action->text() == tr("Quit")) {
                continue;
            }
            document().reset(starter_effect(), {});
            std::string id;
            document().apply(with_duplicate(effect(), "gravity", id), "duplicate"); // something to undo
            if (action->text().startsWith("Redo")) {
                document().undo();
            }
            window_->select(id);
            QTRY_VERIFY(QApplication::activePopupWidget() == nullptr);
            backToWindow();
            window_->view()->setFocus();
            QSignalSpy triggered(action, &QAction::triggered);
            QTest::keyClick(window_.get(), keys[0].key(), keys[0].keyboardModifiers());
            QVERIFY2(triggered.count() == 1,
                     qPrintable(action->text() + QString(" %1").arg(triggered.count())));
            document().reset(effect(), {});
        }
    }

    void board_takes_twenty_rows_and_twelve_columns() {
        Effect large = effect();
        std::string id;
        for (int i = 0; i < 18; ++i) {
            large = with_new_element(large, *find_type("turbulence"), id);
        }
        for (int i = 0; i < 11; ++i) {
            large = with_duplicate(large, "emitter", id);
        }
        document().apply(large, "large");
        QVERIFY(!board()->cellRect("turbulence-18", id).isEmpty());
        QVERIFY(board()->rect().contains(board()->cellRect("turbulence-18", id)));
        waitForPicture();
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    QCoreApplication::setApplicationName("crisp-ember-test");
    QCoreApplication::setOrganizationName("crisp-ember-test");
    theme::apply(application);
    TestMainWindow test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_main_window.moc"
