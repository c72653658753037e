// Budgets that steer, by real mouse and keys: why a moment was dear, what things are worth, values that fit,
// A and B, and the keeper at work.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "desktop/compare/compare_view.h"
#include "desktop/compare/compare_window.h"
#include "desktop/controls/number_field.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/dialogs/fit_sheet.h"
#include "desktop/dialogs/worth_sheet.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/strip/why_card.h"
#include "desktop/top/gauge.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/live_view.h"

#include <QCheckBox>
#include <QComboBox>
#include <QContextMenuEvent>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <QTreeWidget>

using namespace ember;

class TestBudgetWindows : public driver::WindowTest {
    Q_OBJECT

    float rate() { return std::get<Emitter>(find_element(effect(), "emitter")->body).rate; }
    void setRate(float rate) {
        const Holder holder = *find_holder(effect(), "emitter");
        bench().edit(with_value(effect(), "emitter", *holder.find("rate"), rate), "rate");
    }
    void setBudget(const char* key, const Value& value) {
        const Holder holder = *find_holder(effect(), budget_id);
        bench().edit(with_value(effect(), budget_id, *holder.find(key), value), "limit");
    }
    template <class Window>
    Window* opened(Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::ControlModifier) {
        window_->activateWindow();
        QTest::keyClick(window_.get(), key, modifiers);
        auto* opened = window_->findChild<Window*>();
        return opened != nullptr && QTest::qWaitForWindowExposed(opened) ? opened : nullptr;
    }

  private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void a_press_on_the_strip_says_why() {
        BudgetStrip* strip = window_->strip();
        QTRY_VERIFY(strip->spanSeen() > 0 && bench().pictureMaker().shot().readings.time_s > 1);
        QVERIFY(!window_->whyCard()->isVisible());
        const QPoint moment = strip->momentPlace(0.5);
        QTest::mousePress(strip, Qt::LeftButton, {}, moment);
        QTRY_VERIFY(window_->whyCard()->isVisible());
        QTRY_VERIFY(std::abs(window_->whyCard()->why()->time_s - 0.5) < 0.1);
        QVERIFY(window_->whyCard()->why()->frame_ms > 0);
        // It lies over the picture, and within it.
        QVERIFY(window_->whyCard()->parentWidget()->rect().contains(window_->whyCard()->geometry()));
        window_->select(std::string(stage_id));
        for (const Why::Part& part : window_->whyCard()->why()->parts) {
            if (const QRect line = window_->whyCard()->rectOf(part.id); !part.id.empty() && !line.isEmpty()) {
                QTest::mouseClick(window_->whyCard(), Qt::LeftButton, {}, line.center());
                QCOMPARE(bench().selection(), part.id);
                break;
            }
        }
        // Once it plays on there is nothing to ask.
        QTest::mouseRelease(strip, Qt::LeftButton, {}, moment);
        QTRY_VERIFY(bench().isPlaying() && !window_->whyCard()->isVisible());
    }

    void what_things_are_worth_is_measured_while_the_effect_plays() {
        setRate(3000);
        auto* sheet = opened<WorthSheet>(Qt::Key_M);
        QVERIFY(sheet != nullptr && !sheet->isModal());
        driver::type(sheet->toField(), "0.5");
        driver::type(sheet->roundsField(), "1");
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QCOMPARE(sheet->startButton()->text(), QString("Stop"));
        driver::wait_for_pictures(*window_, 3); // the live effect goes on
        QTRY_VERIFY(sheet->table().share_done == 1);
        QTRY_COMPARE(sheet->startButton()->text(), QString("Measure"));
        const auto& lines = sheet->list()->lines();
        const auto emitter = std::find_if(lines.begin(), lines.end(), [](const WorthList::Line& line) {
            return line.worth.off.holder == "emitter";
        });
        QVERIFY(emitter != lines.end());
        QVERIFY(emitter->worth.change > 0.9 && emitter->worth.particles > 1000);
        // The switch at the right mutes it, and sounds it again.
        const int index = int(emitter - lines.begin());
        QTest::mouseClick(sheet->list(), Qt::LeftButton, {}, sheet->list()->switchOf(index).center());
        QVERIFY(find_element(effect(), "emitter")->muted);
        QVERIFY(sheet->list()->lines()[size_t(index)].is_off);
        QTest::keyClick(sheet->list(), Qt::Key_Space);
        QVERIFY(!find_element(effect(), "emitter")->muted);
        // Bloom goes off by an edit that undo takes back.
        const float bloom = effect().stage.bloom;
        for (int i = 0; i < int(lines.size()); ++i) {
            if (lines[size_t(i)].worth.off.what == Switch::What::bloom) {
                QTest::mouseClick(sheet->list(), Qt::LeftButton, {}, sheet->list()->switchOf(i).center());
                break;
            }
        }
        QCOMPARE(effect().stage.bloom, 0.0f);
        bench().undo();
        QCOMPARE(effect().stage.bloom, bloom);
    }

    void measuring_is_refused_in_words_and_stopped_at_once() {
        auto* sheet = opened<WorthSheet>(Qt::Key_M);
        driver::type(sheet->fromField(), "3");
        driver::type(sheet->toField(), "1");
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(!sheet->isRunning() && sheet->words()->text().contains("ends before it begins"));
        driver::type(sheet->fromField(), "0");
        driver::type(sheet->toField(), "600");
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(sheet->isRunning());
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(!sheet->isRunning());
        QCOMPARE(sheet->startButton()->text(), QString("Measure"));
        // A window that is closed while it measures is gone.
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        sheet->close();
        QTRY_VERIFY(window_->findChild<WorthSheet*>() == nullptr);
        driver::wait_for_pictures(*window_, 1);
    }

    void values_are_found_and_taken_with_one_edit() {
        setRate(3000);
        setBudget("particles", 1200);
        setBudget("frame_ms", 5000.0f);
        auto* sheet = opened<FitSheet>(Qt::Key_F, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(sheet != nullptr);
        QCOMPARE(sheet->lines().size(), size_t(2)); // its rate, and bloom
        QVERIFY(!sheet->takeButton()->isEnabled());
        driver::type(sheet->toField(), "0.8");
        const auto press = [&](const FitSheet::Line& line) {
            QTest::mouseClick(line.takes_part, Qt::LeftButton, {}, QPoint(8, line.takes_part->height() / 2));
        };
        // Nothing may change: said, not begun.
        press(sheet->lines()[0]);
        press(sheet->lines()[1]);
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(sheet->words()->text().contains("no number may change"));
        press(sheet->lines()[0]);
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QTRY_VERIFY(sheet->takeButton()->isEnabled());
        QVERIFY(sheet->result()->holds);
        QVERIFY(sheet->result()->after.particles_most <= 1140);
        QVERIFY(sheet->words()->text().contains("It holds"));
        QCOMPARE(rate(), 3000.0f); // nothing is taken by finding
        QTest::mouseClick(sheet->takeButton(), Qt::LeftButton);
        QVERIFY(rate() < 1500);
        QVERIFY(!sheet->takeButton()->isEnabled());
        bench().undo();
        QCOMPARE(rate(), 3000.0f);
    }

    void two_values_of_a_number_are_compared_without_an_edit() {
        window_->select("emitter");
        window_->detail()->goTo("emitter", "rate");
        ParameterRow* row = window_->detail()->row("emitter", "rate");
        const float before = rate();
        const auto ask = [&](const char* value) {
            driver::choose_in_menu("Compare with another value...");
            driver::answer_text(value);
            QContextMenuEvent event(QContextMenuEvent::Mouse, QPoint(10, 5), row->mapToGlobal(QPoint(10, 5)));
            QApplication::sendEvent(row, &event);
        };
        ask("minus many");
        QTRY_VERIFY(QApplication::activePopupWidget() == nullptr &&
                    QApplication::activeModalWidget() == nullptr);
        QVERIFY(window_->findChild<CompareWindow*>() == nullptr);
        ask("77");
        QTRY_VERIFY(window_->findChild<CompareWindow*>() != nullptr);
        auto* compare = window_->findChild<CompareWindow*>();
        const auto rate_of = [&](int side) {
            return std::get<Emitter>(find_element(*compare->effect(side), "emitter")->body).rate;
        };
        QCOMPARE(rate_of(0), 77.0f);
        QCOMPARE(rate_of(1), before);
        QVERIFY(compare->versions(0)->currentText().contains("77"));
        QCOMPARE(rate(), before);
        QSignalSpy shown(compare, &CompareWindow::shown);
        QVERIFY(shown.wait(120000));
        QTest::mouseClick(compare->keepButton(0), Qt::LeftButton);
        QCOMPARE(rate(), 77.0f);
    }

    void a_and_b_run_in_step_and_one_is_kept() {
        setRate(200);
        setRate(2000);
        auto* compare = opened<CompareWindow>(Qt::Key_B);
        QVERIFY(compare != nullptr);
        QCOMPARE(compare->versions(1)->currentText(), QString("the effect now"));
        QVERIFY(compare->versions(0)->currentText().startsWith("before"));
        QVERIFY(!bench().isPlaying()); // two are enough
        QTRY_VERIFY(compare->plot()->costs().size() > 20);
        QTRY_VERIFY(compare->figures()->text().contains("particles"));
        // What differs, in words.
        QCOMPARE(compare->table()->topLevelItemCount(), 1);
        QVERIFY(compare->table()->topLevelItem(0)->text(0).contains("Rate"));
        QVERIFY(compare->table()->topLevelItem(0)->text(1).startsWith("200"));
        // The line between them is dragged.
        CompareView* view = compare->view();
        const QPoint line(int(view->division() * view->width()), view->height() / 2);
        QTest::mousePress(view, Qt::LeftButton, {}, line);
        QTest::mouseMove(view, line + QPoint(-120, 0));
        QTest::mouseRelease(view, Qt::LeftButton, {}, line + QPoint(-120, 0));
        QVERIFY(std::abs(view->division() * view->width() - (line.x() - 120)) < 4);
        // A dial acts on the side that is the effect now.
        setRate(500);
        QTRY_COMPARE(std::get<Emitter>(find_element(*compare->effect(1), "emitter")->body).rate, 500.0f);
        QCOMPARE(std::get<Emitter>(find_element(*compare->effect(0), "emitter")->body).rate, 200.0f);
        for (int mode = 0; mode < 3; ++mode) {
            compare->modes()->setCurrentIndex(mode);
            emit compare->modes()->activated(mode);
            QSignalSpy shown(compare, &CompareWindow::shown);
            QVERIFY(shown.wait(30000));
            QVERIFY(!view->grab().toImage().isNull());
        }
        // The other one is worked on from then on, until undo.
        QTest::mouseClick(compare->keepButton(0), Qt::LeftButton);
        QCOMPARE(rate(), 200.0f);
        setRate(300);
        QTRY_COMPARE(std::get<Emitter>(find_element(*compare->effect(0), "emitter")->body).rate, 300.0f);
        QCOMPARE(std::get<Emitter>(find_element(*compare->effect(1), "emitter")->body).rate, 500.0f);
        QTest::mouseClick(compare->swapButton(), Qt::LeftButton);
        QCOMPARE(std::get<Emitter>(find_element(*compare->effect(1), "emitter")->body).rate, 300.0f);
        bench().undo();
        bench().undo();
        QCOMPARE(rate(), 500.0f);
        compare->close();
        QTRY_VERIFY(window_->findChild<CompareWindow*>() == nullptr);
        QTRY_VERIFY(bench().isPlaying()); // as it was
    }

    // The same effect on both sides is the same picture.
    void equal_versions_differ_in_nothing() {
        auto* compare = opened<CompareWindow>(Qt::Key_B);
        compare->versions(0)->setCurrentIndex(0);
        emit compare->versions(0)->activated(0);
        QCOMPARE(compare->table()->topLevelItem(0)->text(0), QString("nothing: both are the same effect"));
        compare->modes()->setCurrentIndex(2);
        emit compare->modes()->activated(2);
        for (int i = 0; i < 4; ++i) {
            QSignalSpy shown(compare, &CompareWindow::shown);
            QVERIFY(shown.wait(30000));
        }
        const QImage seen = compare->view()->grab().toImage();
        for (int x = 10; x < seen.width(); x += 37) {
            QCOMPARE(seen.pixelColor(x, seen.height() / 2), QColor(0, 0, 0));
        }
    }

    // As one that takes ten times as long would have it; this one is measured first, unless it is known.
    void costs_are_shown_as_another_machine_would_have_them() {
        MachineProfile here;
        here.name = "this machine";
        here.ms.fill(1);
        QFile kept(folder_->filePath("this-machine.profile.json"));
        QVERIFY(kept.open(QIODevice::WriteOnly));
        kept.write(QByteArray::fromStdString(text_of(here)));
        kept.close();
        MachineProfile there = here;
        there.name = "Slow box";
        there.ms.fill(1000);
        QVERIFY(!window_->topBar()->machineButton()->isVisible());
        bench().machines().choose(there);
        QVERIFY(bench().machines().isPredicting());
        QVERIFY(window_->topBar()->machineButton()->text().startsWith("for Slow"));
        QCOMPARE(window_->topBar()->frameGauge()->name(), QString("Predicted"));
        driver::wait_for_pictures(*window_, 3);
        const double measured = bench().pictureMaker().shot().readings.frame_ms();
        QVERIFY(bench().readings().frame_ms() > 500 * measured);
        QVERIFY(bench().readings().frame_ms() < 1500 * measured);
        for (QAction* action : window_->commands()) {
            if (action->text() == "This machine") {
                action->trigger();
            }
        }
        QVERIFY(!bench().machines().isPredicting() && !window_->topBar()->machineButton()->isVisible());
        driver::wait_for_pictures(*window_, 2);
        QCOMPARE(bench().readings().frame_ms(), bench().pictureMaker().shot().readings.frame_ms());
        // Those that come with the program are there, and named in the menu.
        const std::vector<MachineProfile> known = Machines::known();
        QCOMPARE(known.size(), size_t(3));
        for (const MachineProfile& machine : known) {
            QVERIFY(std::any_of(window_->commands().begin(), window_->commands().end(), [&](QAction* action) {
                return action->text().toStdString() == machine.name;
            }));
        }
    }

    // A limit that no machine keeps.
    void near_the_limit_the_effect_gives_way_and_says_so() {
        setRate(2000);
        setBudget("frame_ms", 0.1f);
        const auto given = [this] { return bench().pictureMaker().shot().readings.gives; };
        driver::wait_for_pictures(*window_, 5);
        QCOMPARE(given(), Gives());
        setBudget("keeper", true);
        QTRY_VERIFY(given()[size_t(GiveWay::births)] == most_given);
        QCOMPARE(given()[size_t(GiveWay::picture)], uint8_t(most_given));
        // The picture is drawn smaller, and shown as large as ever.
        const Picture& picture = bench().pictureMaker().shot().picture;
        QVERIFY(std::abs(picture.width - window_->view()->pictureSize().width() * 3 / 5) <= 1);
        // Switched off, all is done again.
        setBudget("keeper", false);
        QTRY_VERIFY(given() == Gives());
    }
};

QTEST_MAIN(TestBudgetWindows)
#include "tst_budget_windows.moc"
