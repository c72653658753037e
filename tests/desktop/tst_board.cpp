// The board with many elements, and the gallery that adds to it: driven by mouse and keys.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/runtime/simulation.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/folding_splitter.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/files.h"
#include "desktop/gallery/gallery.h"
#include "desktop/gallery/offers.h"
#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/view/live_view.h"

#include <QApplication>
#include <QInputDialog>
#include <QLineEdit>
#include <QScrollArea>
#include <QScrollBar>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTimer>
#include <QToolButton>
#include <QtTest>

#include <algorithm>
#include <filesystem>

using namespace ember;

class TestBoard : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    Board* board() { return window_->boardPanel()->board(); }
    const Effect& effect() { return *window_->workbench().document().effect(); }
    const Element& element(const std::string& id) { return *find_element(effect(), id); }
    float weight(const char* influence, const char* source) {
        const Link* link = find_link(element(influence), source);
        return link != nullptr ? link->weight : -1;
    }
    std::vector<std::string> names() {
        std::vector<std::string> ids;
        for (const Element& each : effect().elements) {
            ids.push_back(each.id);
        }
        return ids;
    }
    void click(const char* id, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseClick(board(), Qt::LeftButton, keys, board()->nameRect(id).center());
    }
    void drag(QPoint from, QPoint to, Qt::KeyboardModifiers keys = {}) {
        QTest::mousePress(board(), Qt::LeftButton, keys, from);
        for (int i = 1; i <= 4; ++i) {
            const QPoint at = from + (to - from) * i / 4;
            QMouseEvent move(QEvent::MouseMove, at, board()->mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                             keys);
            QApplication::sendEvent(board(), &move);
        }
        QTest::mouseRelease(board(), Qt::LeftButton, keys, to);
    }
    void key(int key, Qt::KeyboardModifiers keys = {}) {
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        QTest::keyClick(window_.get(), Qt::Key(key), keys);
    }
    QScrollArea* scroll() { return window_->boardPanel()->findChild<QScrollArea*>(); }

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = driver::shown_window(folder_->path());
        QVERIFY(window_ != nullptr);
        Effect effect = starter_effect();
        std::string id;
        for (const char* type : {"wind", "drag", "vortex", "emitter"}) {
            effect = with_new_element(effect, *find_type(type), id);
        }
        window_->workbench().document().reset(effect, {});
        window_->workbench().player().pause();
    }
    void cleanup() {
        window_->workbench().document().reset(effect(), {});
        window_.reset();
    }

    void rows_are_carried_to_another_place() {
        const QRect wind = board()->nameRect("wind");
        drag(board()->nameRect("vortex").center(), {wind.center().x(), wind.top() + 3});
        QCOMPARE(names(), (std::vector<std::string>{"emitter", "emitter-2", "gravity", "vortex", "wind",
                                                    "drag", "ground"}));
        // Not among the colliders.
        const Effect before = effect();
        drag(board()->nameRect("vortex").center(), board()->nameRect("ground").center());
        QCOMPARE(effect(), before);
        // Sources among sources.
        drag(board()->nameRect("emitter-2").center(), board()->nameRect("emitter").center() - QPoint(0, 8));
        QCOMPARE(names().front(), std::string("emitter-2"));
        key(Qt::Key_Z, Qt::ControlModifier);
        key(Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(names().front(), std::string("emitter"));
        QVERIFY(board()->nameRect("wind").top() < board()->nameRect("vortex").top());
    }

    void several_are_chosen_and_edited_at_once() {
        click("wind");
        click("vortex", Qt::ControlModifier);
        QCOMPARE(board()->chosen(), (std::vector<std::string>{"wind", "vortex"}));
        key(Qt::Key_M);
        QVERIFY(element("wind").muted && element("vortex").muted && !element("drag").muted);
        key(Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(!element("wind").muted && !element("vortex").muted);

        // A dial of one of them turns those of all.
        const QPoint dial = board()->cellRect("wind", "emitter").center();
        drag(dial, dial + QPoint(0, 30));
        QVERIFY(std::abs(weight("wind", "emitter") - 0.7f) < 0.02f);
        QCOMPARE(weight("vortex", "emitter"), weight("wind", "emitter"));
        QCOMPARE(weight("drag", "emitter"), 1.0f);

        // By keys too, and what is not linked stays so.
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->cellRect("vortex", "emitter-2").center());
        QCOMPARE(weight("wind", "emitter-2"), -1.0f); // unlinked together
        key(Qt::Key_Z, Qt::ControlModifier);
        window_->workbench().document().apply(with_link(effect(), "vortex", "emitter", std::nullopt),
                                              "unlink");
        board()->setFocus();
        QTest::keyClick(board(), Qt::Key_Right); // to the first source, whose dials are the last
        click("vortex");
        click("wind", Qt::ControlModifier);
        board()->setFocus();
        const float before_keys = weight("wind", "emitter");
        QTest::keyClick(board(), Qt::Key_Minus);
        QVERIFY(weight("wind", "emitter") < before_keys);
        QCOMPARE(weight("vortex", "emitter"), -1.0f);

        // Up to another one by Shift, away by Control, and none but one again.
        click("gravity");
        click("vortex", Qt::ShiftModifier);
        QCOMPARE(board()->chosen().size(), size_t(4));
        click("drag", Qt::ControlModifier);
        QCOMPARE(board()->chosen(), (std::vector<std::string>{"gravity", "wind", "vortex"}));
        key(Qt::Key_Delete);
        QCOMPARE(names(), (std::vector<std::string>{"emitter", "emitter-2", "drag", "ground"}));
        key(Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(effect().elements.size(), size_t(7));
    }

    void several_are_chosen_by_keyboard_and_copied_with_one_another() {
        click("wind");
        board()->setFocus();
        QTest::keyClick(board(), Qt::Key_Down, Qt::ShiftModifier);
        QCOMPARE(board()->chosen(), (std::vector<std::string>{"wind", "drag"}));
        key(Qt::Key_C, Qt::ControlModifier);
        key(Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(board()->chosen(), (std::vector<std::string>{"wind-2", "drag-2"}));
        board()->setFocus();
        QTest::keyClick(board(), Qt::Key_Escape);
        QCOMPARE(board()->chosen().size(), size_t(1));
    }

    void control_turns_the_dials_of_a_whole_column() {
        const QPoint dial = board()->cellRect("wind", "emitter-2").center();
        drag(dial, dial + QPoint(0, 50), Qt::ControlModifier);
        for (const char* influence : {"gravity", "wind", "drag", "vortex", "ground"}) {
            QVERIFY(std::abs(weight(influence, "emitter-2") - 0.5f) < 0.02f);
            QCOMPARE(weight(influence, "emitter"), 1.0f);
        }
    }

    void rows_are_grouped_hidden_and_renamed() {
        click("drag");
        click("gravity", Qt::ControlModifier);
        driver::answer_text("Air");
        key(Qt::Key_G, Qt::ControlModifier);
        QCOMPARE(element("drag").group, std::string("Air"));
        // Below those that are in no group.
        QVERIFY(board()->nameRect("gravity").top() > board()->nameRect("vortex").top());
        const QRect heading = board()->headingRect(Family::force, "Air");
        QTest::mouseClick(board(), Qt::LeftButton, {}, heading.center());
        QVERIFY(board()->nameRect("gravity").isEmpty() && !board()->nameRect("wind").isEmpty());
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->headingRect(Family::force, "Air").center());
        driver::answer_text("Weather");
        QTest::mouseDClick(board(), Qt::LeftButton, {}, board()->headingRect(Family::force, "Air").center());
        QCOMPARE(element("gravity").group, std::string("Weather"));
        // What is carried beside a member joins it; it is kept in the file.
        drag(board()->nameRect("wind").center(), board()->nameRect("drag").center() + QPoint(0, 12));
        QCOMPARE(element("wind").group, std::string("Weather"));
        const ReadResult read = parse_effect(effect_text(effect()), "x");
        QVERIFY(read.problems.empty() && *read.effect == effect());
    }

    void names_stay_in_sight_while_a_crowded_board_is_scrolled() {
        Effect crowded = effect();
        std::string id;
        for (int i = 0; i < 16; ++i) {
            crowded = with_new_element(crowded, *find_type("wind"), id);
        }
        for (int i = 0; i < 10; ++i) {
            crowded = with_new_element(crowded, *find_type("emitter"), id);
        }
        window_->workbench().document().reset(crowded, {});
        QTRY_VERIFY(scroll()->verticalScrollBar()->maximum() > 0);
        scroll()->verticalScrollBar()->setValue(scroll()->verticalScrollBar()->maximum());
        scroll()->horizontalScrollBar()->setValue(scroll()->horizontalScrollBar()->maximum());
        const auto in_sight = [this](const QRect& rect) {
            const QRect seen(-board()->pos(), scroll()->viewport()->size());
            return !rect.isEmpty() && seen.contains(rect.center());
        };
        QVERIFY(in_sight(board()->muteRect("emitter-12")) && in_sight(board()->nameRect("ground")));
        // They can be used there, and no dial is hit below them.
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->muteRect("emitter-12").center());
        QVERIFY(element("emitter-12").muted);
        const Effect before = effect();
        click("ground");
        QCOMPARE(effect(), before);
        QCOMPARE(window_->workbench().selection(), std::string("ground"));
        const QPoint dial = board()->cellRect("ground", "emitter").center(); // the last one
        QTest::mouseClick(board(), Qt::LeftButton, {}, dial);
        QCOMPARE(weight("ground", "emitter"), -1.0f);

        // As wide as all columns, and back.
        const int width = window_->boardPanel()->width();
        key(Qt::Key_W);
        QVERIFY(window_->boardPanel()->width() > width + 100);
        key(Qt::Key_W);
        QTRY_VERIFY(std::abs(window_->boardPanel()->width() - width) < 4);
    }

    // Each source has a line, and its dials stand where its line steps down to: farther right the higher it
    // is.
    void sources_stand_as_a_stair() {
        const QRect first = board()->nameRect("emitter"), second = board()->nameRect("emitter-2");
        QVERIFY(first.bottom() < second.top() + 1 && first.left() == second.left());
        QVERIFY(board()->cellRect("gravity", "emitter").left() >
                board()->cellRect("gravity", "emitter-2").left());
        QVERIFY(board()->cellRect("gravity", "emitter-2").left() > board()->nameRect("gravity").right());
        QVERIFY(board()->nameRect("gravity").top() > second.bottom());
        // Smoke volumes stand there, too.
        std::string id;
        window_->workbench().edit(with_new_element(effect(), *find_type("smoke"), id), "smoke");
        const QRect smoke = board()->nameRect(id);
        QVERIFY(smoke.top() >= board()->nameRect("emitter-2").bottom() && smoke.left() == first.left());
        QVERIFY(!board()->cellRect("gravity", id).isEmpty());
        QVERIFY(find_link(element("gravity"), id) == nullptr); // smoke floats at first
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->cellRect("gravity", id).center());
        QVERIFY(find_link(element("gravity"), id) != nullptr);
        QTest::mouseClick(board(), Qt::LeftButton, {}, board()->muteRect(id).center());
        QVERIFY(element(id).muted);
    }

    void what_has_no_links_is_a_chip_that_says_what_matters() {
        std::string orbit, lamp, cycle;
        Effect next = with_new_element(effect(), *find_type("orbit"), orbit);
        next = with_new_element(next, *find_type("light"), lamp);
        next = with_new_element(next, *find_type("cycle"), cycle);
        window_->workbench().edit(next, "chips");
        const QRect a = board()->nameRect(orbit), b = board()->nameRect(lamp);
        QVERIFY(!a.isEmpty() && !b.isEmpty() && a.height() == b.height());
        QVERIFY(!a.intersects(b));
        // As wide as what they say.
        window_->workbench().edit(with_drive(effect(), {"emitter", "rate", 0, cycle, 1, 2, {}}), "drive");
        const int drives_one = board()->nameRect(cycle).width();
        QVERIFY(drives_one > 0);
        click(lamp.c_str());
        QCOMPARE(window_->workbench().selection(), lamp);
        // Chips are carried among chips of their kind.
        std::string second;
        window_->workbench().edit(with_new_element(effect(), *find_type("orbit"), second), "another");
        drag(board()->nameRect(second).center(), board()->nameRect(orbit).center() - QPoint(12, 0));
        const auto ids = names();
        QVERIFY(std::find(ids.begin(), ids.end(), second) < std::find(ids.begin(), ids.end(), orbit));
    }

    // All that there is to see of a crowded demo is seen at once.
    void salt_stack_shows_every_column_and_eighteen_rows() {
        window_->files().openDemo("salt-stack");
        const QRect seen(-board()->pos(), scroll()->viewport()->size());
        int rows = 0;
        for (const Element& each : effect().elements) {
            const QRect name = board()->nameRect(each.id);
            if (family_of(each.body) == Family::source) {
                QVERIFY2(seen.contains(board()->cellRect("gravity", each.id)), each.id.c_str());
            } else {
                rows += seen.contains(name.center()) ? 1 : 0;
            }
        }
        QVERIFY2(rows >= 18, qPrintable(QString::number(rows)));
        window_->workbench().document().reset(starter_effect(), {});
    }

    void the_picture_has_most_of_the_window_and_panels_fold() {
        const auto share = [this] {
            return double(window_->view()->width()) * window_->view()->height() / (1280.0 * 800.0);
        };
        QVERIFY2(share() >= 0.42, qPrintable(QStringLiteral("%1: %2x%3, details at least %4")
                                                 .arg(share())
                                                 .arg(window_->view()->width())
                                                 .arg(window_->view()->height())
                                                 .arg(window_->detail()->minimumSizeHint().width())));
        const double before = share();
        for (const int fold : {Qt::Key_F6, Qt::Key_F7, Qt::Key_F8}) {
            const double open = share();
            key(fold);
            QTRY_VERIFY(share() > open + 0.05);
        }
        QVERIFY(share() > 0.9);
        for (const int fold : {Qt::Key_F8, Qt::Key_F7, Qt::Key_F6}) {
            key(fold);
        }
        QTRY_VERIFY(std::abs(share() - before) < 0.01);
        // By the handle beside it.
        auto* sides = window_->findChild<FoldingSplitter*>();
        while (sides != nullptr && sides->orientation() != Qt::Horizontal) {
            sides = sides->findChild<FoldingSplitter*>();
        }
        QVERIFY(sides != nullptr);
        QTest::mouseClick(sides->handle(1), Qt::LeftButton);
        QTRY_VERIFY(sides->isFolded(0) && share() > before + 0.1);
        QTest::mouseClick(sides->handle(1), Qt::LeftButton);
        QTRY_VERIFY(std::abs(share() - before) < 0.01);
        // Nothing but the picture, and back.
        key(Qt::Key_F9);
        QTRY_VERIFY(share() > 0.99);
        key(Qt::Key_F9);
        QTRY_VERIFY(std::abs(share() - before) < 0.01);
    }

    void gallery_shows_moving_pictures_of_what_can_be_added() {
        Gallery gallery("Add", offers_to_add(Family::force, Family::collider, window_->workbench().presets()),
                        window_.get());
        gallery.show();
        QVERIFY(QTest::qWaitForWindowExposed(&gallery));
        const QRect cell = gallery.grid()->rectOf("vortex");
        const auto colours = [&] {
            const QImage image = gallery.grid()->grab(cell).toImage();
            QSet<QRgb> found;
            for (int y = 8; y < 100; ++y) {
                for (int x = 10; x < 160; ++x) {
                    found.insert(image.pixel(x, y));
                }
            }
            return found.size();
        };
        QTRY_VERIFY(colours() > 200);
        const QImage before = gallery.grid()->grab(cell).toImage();
        QTRY_VERIFY(gallery.grid()->grab(cell).toImage() != before);
    }

    void every_offer_has_a_sample_that_is_sound() {
        std::vector<Offer> offers =
            offers_to_add(Family::source, Family::modulator, window_->workbench().presets());
        for (const Offer& start : offers_to_start(window_->workbench().presets())) {
            offers.push_back(start);
        }
        QVERIFY(offers.size() > 40);
        for (const Offer& offer : offers) {
            QVERIFY(!offer.title.isEmpty() && !offer.help.isEmpty());
            if (!offer.sample.isEmpty()) {
                const ReadResult read = read_effect(offer.sample.toStdString());
                QVERIFY2(read.is_sound(), qPrintable(offer.sample));
                QVERIFY(!offer.sample.contains("/samples/") || effect_text(*read.effect).size() > 100);
            }
        }
    }

    void the_offer_of_a_breakable_shows_a_wall_that_is_struck_down() {
        const std::vector<Offer> offers =
            offers_to_add(Family::source, Family::source, window_->workbench().presets());
        const auto offer = std::find_if(offers.begin(), offers.end(),
                                        [](const Offer& each) { return each.key == "breakable"; });
        QVERIFY(offer != offers.end() && !offer->sample.isEmpty());
        const std::filesystem::path path = offer->sample.toStdString();
        const auto shown = std::make_shared<const Effect>(*read_effect(path).effect);
        Simulation simulation;
        simulation.set_effect(shown, AssetLibrary().load(*shown, path.parent_path()).assets);
        // It stands, is struck, and comes down.
        bool stood = false;
        size_t struck = 0;
        for (int i = 0; i < 6 * 60; ++i) {
            simulation.step();
            const DebrisMeter& meter = simulation.meters().debris;
            stood = stood || (meter.pieces > 20 && meter.awake == 0);
            struck = std::max(struck, stood ? meter.awake : 0);
        }
        QVERIFY2(stood && struck > 20, qPrintable(QString::number(struck)));
    }

    void gallery_filters_moves_and_adds() {
        const auto open = [this](QToolButton* button, const auto& drive) {
            driver::when_open<Gallery>([&drive](Gallery* gallery) { drive(*gallery); });
            QTest::mouseClick(button, Qt::LeftButton);
        };
        const auto type = [](const char* words) {
            return [words](Gallery& gallery) {
                QTest::keyClicks(gallery.filterField(), words);
                QTest::keyClick(gallery.filterField(), Qt::Key_Return);
            };
        };
        open(window_->boardPanel()->addInfluenceButton(), type("eddies"));
        QCOMPARE(window_->workbench().selection(), std::string("turbulence"));

        const auto by_arrows = [](Gallery& gallery) {
            QTest::keyClick(gallery.filterField(), Qt::Key_Right);
            QTest::keyClick(gallery.filterField(), Qt::Key_Return);
        };
        open(window_->boardPanel()->addMotionButton(), by_arrows);
        QCOMPARE(std::string(type_of(element(window_->workbench().selection()).body).key),
                 std::string("orbit"));

        // Ready sources come with their looks, children too, and every influence acts on them.
        open(window_->boardPanel()->addSourceButton(), type("sparks of"));
        const std::vector<std::string> sparks = board()->chosen();
        QCOMPARE(sparks.size(), size_t(2));
        QCOMPARE(std::get<Emitter>(element(sparks[1]).body).parent, sparks[0]);
        QVERIFY(find_look(effect(), std::get<Emitter>(element(sparks[1]).body).look) != nullptr);
        for (const char* influence : {"gravity", "wind", "ground"}) {
            QCOMPARE(weight(influence, sparks[0].c_str()), 1.0f);
        }
        // By a press, or not at all.
        const Effect before = effect();
        open(window_->boardPanel()->addInfluenceButton(), [](Gallery& gallery) { gallery.reject(); });
        QCOMPARE(effect(), before);
        open(window_->boardPanel()->addInfluenceButton(), [](Gallery& gallery) {
            const QPoint place = gallery.grid()->rectOf("drag").center();
            QTest::mouseClick(gallery.grid(), Qt::LeftButton, {}, place);
        });
        QCOMPARE(window_->workbench().selection(), std::string("drag-2"));
        // Words that nothing has choose nothing.
        open(window_->boardPanel()->addInfluenceButton(), [](Gallery& gallery) {
            QTest::keyClicks(gallery.filterField(), "xyzzy");
            QTest::keyClick(gallery.filterField(), Qt::Key_Return);
            QVERIFY(gallery.isVisible());
            gallery.reject();
        });
    }

    void an_effect_is_started_from_the_gallery() {
        driver::answer_gallery("falling");
        key(Qt::Key_N, Qt::ControlModifier);
        QCOMPARE(effect().elements.front().name, std::string("Falling sheet"));
        QVERIFY(window_->workbench().document().path().isEmpty() &&
                window_->workbench().document().isSaved());
    }

    void high_contrast_brightens_and_goes_back() {
        const QColor before = theme::quiet;
        theme::set_high_contrast(true);
        const auto luminance = [](const QColor& colour) {
            const auto linear = [](double c) {
                return c <= 0.04045 ? c / 12.92 : std::pow((c + 0.055) / 1.055, 2.4);
            };
            return 0.2126 * linear(colour.redF()) + 0.7152 * linear(colour.greenF()) +
                   0.0722 * linear(colour.blueF());
        };
        const auto contrast = [&](const QColor& ink) {
            return (luminance(ink) + 0.05) / (luminance(theme::raised) + 0.05);
        };
        for (const QColor& ink : {theme::text, theme::quiet, theme::ember, theme::within, theme::close,
                                  theme::over, theme::cost}) {
            QVERIFY(contrast(ink) > 7);
        }
        theme::set_high_contrast(false);
        QCOMPARE(theme::quiet, before);
        for (const QColor& ink :
             {theme::text, theme::quiet, theme::ember, theme::within, theme::close, theme::cost}) {
            QVERIFY(contrast(ink) > 4.5);
        }
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    QCoreApplication::setApplicationName(QStringLiteral("crisp-ember-tests"));
    QCoreApplication::setOrganizationName(QStringLiteral("crisp-ember-tests"));
    theme::apply(application);
    TestBoard test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_board.moc"
