// docs/from-empty-to-spray.md, step by step with mouse and keys: what it names is there, and it leads where
// it says.
#include "window_driver.h"

#include "core/budget/expected.h"
#include "core/effect/effect_file.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/choice_pictures.h"
#include "desktop/controls/number_field.h"
#include "desktop/curves/curve_editor.h"
#include "desktop/curves/curve_plot.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/gallery/gallery.h"
#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"
#include "desktop/workbench/picture_maker.h"

#include <QApplication>
#include <QComboBox>
#include <QFileDialog>
#include <QLineEdit>
#include <QMenu>
#include <QSpinBox>
#include <QTemporaryDir>
#include <QTimer>
#include <QToolButton>
#include <QtTest>

using namespace ember;

class TestGuide : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    std::unique_ptr<MainWindow> window_;

    const Effect& effect() { return *window_->workbench().document().effect(); }
    Board* board() { return window_->boardPanel()->board(); }
    std::string id() { return window_->workbench().selection(); }
    std::string lookId() { return std::get<Emitter>(find_element(effect(), id())->body).look; }

    void key(int key, Qt::KeyboardModifiers keys = {}) {
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        QTest::keyClick(window_.get(), Qt::Key(key), keys);
    }
    // Types figures into the fields of a parameter's row, as they stand in the guide.
    void type(const std::string& holder, const char* parameter, const QStringList& figures) {
        QCoreApplication::processEvents(); // rows that are made anew are laid out
        ParameterRow* row = window_->detail()->row(holder, parameter);
        QVERIFY2(row != nullptr && row->isVisible(), parameter);
        const auto fields = row->findChildren<NumberField*>();
        for (qsizetype i = 0; i < figures.size(); ++i) {
            if (!figures[i].isEmpty()) {
                fields[i]->setFocus();
                fields[i]->selectAll();
                QTest::keyClicks(fields[i], figures[i]);
                QTest::keyClick(fields[i], Qt::Key_Return);
            }
        }
    }
    void set(const char* parameter, const QStringList& figures) { type(id(), parameter, figures); }
    void look(const char* parameter, const QStringList& figures) { type(lookId(), parameter, figures); }
    void choose(const std::string& holder, const char* parameter, const char* word) {
        QCoreApplication::processEvents();
        ParameterRow* row = window_->detail()->row(holder, parameter);
        QVERIFY2(row != nullptr && row->isVisible(), parameter);
        if (auto* pictures = row->findChild<PictureChoice*>()) {
            pictures->setFocus();
            QTest::keyClicks(pictures, word);
            QCOMPARE(row->parameter().choices[size_t(pictures->current())], std::string_view(word));
            return;
        }
        auto* box = row->findChild<QComboBox*>();
        box->setFocus();
        QTest::keyClicks(box, word);
        emit box->activated(box->currentIndex());
        QCOMPARE(box->currentText(), QString(word));
    }
    void rename(const char* name) {
        key(Qt::Key_F2);
        auto* field = qobject_cast<QLineEdit*>(window_->detail()->firstField());
        QTest::keyClicks(field, name);
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(find_element(effect(), id())->name, std::string(name));
    }
    void add(QToolButton* button, const char* words) {
        const size_t before = effect().elements.size();
        driver::answer_gallery(words);
        QTest::mouseClick(button, Qt::LeftButton);
        QCOMPARE(effect().elements.size(), before + 1);
    }
    void influence(const char* words) { add(window_->boardPanel()->addInfluenceButton(), words); }
    // Enter on the board's cell, then the figure.
    void dial(const std::string& influence, const std::string& source, const char* percent) {
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->nameRect(source).center());
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->nameRect(influence).center());
        board()->setFocus();
        QTest::keyClick(board(), Qt::Key_Return);
        auto* field = board()->findChild<QSpinBox*>();
        QTest::keyClicks(field, percent);
        QTest::keyClick(field, Qt::Key_Return);
        const float wanted = QString(percent).toFloat() / 100;
        QCOMPARE(find_link(*find_element(effect(), influence), source)->weight, wanted);
    }

  private slots:
    void from_empty_to_spray() {
        window_ = driver::shown_window(folder_.path());
        QVERIFY(window_ != nullptr);

        // 1. New
        driver::when_open<Gallery>([](Gallery* gallery) {
            QVERIFY(gallery->chosen().title == "Small and empty");
            QTest::keyClick(gallery->filterField(), Qt::Key_Return);
        });
        key(Qt::Key_N, Qt::ControlModifier);
        QCOMPARE(effect().elements.size(), size_t(3));

        // 2. The jet
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->nameRect("emitter").center());
        rename("Spray jet");
        choose(id(), "shape", "line");
        set("size", {"2.2"});
        set("position", {"-1.75", "2.25", "0"});
        set("turn", {"", "90"});
        set("capacity", {"40000"});
        set("rate", {"11000"});
        set("direction", {"1", "0.75", "0"});
        set("spread", {"9"});
        set("speed", {"4.2", "6.2"});
        set("lifetime", {"1.6", "3"});
        set("particle_size", {"8 mm", "28 mm"});
        QVERIFY(std::abs(expected_counts(effect())[0].live - 25300) < 1);

        // 3. Look round
        window_->view()->orbit(10, 4);
        key(Qt::Key_H, Qt::ShiftModifier);
        QCOMPARE(effect().stage.camera_azimuth, window_->view()->camera().azimuth);

        // 4. Air
        influence("wind");
        set("direction", {"1", "0.1", "0.35"});
        set("speed", {"2.2"});
        set("grip", {"0.5"});
        set("gusts", {"0.6"});
        dial("wind", "emitter", "60");
        influence("slows");
        set("linear", {"0.15"});
        set("quadratic", {"0.03"});
        influence("turbulence");
        set("strength", {"4.5"});
        set("eddy_size", {"0.7"});
        set("churn", {"0.9"});
        set("drift", {"1.2"});
        dial("turbulence", "emitter", "80");
        window_->view()->setFocus();
        while (window_->lensBar()->lens().kind != ForceLens::Kind::slice) {
            key(Qt::Key_L);
        }
        QTRY_VERIFY(window_->workbench().pictureMaker().shot().readings.field != nullptr);
        window_->lensBar()->choose(ForceLens::Kind::none);

        // 5. Things to hit
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->nameRect("ground").center());
        set("bounce", {"0.28"});
        set("friction", {"0.35"});
        set("roughness", {"0.45"});
        influence("box");
        rename("Walkway");
        set("position", {"1.25", "0.62", "0"});
        set("size", {"1.3", "0.16", "4.6"});
        set("bounce", {"0.38"});
        set("roughness", {"0.6"});
        influence("box");
        rename("Sluice gate");
        set("position", {"-1.98", "1.1", "0"});
        set("size", {"0.34", "2.2", "3"});

        // 6. The look
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->nameRect("emitter").center());
        ParameterRow* size = window_->detail()->row(lookId(), "size_over_life");
        size->openEditor();
        auto* plot = size->findChild<CurveEditor*>()->plot();
        QTest::mouseClick(plot, Qt::LeftButton, {}, plot->placeOf(0.12f, plot->curve().at(0.12f)).toPoint());
        QVERIFY(find_look(effect(), lookId())->size_over_life.points.size() > 2);
        look("glow", {"1.15"});

        // 7. The sheet of water
        key(Qt::Key_D, Qt::ControlModifier);
        rename("Sheet");
        const std::string shared_look = lookId();
        QCoreApplication::processEvents();
        for (QToolButton* button : window_->detail()->findChildren<QToolButton*>()) {
            if (button->text().contains("own") && button->isVisible()) {
                QTest::mouseClick(button, Qt::LeftButton);
                break;
            }
        }
        QVERIFY(lookId() != shared_look);
        choose(lookId(), "blend", "over");
        look("lit", {"0.8"});
        set("rate", {"2600"});
        set("spread", {"3"});
        set("speed", {"4.9", "5.5"});
        set("lifetime", {"0.7", "1.3"});
        set("particle_size", {"5 cm", "12 cm"});
        const std::string sheet = id();
        dial("wind", sheet, "20");
        dial("turbulence", sheet, "50");

        // 8. Mist
        add(window_->boardPanel()->addSourceButton(), "mist");
        const std::string mist = id();
        choose(mist, "shape", "box");
        set("size", {"2", "0.4", "2.4"});
        set("position", {"1.5", "0.8", "0"});
        set("rate", {"60"});
        set("spread", {"50"});
        set("speed", {"0.2", "0.9"});
        set("lifetime", {"2.2", "3.8"});
        set("particle_size", {"0.6", "1.3"});
        look("surface_fade", {"0.5"});
        dial("gravity", mist, "3");

        // 9. Light
        window_->select(std::string(stage_id));
        for (const auto& [parameter, figure] : {std::pair("sun_azimuth", "205"),
                                                {"sun_height", "14"},
                                                {"sun_strength", "2.4"},
                                                {"exposure", "0.7"},
                                                {"bloom", "0.5"},
                                                {"bloom_threshold", "0.55"},
                                                {"contrast", "1.22"}}) {
            set(parameter, {figure});
        }

        // 10. The budget
        window_->select("wind");
        driver::choose_in_menu(QStringLiteral("New sway"));
        QTest::keyClick(window_->detail()->row("wind", "speed")->findChild<NumberField*>(), Qt::Key_M,
                        Qt::AltModifier);
        QCOMPARE(effect().drives.size(), size_t(1));

        // It is the demo, near enough: as many particles, within the same budget.
        const auto expected = [](const Effect& of) {
            double sum = 0;
            for (const ExpectedCount& count : expected_counts(of)) {
                sum += count.live;
            }
            return sum;
        };
        const Effect demo = *read_effect(EMBER_DEMO).effect;
        QVERIFY(std::abs(expected(effect()) / expected(demo) - 1) < 0.02);
        QVERIFY(!expected_over_budget(effect()));
        QTRY_VERIFY(window_->workbench().pictureMaker().shot().readings.meters.particles > 20000);

        // 11. Save
        const QString path = folder_.filePath("my-spray.ember.json");
        driver::when_open<QFileDialog>([path](QFileDialog* dialog) {
            dialog->findChild<QLineEdit*>("fileNameEdit")->setText(path);
            static_cast<QDialog*>(dialog)->accept();
        });
        key(Qt::Key_S, Qt::ControlModifier);
        QTRY_VERIFY(window_->workbench().document().isSaved());
        const ReadResult read = read_effect(path.toStdString());
        QVERIFY(read.is_sound());
        QCOMPARE(effect_text(*read.effect), effect_text(effect()));
        window_.reset();
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    QCoreApplication::setApplicationName(QStringLiteral("crisp-ember-tests"));
    theme::apply(application);
    TestGuide test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_guide.moc"
