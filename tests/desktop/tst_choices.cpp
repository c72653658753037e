// What is chosen rather than typed in the details: pictures, colours, large curves, and what the budget
// shows.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "desktop/controls/choice_pictures.h"
#include "desktop/controls/colour_editor.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/controls/typed_number.h"
#include "desktop/controls/value_slider.h"
#include "desktop/curves/curve_editor.h"
#include "desktop/detail/cost_ranking.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/files.h"
#include "desktop/view/live_view.h"

#include <QDialog>
#include <QPushButton>
#include <QTemporaryDir>
#include <QToolButton>

using namespace ember;

class TestChoices : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    const Effect& effect() { return *window_->workbench().effect(); }
    const Emitter& emitter() { return std::get<Emitter>(find_element(effect(), "emitter")->body); }
    ParameterRow* row(const char* holder, const char* key) {
        window_->select(holder);
        window_->detail()->goTo(holder, key);
        return window_->detail()->row(holder, key);
    }

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = driver::shown_window(folder_->path());
        QVERIFY(window_ != nullptr);
        driver::wait_for_pictures(*window_, 1);
    }
    void cleanup() {
        window_->workbench().document().reset(effect(), {});
        window_.reset();
    }

    void shapes_are_chosen_as_pictures_by_mouse_arrows_and_letters() {
        auto* shapes = row("emitter", "shape")->findChild<PictureChoice*>();
        QVERIFY(shapes != nullptr);
        QTRY_VERIFY(shapes->width() > 100);
        QTest::mouseClick(shapes, Qt::LeftButton, {}, shapes->rectOf(int(BirthShape::disc)).center());
        QCOMPARE(emitter().shape, BirthShape::disc);
        shapes->setFocus();
        QTest::keyClick(shapes, Qt::Key_Right);
        QCOMPARE(emitter().shape, BirthShape::rectangle);
        QTest::keyClicks(shapes, "cy");
        QCOMPARE(emitter().shape, BirthShape::cylinder);
        window_->workbench().undo();
        QVERIFY(emitter().shape != BirthShape::cylinder);
        QCOMPARE(shapes->current(), int(emitter().shape));
        // Each of them can be told from all others.
        QSet<QByteArray> seen;
        for (int i = 0; i < 13; ++i) {
            const QImage picture = shapes->grab(shapes->rectOf(i).adjusted(2, 2, -2, -2)).toImage();
            seen.insert(
                QByteArray(reinterpret_cast<const char*>(picture.constBits()), picture.sizeInBytes()));
        }
        QCOMPARE(seen.size(), qsizetype(13));
    }

    void every_choice_that_has_pictures_has_them_all() {
        int pictured = 0;
        for (const ElementType& type : element_types()) {
            for (const Parameter& parameter : type.parameters) {
                if (parameter.kind == ParameterKind::choice && have_pictures(parameter.choices)) {
                    ++pictured;
                    PictureChoice choice(parameter.choices);
                    choice.resize(170, 60);
                    for (int i = 0; i < int(parameter.choices.size()); ++i) {
                        choice.setCurrent(i);
                        QVERIFY(choice.rect().contains(choice.rectOf(i)));
                        QVERIFY(!choice.grab().isNull());
                    }
                }
            }
        }
        QVERIFY(pictured > 20); // reaches, births, waves, patterns, lights
    }

    void a_colour_is_chosen_in_place_live_and_as_one_step_of_undo() {
        ParameterRow* floor = row("ground", "colour");
        floor->openEditor();
        auto* editor = floor->findChild<ColourEditor*>();
        QVERIFY(editor != nullptr && QTest::qWaitFor([&] { return editor->field()->width() > 100; }));
        QCOMPARE(QApplication::activeModalWidget(), nullptr);
        const auto colour = [&] { return std::get<Plane>(find_element(effect(), "ground")->body).colour; };
        const Colour before = colour();
        const float strength = strength_of(before);
        TintField* field = editor->field();
        QTest::mousePress(field, Qt::LeftButton, {}, field->placeOf(0.1, 0.5).toPoint());
        const Colour first = colour();
        QVERIFY(first != before);
        const QPoint end = field->placeOf(0.6, 1).toPoint();
        QMouseEvent move(QEvent::MouseMove, QPointF(end), QPointF(field->mapToGlobal(end)), Qt::NoButton,
                         Qt::LeftButton, {});
        QApplication::sendEvent(field, &move);
        QTest::mouseRelease(field, Qt::LeftButton, {}, end);
        // Blue now, and as bright as before.
        QVERIFY(colour().blue > colour().red &&
                std::abs(strength_of(colour()) - strength) < 1e-3f * strength);
        const Colour chosen = colour();
        driver::type(editor->strengthField(), "3");
        QVERIFY(std::abs(strength_of(colour()) - 3) < 1e-4f);
        window_->workbench().undo();
        QCOMPARE(colour(), chosen);
        window_->workbench().undo();
        QCOMPARE(colour(), before);
        // What was chosen can be taken again.
        QTest::mouseClick(editor->lateTints(), Qt::LeftButton, {},
                          editor->lateTints()->rectOf(0).center().toPoint());
        QVERIFY(colour().blue > colour().red);
        // And it comes from the picture.
        QTest::mouseClick(editor->pickButton(), Qt::LeftButton);
        const Picture& picture = window_->workbench().pictureMaker().shot().picture;
        // A busy machine shows fewer pixels than the view has.
        const LiveView& view = *window_->view();
        const QPoint pixel(picture.width / 16, picture.height / 16);
        const QPoint place(int((pixel.x() + 0.5) * view.width() / picture.width),
                           int((pixel.y() + 0.5) * view.height() / picture.height));
        const QColor seen(QRgb(picture.pixels[size_t(pixel.y() * picture.width + pixel.x())]));
        QTest::mouseClick(window_->view(), Qt::LeftButton, {}, place);
        QVERIFY(std::abs(screen_colour(colour()).hueF() - seen.hueF()) < 0.1);
    }

    void black_keeps_the_tint_that_it_had() {
        ColourEditor editor;
        QSignalSpy edited(&editor, &ColourEditor::edited);
        editor.setColour({0.2f, 0.4f, 0.8f, 0.5f});
        driver::type(editor.strengthField(), "0");
        QCOMPARE(strength_of(edited.last()[0].value<Colour>()), 0.0f);
        editor.setColour(edited.last()[0].value<Colour>());
        driver::type(editor.strengthField(), "0.8");
        const Colour back = edited.last()[0].value<Colour>();
        QVERIFY(std::abs(back.red - 0.2f) < 0.01f && std::abs(back.green - 0.4f) < 0.01f);
        QCOMPARE(back.alpha, 0.5f);
    }

    void a_curve_goes_into_a_window_of_its_own_and_back() {
        ParameterRow* size = row("soft-dots", "size_over_life");
        size->openEditor();
        auto* editor = size->findChild<CurveEditor*>();
        QVERIFY(QTest::qWaitFor([&] { return editor->isVisible() && editor->plot()->height() >= 300; }));
        QTest::mouseClick(editor->windowButton(), Qt::LeftButton);
        QVERIFY(QTest::qWaitFor([&] { return editor->window() != window_.get() && editor->isVisible(); }));
        auto* own = qobject_cast<QDialog*>(editor->window());
        QVERIFY(own != nullptr && !own->isModal());
        QTRY_VERIFY(editor->plot()->height() > 350);
        // It is the same curve, undo too.
        const Curve before = effect().looks[0].size_over_life;
        editor->plot()->replace({{{0, 1}, {1, 0}}});
        QVERIFY(effect().looks[0].size_over_life != before);
        window_->workbench().undo();
        QCOMPARE(effect().looks[0].size_over_life, before);
        own->close();
        QTRY_VERIFY(editor->window() == window_.get() && editor->isVisible());
    }

    void the_budget_ranks_what_the_frame_goes_to() {
        window_->files().openDemo(QStringLiteral("sluice-spray"));
        window_->select(std::string(budget_id));
        CostRanking* ranking = window_->detail()->ranking();
        QVERIFY(ranking != nullptr);
        QTRY_VERIFY(!ranking->rectOf("spray-jet").isEmpty());
        // Sources cost in the step and in the picture, forces in the step alone.
        const SmoothedCosts& costs = window_->workbench().costs();
        QVERIFY(costs.of("spray-jet").step_ms > 0 && costs.of("spray-jet").picture_ms > 0);
        QVERIFY(costs.of("wall-eddies").step_ms > 0);
        QCOMPARE(costs.of("wall-eddies").picture_ms, 0.0);
        QTest::mouseClick(ranking, Qt::LeftButton, {}, ranking->muteRect("wall-eddies").center());
        QVERIFY(find_element(effect(), "wall-eddies")->muted);
        QTRY_VERIFY(costs.of("wall-eddies").step_ms == 0);
        QVERIFY(!ranking->rectOf("wall-eddies").isEmpty()); // to be had back
        QTest::mouseClick(ranking, Qt::LeftButton, {}, ranking->muteRect("wall-eddies").center());
        QVERIFY(!find_element(effect(), "wall-eddies")->muted);
        QTest::mouseClick(ranking, Qt::LeftButton, {},
                          ranking->rectOf("spray-jet").topLeft() + QPoint(20, 8));
        QCOMPARE(window_->workbench().selection(), std::string("spray-jet"));
        QVERIFY(window_->detail()->ranking() == nullptr);
    }

    void the_bar_between_the_ends_of_a_range_moves_both() {
        auto* slider = row("emitter", "lifetime")->findChild<ValueSlider*>();
        QVERIFY(slider != nullptr);
        const Parameter& parameter = *holder_of(*find_element(effect(), "emitter")).find("lifetime");
        const auto whole = float(parameter.soft_high);
        const Range before = {0.15f * whole, 0.75f * whole};
        window_->workbench().edit(with_value(effect(), "emitter", parameter, before), "lifetime");
        QTRY_VERIFY(slider->width() > 40);
        const auto lifetime = [&] { return emitter().lifetime; };
        const QPointF middle = (slider->knobPlace(0) + slider->knobPlace(1)) / 2;
        const auto drag = [&](QPointF by) {
            QTest::mousePress(slider, Qt::LeftButton, {}, middle.toPoint());
            const QPointF to = middle + by;
            QMouseEvent move(QEvent::MouseMove, to, slider->mapToGlobal(to), Qt::NoButton, Qt::LeftButton,
                             {});
            QApplication::sendEvent(slider, &move);
            QTest::mouseRelease(slider, Qt::LeftButton, {}, to.toPoint());
        };
        drag({6, 0});
        const float wide = before.high - before.low;
        QVERIFY(lifetime().low > before.low && std::abs(lifetime().high - lifetime().low - wide) < 1e-3f);
        drag({-2000, 0}); // no end goes beyond the slider
        QVERIFY(lifetime().low >= 0 && std::abs(lifetime().high - lifetime().low - wide) < 1e-3f);
        window_->workbench().undo();
        window_->workbench().undo();
        QCOMPARE(lifetime().low, before.low);
    }

    void a_frame_limit_is_typed_as_frames_a_second() {
        window_->select(std::string(budget_id));
        auto* field = row("budget", "frame_ms")->findChild<NumberField*>();
        driver::type(field, "60 fps");
        QVERIFY(std::abs(effect().budget.frame_ms - 1000.0f / 60) < 1e-3f);
        driver::type(field, "30fps");
        QVERIFY(std::abs(effect().budget.frame_ms - 1000.0f / 30) < 1e-3f);
        QVERIFY(!typed_number("0 fps", "ms"));
        QVERIFY(!typed_number("60 fps", "m"));
    }
};

QTEST_MAIN(TestChoices)
#include "tst_choices.moc"
