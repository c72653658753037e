// Breaking in the window: a breakable is added, its cut looked at, pinned by dragging, and gauged.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "desktop/board/board.h"
#include "desktop/controls/value_slider.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/detail_words.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/top/gauge.h"
#include "desktop/top/top_bar.h"
#include "desktop/view/handles.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"
#include "desktop/workbench/picture_maker.h"

#include <QComboBox>
#include <QTemporaryDir>
#include <QToolButton>
#include <QtTest>

#include <cmath>

using namespace ember;

namespace {

// A block that hangs in the air over the ground, and a pin far above it.
Effect hanging_block() {
    Effect effect = starter_effect();
    effect.elements.clear();
    Breakable block;
    block.position = {0, 1, 0};
    block.size = {0.8f, 0.8f, 0.8f};
    block.pieces = 20;
    Pin pin;
    pin.reach = ReachShape::box;
    pin.reach_position = {0, 2.6f, 0};
    pin.reach_size = {1.2f, 1.2f, 1.2f};
    pin.fade_distance = 0;
    effect.elements = {
        {.id = "block", .name = "Block", .body = block},
        {.id = "gravity", .name = "Gravity", .body = Gravity{.strength = 9.81f}, .links = {{"block", 1}}},
        {.id = "ground", .name = "Ground", .body = Plane{}, .links = {{"block", 1}}},
        {.id = "pin", .name = "Pin", .body = pin, .links = {{"block", 1}}}};
    effect.stage.camera_target = {0, 1.4f, 0};
    effect.stage.camera_distance = 8;
    return effect;
}

} // namespace

class TestBreakingWindow : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    LiveView* view() { return window_->findChild<LiveView*>(); }
    LensBar* lensBar() { return window_->findChild<LensBar*>(); }
    TopBar* topBar() { return window_->findChild<TopBar*>(); }
    Board* board() { return window_->findChild<Board*>(); }
    const Shot& shot() { return window_->workbench().pictureMaker().shot(); }
    const DebrisMeter& meter() { return shot().readings.meters.debris; }
    const Effect& effect() { return *window_->workbench().document().effect(); }

    void wait_for_pictures(int count) { driver::wait_for_pictures(*window_, count); }
    void show_block() {
        window_->workbench().document().reset(hanging_block(), {});
        QTRY_VERIFY(meter().pieces > 0);
    }
    // How many pixels differ clearly between two pictures.
    static int difference(const Picture& a, const Picture& b) {
        int count = 0;
        for (size_t i = 0; i < std::min(a.pixels.size(), b.pixels.size()); ++i) {
            count += std::abs(qGreen(a.pixels[i]) - qGreen(b.pixels[i])) > 24 ? 1 : 0;
        }
        return count;
    }

    // Whether the view shows its picture, with figures over a corner of it.
    bool picture_is_seen() {
        window_->workbench().player().pause();
        view()->setFocus();
        const QImage seen = view()->grab().toImage();
        const Picture& picture = shot().picture;
        int same = 0, count = 0;
        for (int y = 60; y < seen.height() - 160; y += 7) {
            for (int x = 20; x < seen.width() - 20; x += 7) {
                const QColor drawn = seen.pixelColor(x, y);
                const QRgb made = picture.pixels[size_t(y) * size_t(picture.width) + size_t(x)];
                same += std::abs(drawn.green() - qGreen(made)) < 3 ? 1 : 0;
                ++count;
            }
        }
        return same > 0.9 * count; // not while one picture gives way to the next
    }

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = driver::shown_window(folder_->path());
        QVERIFY(window_ != nullptr);
    }
    void cleanup() {
        window_->workbench().document().reset(effect(), {});
        window_.reset();
    }

    void a_breakable_is_added_from_the_gallery_and_falls() {
        wait_for_pictures(3);
        QVERIFY(topBar()->piecesGauge()->isHidden());
        driver::answer_gallery("Breakable");
        QTest::keyClick(window_.get(), Qt::Key_1, Qt::ControlModifier);
        QTRY_VERIFY(meter().pieces > 10);
        QVERIFY(topBar()->piecesGauge()->isVisible() && topBar()->lingerGauge()->isVisible());
        QTRY_COMPARE(topBar()->piecesGauge()->value(), double(meter().pieces));
        QTRY_COMPARE(meter().awake, size_t(0)); // it has come to rest on the ground
        const auto added =
            std::find_if(effect().elements.begin(), effect().elements.end(),
                         [](const Element& each) { return std::holds_alternative<Breakable>(each.body); });
        const QString words = cost_words(effect(), added->id, shot().readings, SmoothedCosts());
        QVERIFY2(words.contains("pieces") && words.contains("triangles"), qPrintable(words));
    }

    void the_board_has_dials_only_where_something_can_act() {
        show_block();
        Effect with = effect();
        std::string id;
        with = with_new_element(with, *find_type("emitter"), id);
        window_->workbench().document().apply(with, "add", "");
        QVERIFY(!board()->cellRect("pin", "block").isEmpty());
        QVERIFY(board()->cellRect("pin", id).isEmpty());
        QVERIFY(!board()->cellRect("gravity", id).isEmpty());
        QVERIFY(find_link(*find_element(effect(), "pin"), id) == nullptr);
    }

    void the_cut_is_looked_at_with_its_pieces_apart() {
        show_block();
        QTRY_COMPARE(meter().awake, size_t(0));
        wait_for_pictures(6);
        const Picture before = shot().picture;
        while (lensBar()->kindBox()->currentText() != "cut") {
            QTest::keyClick(window_.get(), Qt::Key_L);
        }
        QVERIFY(lensBar()->apartSlider()->isVisible());
        wait_for_pictures(6);
        QTRY_VERIFY(picture_is_seen());
        window_->workbench().player().play();
        const Picture apart = shot().picture;
        QVERIFY(difference(before, apart) > 2000);
        // Pulled to the right they are farther apart: more of the picture changes.
        ValueSlider* slider = lensBar()->apartSlider();
        const QPoint middle = slider->rect().center();
        QTest::mousePress(slider, Qt::LeftButton, {}, middle);
        QTest::mouseMove(slider, QPoint(slider->width() - 3, middle.y()));
        QTest::mouseRelease(slider, Qt::LeftButton, {}, QPoint(slider->width() - 3, middle.y()));
        QVERIFY(lensBar()->lens().apart > 1);
        wait_for_pictures(6);
        QVERIFY(difference(apart, shot().picture) > 2000);
    }

    void a_region_is_dragged_over_it_and_pins_it() {
        window_->workbench().player().pause();
        window_->workbench().document().reset(hanging_block(), {});
        QTRY_VERIFY(shot().readings.effect == window_->workbench().document().effect() &&
                    shot().readings.placements.size() == 4);
        window_->select("pin");
        const auto handles = handles_of(effect(), "pin", shot().readings.placements);
        const auto up = std::find_if(handles.begin(), handles.end(), [](const Handle& each) {
            return each.key == "reach_position" && each.part == 1 && each.kind == Handle::Kind::along;
        });
        QVERIFY(up != handles.end());
        const auto pixel = [&](const Handle& handle, float further) {
            const Camera camera = view()->camera();
            const QPointF knob = *on_picture(knob_of(handle, camera, view()->size()), camera, view()->size());
            const QPointF moved = *on_picture(handle.place + handle.axis * further, camera, view()->size()) -
                                  *on_picture(handle.place, camera, view()->size());
            return (knob + moved).toPoint();
        };
        const QPoint from = pixel(*up, 0), to = pixel(*up, -1.4f);
        QTest::mousePress(view(), Qt::LeftButton, {}, from);
        for (int i = 1; i <= 4; ++i) {
            const QPoint at = from + (to - from) * i / 4;
            QMouseEvent event(QEvent::MouseMove, at, view()->mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                              {});
            QApplication::sendEvent(view(), &event);
        }
        QTest::mouseRelease(view(), Qt::LeftButton, {}, to);
        const float height = std::get<Pin>(find_element(effect(), "pin")->body).reach_position.y;
        QVERIFY2(std::fabs(height - 1.2f) < 0.1f, qPrintable(QString::number(height)));
        window_->workbench().player().rewind();
        window_->workbench().player().play();
        QTRY_VERIFY(shot().readings.time_s > 1 && meter().pieces > 0);
        QCOMPARE(meter().awake, size_t(0)); // it still hangs in the air
        QCOMPARE(meter().resting, meter().pieces);
    }

    void the_lens_on_cuts_says_so_where_nothing_is_cut() {
        lensBar()->choose(ForceLens::Kind::cut);
        wait_for_pictures(3);
        QTRY_VERIFY(picture_is_seen());
        window_->workbench().player().play();
    }

    void without_cleanup_pieces_stay() {
        Effect falling = hanging_block();
        auto& block = std::get<Breakable>(falling.elements[0].body);
        block.position.y = 0.5f;
        block.strength = 0;
        block.at_rest = RestFate::clear;
        block.linger = {0.2f, 0.2f};
        block.clear_time = {0, 0};
        QToolButton* button = topBar()->cleanupButton();
        window_->workbench().document().reset(falling, {});
        QTRY_VERIFY(meter().pieces > 0);
        QVERIFY(button->isVisible());
        QTest::mouseClick(button, Qt::LeftButton);
        QCOMPARE(button->text(), QString("cleanup off"));
        QTRY_VERIFY(meter().resting >= 18 && shot().readings.time_s > 3);
        QTest::mouseClick(button, Qt::LeftButton);
        QCOMPARE(button->text(), QString("cleanup on"));
        QTRY_COMPARE(meter().pieces, size_t(0));
        const QString words = cost_words(effect(), "block", shot().readings, SmoothedCosts());
        QVERIFY2(words.contains("Pieces taken:"), qPrintable(words));
        // Another effect begins with cleanup, and one that breaks nothing has no such button.
        QTest::mouseClick(button, Qt::LeftButton);
        window_->workbench().document().reset(starter_effect(), {});
        QVERIFY(!button->defaultAction()->isChecked());
        QVERIFY(!button->isVisible());
    }

    void choices_offer_only_what_can_be_named() {
        Effect with = hanging_block();
        std::string emitter, dropper;
        with = with_new_element(with, *find_type("emitter"), emitter);
        with = with_new_element(with, *find_type("dropper"), dropper);
        // A new dropper begins with a breakable that is there.
        QCOMPARE(std::get<Dropper>(find_element(with, dropper)->body).drops, std::string("block"));
        window_->workbench().document().reset(with, {});
        window_->select(dropper);
        const auto offered = [&](const char* name) { return driver::offered(*window_, name); };
        QCOMPARE(offered("Drops"), QStringList({"", "block"}));
        Effect skin = with;
        auto& body = std::get<Emitter>(skin.elements[1].body);
        body.shape = BirthShape::skin;
        window_->workbench().document().apply(skin, "skin", "");
        window_->select(emitter);
        QCOMPARE(offered("Skin of"), QStringList({""})); // never itself
        QCOMPARE(offered("Born of"), QStringList({"", "block"}));
    }

    void rain_is_let_to_land_on_a_wall_by_a_dial() {
        Effect with = hanging_block();
        Emitter rain;
        rain.position = {0, 2.4f, 0};
        rain.direction = {0, -1, 0};
        rain.spread = 5;
        rain.speed = {2, 2};
        rain.rate = 200;
        rain.lifetime = {4, 4};
        rain.look = "soft-dots";
        with.elements.insert(with.elements.begin(), {.id = "rain", .name = "Rain", .body = rain});
        with.elements[4].links = {{"block", 1}}; // the pin holds it
        std::get<Pin>(with.elements[4].body).reach = ReachShape::everywhere;
        window_->workbench().document().reset(with, {});
        QTRY_VERIFY(meter().pieces > 0);
        driver::answer_gallery("land on what has broken");
        QTest::keyClick(window_.get(), Qt::Key_2, Qt::ControlModifier);
        const std::string id = window_->workbench().selection();
        QVERIFY(std::holds_alternative<PieceCollider>(find_element(effect(), id)->body));
        QCOMPARE(driver::offered(*window_, "Pieces of"), QStringList({"", "block"}));
        QCOMPARE(window_->detail()->row(id, "of")->findChild<QComboBox*>()->currentText(), QString("all"));
        QVERIFY(board()->cellRect(id, "block").isEmpty()); // pieces meet one another anyway
        // It came with a link to the rain; without it, what falls is not stopped.
        const QRect dial = board()->cellRect(id, "rain");
        QVERIFY(!dial.isEmpty() && find_link(*find_element(effect(), id), "rain") != nullptr);
        const auto collision_ms = [&] {
            const ElementMeter* of_pieces = shot().readings.find(id);
            return of_pieces != nullptr ? of_pieces->ms : 0.0;
        };
        QTRY_VERIFY(collision_ms() > 0);
        QTest::mouseClick(board(), Qt::LeftButton, {}, dial.center());
        QVERIFY(find_link(*find_element(effect(), id), "rain") == nullptr);
        QTRY_COMPARE(collision_ms(), 0.0);
        window_->workbench().undo();
        QTRY_VERIFY(collision_ms() > 0);
    }

    void an_emitter_that_can_never_give_birth_says_why() {
        Effect with = hanging_block();
        std::string parent, child;
        with = with_new_element(with, *find_type("emitter"), parent);
        with = with_new_element(with, *find_type("emitter"), child);
        auto& body = std::get<Emitter>(with.elements[2].body);
        body.parent = parent;
        body.when = ChildWhen::broken;
        QVERIFY2(caution_words(with, child).contains("only breakables break"),
                 qPrintable(caution_words(with, child)));
        body.parent = "block";
        QVERIFY(caution_words(with, child).isEmpty());
    }
};

QTEST_MAIN(TestBreakingWindow)
#include "tst_breaking_window.moc"
