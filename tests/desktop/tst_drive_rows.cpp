// Drives, attached and changed with real mouse and keys in the window.
#include "window_driver.h"

#include "core/effect/drive.h"
#include "core/effect/effect_file.h"
#include "desktop/controls/modulator_drag.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/value_slider.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/drive_line.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/workbench/picture_maker.h"

#include <QContextMenuEvent>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QInputDialog>
#include <QLabel>
#include <QMenu>
#include <QMimeData>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTimer>
#include <QToolButton>
#include <QtTest>

#include <cmath>
#include <numbers>

using namespace ember;

class TestDriveRows : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    const Effect& effect() { return *window_->workbench().document().effect(); }
    ParameterRow* row(const char* holder, const char* key) { return window_->detail()->row(holder, key); }
    NumberField* field(ParameterRow* row) { return row->findChild<NumberField*>(); }

    // Opens what may drive a row by its key, and chooses from the menu (and the menu in it) by keyboard.
    void choose(ParameterRow* row, const QString& label, const QString& part = {}) {
        driver::when_open<QMenu>([label, part](QMenu* menu) {
            for (const QString& text : part.isEmpty() ? QStringList{label} : QStringList{part, label}) {
                QAction* found = nullptr;
                for (QAction* action : menu->actions()) {
                    found = action->text() == text ? action : found;
                }
                QVERIFY2(found != nullptr, qPrintable(text));
                menu->setActiveAction(found);
                QTest::keyClick(menu, found->menu() != nullptr ? Qt::Key_Right : Qt::Key_Return);
                menu = found->menu() != nullptr ? found->menu() : menu;
            }
        });
        QTest::keyClick(field(row), Qt::Key_M, Qt::AltModifier);
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get(), 120000));
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

    void a_cycle_is_attached_and_the_number_swings_with_its_period() {
        ParameterRow* rate = row("emitter", "rate");
        const auto before = effect_text(effect());
        choose(rate, "New cycle");
        rate = row("emitter", "rate"); // rows are made anew when there is another element
        QCOMPARE(effect().drives.size(), size_t(1));
        QCOMPARE(rate->driveLines().size(), size_t(1));
        QVERIFY(!field(rate)->isEnabled());
        driver::type(rate->driveLines()[0]->lowField(), "100");
        driver::type(rate->driveLines()[0]->highField(), "500");
        QCOMPARE(effect().drives[0].low, 100.0f);
        QCOMPARE(effect().drives[0].high, 500.0f);

        // Step by step, from the start.
        window_->workbench().player().pause();
        window_->workbench().player().rewind();
        const auto shown_step = [this] { return window_->workbench().pictureMaker().shot().readings.step; };
        QTRY_COMPARE(shown_step(), uint64_t(0));
        double least = 1e9, most = 0;
        for (uint64_t step = 1; step <= 130; ++step) {
            window_->workbench().player().step_once();
            QTRY_COMPARE(shown_step(), step);
            const double turns = double(step - 1) / 60 / 2; // of its period of 2 s
            const double wanted = 300 - 200 * std::cos(2 * std::numbers::pi * turns);
            QVERIFY(std::abs(field(rate)->number() - wanted) < 1.01); // shown with three digits
            least = std::min(least, field(rate)->number());
            most = std::max(most, field(rate)->number());
        }
        QVERIFY(least < 102 && most > 498);

        for (int i = 0; i < 3; ++i) {
            QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        }
        QVERIFY2(effect_text(effect()) == before,
                 window_->workbench().document().history().undo_label().c_str());
        QVERIFY(field(row("emitter", "rate"))->isEnabled());
    }

    void a_modulator_is_carried_onto_a_number() {
        choose(row("emitter", "rate"), "New cycle");
        ParameterRow* speed = row("emitter", "speed");
        const auto fields = speed->findChildren<NumberField*>();
        QMimeData carried;
        carried.setData(modulator_mime, "cycle");
        const QPoint on_high = fields[1]->geometry().center();
        QDragEnterEvent enter(on_high, Qt::CopyAction, &carried, Qt::LeftButton, {});
        QApplication::sendEvent(speed, &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(on_high, Qt::CopyAction, &carried, Qt::LeftButton, {});
        QApplication::sendEvent(speed, &drop);
        QCOMPARE(effect().drives.size(), size_t(2));
        QCOMPARE(effect().drives[1].parameter, std::string("speed"));
        QCOMPARE(effect().drives[1].part, 1); // the end that it was dropped on
        // What is no modulator is not taken, nor onto a number that cannot be driven.
        carried.setData(modulator_mime, "gravity");
        QDragEnterEvent wrong(on_high, Qt::CopyAction, &carried, Qt::LeftButton, {});
        QApplication::sendEvent(speed, &wrong);
        QVERIFY(!wrong.isAccepted());
        QVERIFY(!row("emitter", "capacity")->acceptDrops());
    }

    void a_shared_modulator_says_so_and_is_made_own() {
        choose(row("emitter", "rate"), "New cycle");
        QVERIFY(row("emitter", "rate")->driveLines()[0]->sharedChip()->isHidden());
        choose(row("emitter", "spread"), "Cycle");
        QToolButton* chip = row("emitter", "spread")->driveLines()[0]->sharedChip();
        QVERIFY(!chip->isHidden());
        QCOMPARE(chip->text(), QString("+1"));
        driver::when_open<QMenu>([](QMenu* menu) {
            QVERIFY(menu->actions().first()->text().contains("rate"));
            menu->setActiveAction(menu->actions().last());
            QTest::keyClick(menu, Qt::Key_Return);
        });
        QTest::mouseClick(chip, Qt::LeftButton);
        QTRY_COMPARE(effect().elements.size(), starter_effect().elements.size() + 2);
        const Drive& rate = effect().drives[0];
        const Drive& spread = effect().drives[1];
        QVERIFY(rate.modulator != spread.modulator);
        QVERIFY(find_element(effect(), spread.modulator)->body ==
                find_element(effect(), rate.modulator)->body);
        QVERIFY(row("emitter", "rate")->driveLines()[0]->sharedChip()->isHidden());
    }

    void a_note_is_kept_with_the_parameter() {
        const auto choose_of_name = [](ParameterRow* row, const char* part) {
            driver::choose_in_menu([part](const QString& text) { return text.contains(part); });
            const QPoint place(3, 3);
            QContextMenuEvent press(QContextMenuEvent::Mouse, place, row->mapToGlobal(place));
            QApplication::sendEvent(row, &press);
        };
        driver::answer_text("  above 900 the mist is too thick ");
        choose_of_name(row("emitter", "rate"), "Note");
        QCOMPARE(effect().notes.size(), size_t(1));
        QCOMPARE(effect().notes[0].text, std::string("above 900 the mist is too thick"));
        QVERIFY(row("emitter", "rate")->toolTip().contains("too thick"));
        QVERIFY(parse_effect(effect_text(effect()), "x").effect == effect());
        choose_of_name(row("emitter", "rate"), "away");
        QVERIFY(effect().notes.empty());
        QVERIFY(!row("emitter", "rate")->toolTip().contains("too thick"));
    }

    void too_much_is_said_at_the_slider_while_it_is_held() {
        ParameterRow* rate = row("emitter", "rate");
        auto* slider = rate->findChild<ValueSlider*>();
        const QPoint middle = slider->rect().center();
        QTest::mousePress(slider, Qt::LeftButton, {}, QPoint(4, middle.y()));
        const QPoint end(slider->width() - 3, middle.y());
        QMouseEvent move(QEvent::MouseMove, end, slider->mapToGlobal(end), Qt::NoButton, Qt::LeftButton, {});
        QApplication::sendEvent(slider, &move);
        // Still held: the figure and the limit are there.
        QVERIFY(!rate->caution().isEmpty());
        const auto& emitter = std::get<Emitter>(effect().elements[0].body);
        const QString expected = QString::number(qint64(double(emitter.rate) * 2 + 0.5));
        QVERIFY2(rate->caution().contains(expected), qPrintable(rate->caution()));
        QVERIFY(rate->caution().contains("20000"));
        QTest::mouseRelease(slider, Qt::LeftButton, {}, end);
        QVERIFY(!rate->caution().isEmpty());
        // A row that has nothing to do with it keeps silent.
        ParameterRow* spread = row("emitter", "spread");
        driver::type(spread->findChild<NumberField*>(), "33");
        QVERIFY(spread->caution().isEmpty());
        QVERIFY(!rate->caution().isEmpty());
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QTest::keyClick(window_.get(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(rate->caution().isEmpty());
    }

    void one_modulator_drives_several_numbers_and_is_gone_to() {
        choose(row("emitter", "rate"), "New sway");
        choose(row("emitter", "spread"), "Sway");
        choose(row("emitter", "speed"), "Sway", "high");
        QCOMPARE(effect().drives.size(), size_t(3));
        QCOMPARE(effect().drives[2].part, 1);
        QCOMPARE(effect().drives[2].modulator, effect().drives[0].modulator);

        auto* name = row("emitter", "speed")->driveLines()[0]->findChild<QToolButton*>();
        QTest::mouseClick(name, Qt::LeftButton);
        QCOMPARE(window_->workbench().selection(), effect().drives[0].modulator);

        // Deleting it lets everything go.
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        QTest::keyClick(window_.get(), Qt::Key_Delete);
        QVERIFY(effect().drives.empty());
    }

    void typing_the_other_end_keeps_what_was_set() {
        const Range before = std::get<Emitter>(effect().elements[0].body).speed;
        choose(row("emitter", "speed"), "New growth", "high");
        ParameterRow* speed = row("emitter", "speed");
        // Until it has shown driven values.
        QTRY_VERIFY(window_->workbench().pictureMaker().shot().readings.modulators.size() == 1);
        driver::type(speed->findChildren<NumberField*>()[0], "1.25");
        const Range after = std::get<Emitter>(find_element(effect(), "emitter")->body).speed;
        QCOMPARE(after.low, 1.25f);
        QCOMPARE(after.high, before.high);
    }

    void drive_is_taken_off() {
        choose(row("emitter", "rate"), "New steps");
        choose(row("emitter", "rate"), "Not driven");
        QVERIFY(effect().drives.empty());
        QVERIFY(field(row("emitter", "rate"))->isEnabled());
        QVERIFY(find_element(effect(), "steps") != nullptr);
    }

    void what_is_driven_is_not_dragged() {
        choose(row("emitter", "spread"), "New cycle");
        ParameterRow* spread = row("emitter", "spread");
        auto* slider = spread->findChild<ValueSlider*>();
        const float before = std::get<Emitter>(find_element(effect(), "emitter")->body).spread;
        QTest::mouseClick(slider, Qt::LeftButton, {}, QPoint(slider->width() - 8, slider->height() / 2));
        QCOMPARE(std::get<Emitter>(find_element(effect(), "emitter")->body).spread, before);
    }

    void a_range_out_of_bounds_is_refused() {
        choose(row("emitter", "spread"), "New cycle");
        ParameterRow* spread = row("emitter", "spread");
        const Drive before = effect().drives[0];
        driver::type(spread->driveLines()[0]->highField(), "1e9");
        QCOMPARE(effect().drives[0], before);
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    theme::apply(application);
    TestDriveRows test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_drive_rows.moc"
