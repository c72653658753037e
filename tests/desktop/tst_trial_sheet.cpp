// Trying side by side: seeds, a number, two numbers; beside what plays, with real mouse and keys.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "desktop/controls/number_field.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/dialogs/trial_sheet.h"
#include "desktop/files.h"

#include <QPushButton>

using namespace ember;

class TestTrialSheet : public driver::WindowTest {
    Q_OBJECT

    float strength() { return std::get<Gravity>(find_element(effect(), "gravity")->body).strength; }
    TrialSheet* open() {
        driver::run(*window_, "Try side by side...");
        auto* sheet = window_->findChild<TrialSheet*>();
        return sheet != nullptr && QTest::qWaitForWindowExposed(sheet) ? sheet : nullptr;
    }
    static bool allMade(const TrialSheet& sheet, size_t count) {
        const auto& results = sheet.trials().results();
        return results.size() == count &&
               std::all_of(results.begin(), results.end(), [](const auto& each) { return each.has_value(); });
    }

  private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void one_of_nine_seeds_is_chosen_while_the_effect_plays() {
        TrialSheet* sheet = open();
        QVERIFY(sheet != nullptr && !sheet->isModal());
        driver::type(sheet->atField(), "0.5");
        const uint32_t seed = effect().seed;
        QTest::mouseClick(sheet->tryButton(), Qt::LeftButton);
        QCOMPARE(sheet->tryButton()->text(), QString("Stop"));
        driver::wait_for_pictures(*window_, 3); // the live effect goes on
        QTRY_VERIFY(allMade(*sheet, 9));
        QCOMPARE(sheet->tryButton()->text(), QString("Try"));
        // Each is another picture.
        QSet<size_t> pictures;
        for (const auto& result : sheet->trials().results()) {
            QVERIFY(result->problem.isEmpty() && result->figures.particles_then > 0);
            pictures.insert(qHashBits(result->picture.pixels.data(), result->picture.pixels.size() * 4));
        }
        QCOMPARE(pictures.size(), qsizetype(9));
        QCOMPARE(effect().seed, seed); // nothing is taken by looking
        QTest::mouseClick(sheet->grid(), Qt::LeftButton, {}, sheet->grid()->rectOf(4).center());
        QTest::keyClick(sheet->grid(), Qt::Key_Right);
        QTest::mouseClick(sheet->takeButton(), Qt::LeftButton);
        QCOMPARE(effect().seed, seed + 5);
        bench().undo();
        QCOMPARE(effect().seed, seed);
    }

    void a_number_is_tried_over_a_range_from_its_own_menu() {
        window_->select("gravity");
        window_->detail()->goTo("gravity", "strength");
        ParameterRow* row = window_->detail()->row("gravity", "strength");
        driver::choose_in_menu("Try it over a range...");
        QContextMenuEvent event(QContextMenuEvent::Mouse, QPoint(10, 5), row->mapToGlobal(QPoint(10, 5)));
        QApplication::sendEvent(row, &event);
        QTRY_VERIFY(window_->findChild<TrialSheet*>() != nullptr);
        auto* sheet = window_->findChild<TrialSheet*>();
        QVERIFY(QTest::qWaitForWindowExposed(sheet));
        QCOMPARE(sheet->kinds()->currentText(), QString("one number"));
        driver::type(sheet->fromField(0), "2");
        driver::type(sheet->toField(0), "10");
        driver::type(sheet->countField(0), "5");
        driver::type(sheet->atField(), "0.4");
        // What is edited meanwhile stays: only the number is taken over.
        QTest::mouseClick(sheet->tryButton(), Qt::LeftButton);
        bench().edit(with_name(effect(), "gravity", "Weight"), "rename");
        QTRY_VERIFY(allMade(*sheet, 5));
        sheet->grid()->setFocus();
        QTest::keyClick(sheet->grid(), Qt::Key_Right);
        QTest::keyClick(sheet->grid(), Qt::Key_Right);
        QTest::keyClick(sheet->grid(), Qt::Key_Return);
        QCOMPARE(strength(), 6.0f);
        QCOMPARE(find_element(effect(), "gravity")->name, std::string("Weight"));
    }

    void two_numbers_make_a_grid_and_stopping_leaves_what_is_made() {
        TrialSheet* sheet = open();
        sheet->kinds()->setCurrentIndex(2);
        emit sheet->kinds()->activated(2);
        const auto choose = [&](int line, const char* name) {
            QComboBox* box = sheet->numbers(line);
            const int found = box->findText(name);
            QVERIFY2(found >= 0, name);
            box->setCurrentIndex(found);
            emit box->activated(found);
        };
        choose(0, "Gravity \u00b7 Strength");
        choose(1, "Emitter \u00b7 Rate");
        driver::type(sheet->fromField(0), "0");
        driver::type(sheet->toField(0), "4");
        driver::type(sheet->countField(0), "3");
        driver::type(sheet->fromField(1), "10");
        driver::type(sheet->toField(1), "30");
        driver::type(sheet->countField(1), "2");
        driver::type(sheet->atField(), "0.3");
        QTest::mouseClick(sheet->tryButton(), Qt::LeftButton);
        QTRY_VERIFY(allMade(*sheet, 6));
        // Across the first, down the second.
        QCOMPARE(sheet->grid()->rectOf(0).top(), sheet->grid()->rectOf(2).top());
        QVERIFY(sheet->grid()->rectOf(3).top() > sheet->grid()->rectOf(2).top());
        const auto& results = sheet->trials().results();
        QVERIFY(results[3]->figures.particles_most > results[0]->figures.particles_most);
        QTest::mouseDClick(sheet->grid(), Qt::LeftButton, {}, sheet->grid()->rectOf(5).center());
        QCOMPARE(strength(), 4.0f);
        QCOMPARE(std::get<Emitter>(find_element(effect(), "emitter")->body).rate, 30.0f);
        // A long one is stopped at once, and what is there stays.
        driver::type(sheet->atField(), "600");
        QTRY_VERIFY(!sheet->trials().isRunning());
        QTest::mouseClick(sheet->tryButton(), Qt::LeftButton);
        QTest::mouseClick(sheet->tryButton(), Qt::LeftButton);
        QVERIFY(!sheet->trials().isRunning());
        QCOMPARE(sheet->tryButton()->text(), QString("Try"));
        // An element that has gone is said.
        bench().remove({"gravity"});
        sheet->takeButton()->setEnabled(true);
        QTest::mouseClick(sheet->takeButton(), Qt::LeftButton);
        QVERIFY(find_element(effect(), "gravity") == nullptr);
    }
};

QTEST_MAIN(TestTrialSheet)
#include "tst_trial_sheet.moc"
