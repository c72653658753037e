// Triggers in the window: a stack is struck by a click, a digit starts a source, the board says the
// sentences.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "core/effect/sentence.h"
#include "desktop/board/board.h"
#include "desktop/controls/number_field.h"
#include "desktop/detail/detail_words.h"
#include "desktop/detail/word_editor.h"
#include "desktop/view/handles.h"
#include "desktop/view/live_view.h"
#include "desktop/workbench/picture_maker.h"

#include <QComboBox>
#include <QTemporaryDir>
#include <QtTest>

using namespace ember;

namespace {

// A block on the ground that a click under the pointer strikes, and a jet that the digit 3 starts.
Effect struck_block() {
    Effect effect = starter_effect();
    Breakable block;
    block.position = {0, 0.5f, 0};
    block.size = {1, 1, 1};
    block.pieces = 20;
    Pointer hand;
    hand.position = {0, 0.5f, 0};
    Blast strike;
    strike.reach = ReachShape::ball;
    strike.reach_position = {};
    strike.reach_rides_on = "hand";
    strike.reach_size = {0.8f, 0.8f, 0.8f};
    Trigger click;
    click.when = TriggerWhen::click;
    click.then = TriggerThen::blast;
    click.what = "strike";
    Trigger key;
    key.when = TriggerWhen::key;
    key.key = 3;
    key.then = TriggerThen::start;
    key.what = "jet";
    Element jet = effect.elements[0];
    jet.id = "jet";
    jet.name = "Jet";
    std::get<Emitter>(jet.body).position = {2, 0, 0};
    effect.elements = {
        {.id = "block", .name = "Block", .body = block},
        jet,
        {.id = "gravity", .name = "Gravity", .body = Gravity{.strength = 9.81f}, .links = {{"block", 1}}},
        {.id = "ground", .name = "Ground", .body = Plane{}, .links = {{"block", 1}}},
        {.id = "strike", .name = "Strike", .body = strike, .links = {{"block", 1}}},
        {.id = "hand", .name = "Hand", .body = hand},
        {.id = "click", .name = "On a click", .body = click},
        {.id = "key", .name = "On three", .body = key}};
    effect.stage.camera_target = {0, 0.8f, 0};
    effect.stage.camera_distance = 8;
    return effect;
}

} // namespace

class TestTriggersWindow : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    LiveView* view() { return window_->findChild<LiveView*>(); }
    Board* board() { return window_->findChild<Board*>(); }
    const Readings& readings() { return window_->workbench().pictureMaker().shot().readings; }
    const Effect& effect() { return *window_->workbench().document().effect(); }

    void show_block() {
        window_->workbench().document().reset(struck_block(), {});
        QTRY_VERIFY(readings().meters.debris.bodies == 1 && readings().time_s > 0.2);
    }
    QPoint pixel_of(const Vec3& place) {
        return on_picture(place, view()->camera(), view()->size())->toPoint();
    }
    void click_at(const QPoint& place, Qt::KeyboardModifiers keys = {}) {
        QMouseEvent move(QEvent::MouseMove, place, view()->mapToGlobal(place), Qt::NoButton, Qt::NoButton,
                         {});
        QApplication::sendEvent(view(), &move);
        driver::wait_for_pictures(*window_, 5); // the hand is there by now
        QTest::mouseClick(view(), Qt::LeftButton, keys, place);
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

    void a_click_strikes_where_the_pointer_is() {
        show_block();
        click_at(pixel_of({2.5f, 0.5f, 0})); // beside it
        driver::wait_for_pictures(*window_, 10);
        QCOMPARE(readings().meters.debris.bodies, size_t(1));
        click_at(pixel_of({0, 0.5f, 0}));
        QTRY_VERIFY(readings().meters.debris.bodies > 3);
    }

    void words_of_a_sentence_are_changed_where_they_stand() {
        show_block();
        const auto trigger = [&](const char* id) {
            return std::get<Trigger>(find_element(effect(), id)->body);
        };
        // Presses the middle of the word that says a parameter of the trigger.
        const auto press = [&](const char* id, const char* key) {
            for (int y = 0; y < board()->height(); y += 6) {
                for (int x = 0; x < board()->width(); x += 6) {
                    const auto word = board()->parameterAt({x, y});
                    if (word && word->first == id && word->second == key) {
                        QTest::mouseClick(board(), Qt::LeftButton, {}, {x, y});
                        return window_->findChild<WordEditor*>();
                    }
                }
            }
            return static_cast<WordEditor*>(nullptr);
        };
        // A number.
        WordEditor* editor = press("key", "key");
        QVERIFY(editor != nullptr && editor->isVisible());
        auto* number = editor->findChild<NumberField*>();
        QVERIFY(number != nullptr);
        number->setFocus();
        number->selectAll();
        QTest::keyClicks(number, "5");
        QTest::keyClick(number, Qt::Key_Return);
        QTRY_COMPARE(trigger("key").key, 5);
        QVERIFY(sentence_of(effect(), trigger("key")).starts_with("When 5 is pressed"));
        editor->close();
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        // A name: the jet, which starts, or the block; the editor goes once it is chosen.
        editor = press("key", "when");
        QVERIFY(editor != nullptr);
        auto* choice = editor->findChild<QComboBox*>();
        QVERIFY(choice != nullptr);
        choice->setFocus();
        choice->setCurrentIndex(choice->findText("every"));
        emit choice->activated(choice->currentIndex());
        QTRY_COMPARE(trigger("key").when, TriggerWhen::every);
        QTRY_VERIFY(window_->findChild<WordEditor*>() == nullptr);
        window_->workbench().document().undo();
        QCOMPARE(trigger("key").when, TriggerWhen::key);
        window_->workbench().document().undo();
        QCOMPARE(trigger("key").key, 3);
        // What only joins words does nothing.
        QVERIFY(press("key", "of") == nullptr);
    }

    void with_control_or_at_a_pause_a_click_chooses() {
        show_block();
        window_->select("gravity");
        click_at(pixel_of({0, 0.5f, 0}), Qt::ControlModifier);
        driver::wait_for_pictures(*window_, 10);
        QCOMPARE(readings().meters.debris.bodies, size_t(1));
        window_->workbench().player().pause();
    }

    void a_digit_starts_a_source() {
        show_block();
        const auto live = [&] {
            const ElementMeter* meter = readings().find("jet");
            return meter != nullptr ? meter->live : 0;
        };
        QCOMPARE(live(), size_t(0));
        view()->setFocus();
        QTest::keyClick(view(), Qt::Key_4);
        driver::wait_for_pictures(*window_, 10);
        QCOMPARE(live(), size_t(0));
        QTest::keyClick(view(), Qt::Key_3);
        QTRY_VERIFY(live() > 20);
    }

    void the_board_and_the_panel_say_the_sentence() {
        show_block();
        const QRect name = board()->nameRect("click");
        QVERIFY(!name.isEmpty());
        QTest::mouseClick(board(), Qt::LeftButton, {}, name.center());
        QVERIFY(cost_words(effect(), "click", readings(), SmoothedCosts())
                    .startsWith("When the picture is clicked, Strike goes off."));
        QVERIFY(caution_words(effect(), "click").isEmpty());
        // Where other rows have dials, there are the words: something is drawn that changes with them.
        const QRect words(name.right() + 60, name.top(), 300, name.height());
        const QImage before = board()->grab(words).toImage();
        Effect changed = effect();
        std::get<Trigger>(changed.elements[6].body).limit = 2;
        window_->workbench().document().apply(changed, "limit", "");
        QCoreApplication::processEvents();
        QVERIFY(board()->grab(words).toImage() != before);
    }

    void only_what_can_do_it_is_offered() {
        show_block();
        window_->select("click");
        const auto offered = [&](const char* name = "What") { return driver::offered(*window_, name); };
        QCOMPARE(offered(), QStringList({"", "strike"}));
        Effect changed = effect();
        auto& trigger = std::get<Trigger>(changed.elements[6].body);
        trigger.then = TriggerThen::burst;
        window_->workbench().document().apply(changed, "then", "");
        QCOMPARE(offered(), QStringList({"", "jet", "strike"})); // and what is named, so that it is seen
        QVERIFY(caution_words(effect(), "click").contains("Name what does it"));
        trigger.what = "";
        window_->workbench().document().apply(changed, "what", "");
        window_->select("key");
        window_->select("click");
        QCOMPARE(offered(), QStringList({"", "jet"}));
        trigger.then = TriggerThen::set;
        trigger.what = "jet";
        window_->workbench().document().apply(changed, "set", "");
        QVERIFY(offered().contains("stage") &&
                offered().contains(QString::fromStdString(effect().looks[0].id)));
        const QStringList numbers = offered("Number");
        QVERIFY(numbers.contains("rate") && !numbers.contains("look") && !numbers.contains("capacity"));
        QVERIFY(caution_words(effect(), "click").contains("which of its numbers"));
    }

    void a_trigger_is_added_from_the_gallery() {
        driver::wait_for_pictures(*window_, 3);
        driver::answer_gallery("Trigger");
        QTest::keyClick(window_.get(), Qt::Key_3, Qt::ControlModifier);
        QTRY_VERIFY(std::any_of(effect().elements.begin(), effect().elements.end(), [](const Element& each) {
            return std::holds_alternative<Trigger>(each.body);
        }));
        const std::string added = effect().elements.back().id;
        const auto& trigger = std::get<Trigger>(effect().elements.back().body);
        QVERIFY(!why_never_done(effect(), trigger)); // it begins with something that works
        window_->workbench().document().undo();
        QVERIFY(find_element(effect(), added) == nullptr);
    }
};

QTEST_MAIN(TestTriggersWindow)
#include "tst_triggers_window.moc"
