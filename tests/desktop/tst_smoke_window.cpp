// Smoke in the window: a hand is dipped in with the pointer, and parameters act at once.
#include "window_driver.h"

#include "../core/sample_effects.h"

#include "core/effect/edit.h"
#include "desktop/board/board.h"
#include "desktop/board/board_panel.h"
#include "desktop/detail/detail_words.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"
#include "desktop/workbench/picture_maker.h"

#include <QApplication>
#include <QComboBox>
#include <QHelpEvent>
#include <QTemporaryDir>
#include <QToolTip>
#include <QtTest>

#include <cmath>

using namespace ember;

namespace {

// A closed box full of smoke, and a hand on the pointer at half its height.
Effect hand_in_smoke() {
    Effect effect = starter_effect();
    effect.elements.clear();
    Smoke smoke;
    smoke.size = {2, 1, 2};
    smoke.position = {0, 0.5f, 0};
    smoke.resolution = 32;
    smoke.sides = SmokeSides::closed;
    smoke.fade = smoke.curl = 0;
    SmokeSource source;
    source.shape = FeedShape::box;
    source.position = {0, 0.25f, 0};
    source.size = {2, 0.5f, 2};
    source.way = FeedWay::keep;
    source.density = 1;
    source.heat = 0;
    source.ragged = 0;
    Pointer pointer;
    pointer.position = {0, 0.5f, 0};
    Push push;
    push.rides_on = "pointer";
    push.velocity = {0, -3, 0};
    effect.elements = {{.id = "smoke", .name = "Smoke", .body = smoke},
                       {.id = "feed", .name = "Feed", .body = source},
                       {.id = "pointer", .name = "Pointer", .body = pointer},
                       {.id = "hand", .name = "Hand", .body = push}};
    effect.stage.camera_target = {0, 0.4f, 0};
    effect.stage.camera_height = 60;
    effect.stage.camera_azimuth = 0;
    return effect;
}

} // namespace

class TestSmokeWindow : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    LiveView* view() { return window_->findChild<LiveView*>(); }
    const Readings& readings() { return window_->workbench().pictureMaker().shot().readings; }
    Vec3 place_of_pointer() {
        for (size_t i = 0; i < readings().placements.size(); ++i) {
            if (readings().effect->elements[i].id == "pointer") {
                return readings().placements[i].position;
            }
        }
        return {-99, 0, 0};
    }
    void wait_for_pictures(int count) { driver::wait_for_pictures(*window_, count); }
    // Mean brightness of a square of the picture round a place (shares of its width and height).
    double brightness(double x, double y) {
        const Picture& picture = window_->workbench().pictureMaker().shot().picture;
        double sum = 0;
        constexpr int half = 12;
        const int left = int(x * picture.width), top = int(y * picture.height);
        for (int j = -half; j < half; ++j) {
            for (int i = -half; i < half; ++i) {
                sum += qGreen(picture.pixels[size_t(top + j) * size_t(picture.width) + size_t(left + i)]);
            }
        }
        return sum / (4 * half * half);
    }

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = driver::shown_window(folder_->path());
        QVERIFY(window_ != nullptr);
        window_->workbench().document().reset(hand_in_smoke(), {});
        wait_for_pictures(10);
    }
    void cleanup() {
        window_->workbench().document().reset(*window_->workbench().document().effect(), {});
        window_.reset();
    }

    void the_hand_is_where_the_pointer_is() {
        QCOMPARE(place_of_pointer(), Vec3(0, 0.5f, 0)); // nobody points yet
        const QPoint middle = view()->rect().center();
        for (const int x : {-120, 0, 120}) {
            QTest::mouseMove(view(), middle + QPoint(x, 10));
            wait_for_pictures(4);
            const Vec3 place = place_of_pointer();
            QVERIFY(std::fabs(place.y - 0.5f) < 1e-3f); // held to its plane
            const auto seen = on_picture(place, camera_of(readings().effect->stage), view()->size());
            QVERIFY(seen.has_value());
            QVERIFY(std::fabs(seen->x() - (middle.x() + x)) < 3 &&
                    std::fabs(seen->y() - (middle.y() + 10)) < 3);
        }
        // Once it has left the picture it is nowhere.
        QEvent leaves(QEvent::Leave);
        QApplication::sendEvent(view(), &leaves);
        QTRY_COMPARE(place_of_pointer(), Vec3(0, 0.5f, 0));
    }

    void dragging_through_the_smoke_stirs_it_there() {
        // Until somebody points the hand is far off, and the smoke still.
        Effect calm = hand_in_smoke();
        std::get<Pointer>(calm.elements[2].body).position = {0, 0.5f, 30};
        window_->workbench().document().reset(calm, {});
        wait_for_pictures(20);
        const QPoint middle = view()->rect().center();
        // A press on nothing, then to and fro on the left side with the button held.
        const QPoint from = middle + QPoint(-view()->width() / 6, -20), to = from + QPoint(0, 60);
        const double left = 0.5 - 1.0 / 6;
        const double still_before = brightness(1 - left, 0.5), before = brightness(left, 0.5);
        // The hand presses down: clear air comes after it. The other side is as it was, at first.
        double change = 0, still_change = 0;
        for (int turn = 0; turn < 12 && !(change > 4 && change > 2 * still_change); ++turn) {
            QTest::mouseMove(view(), turn % 2 == 0 ? from : to);
            wait_for_pictures(3);
            change = std::fabs(brightness(left, 0.5) - before);
            still_change = std::fabs(brightness(1 - left, 0.5) - still_before);
        }
        QVERIFY2(change > 4 && change > 2 * still_change,
                 qPrintable(QString("%1 there, %2 elsewhere").arg(change).arg(still_change)));
    }

    void a_change_acts_at_once() {
        const double before = brightness(0.6, 0.5);
        Effect changed = *window_->workbench().document().effect();
        std::get<Smoke>(changed.elements[0].body).absorption = 0;
        window_->workbench().document().apply(changed, "thin", "");
        wait_for_pictures(4);
        QVERIFY(brightness(0.6, 0.5) < before - 5);
        window_->workbench().document().undo();
        wait_for_pictures(4);
        QVERIFY(std::fabs(brightness(0.6, 0.5) - before) < 6);
    }

    void the_lens_reads_the_cells_on_its_plane() {
        const auto reading = [&](SmokeAspect aspect) -> const FieldReading& {
            auto* bar = window_->findChild<LensBar*>();
            bar->choose(ForceLens::Kind::smoke);
            bar->aspectBox()->setCurrentIndex(int(aspect));
            emit bar->aspectBox()->activated(int(aspect));
            const auto is_read = [&] {
                return readings().field != nullptr && readings().field->order.smoke == aspect;
            };
            [&] { QTRY_VERIFY(is_read()); }();
            return *readings().field;
        };
        QTest::mouseMove(view(), view()->rect().center());
        wait_for_pictures(4);
        window_->workbench().player().pause();
        const FieldReading dense = reading(SmokeAspect::density), flow = reading(SmokeAspect::flow),
                           left = reading(SmokeAspect::remains), out = reading(SmokeAspect::outflow);
        size_t within = 0, smoky = 0;
        float fastest = 0, most_left = 0;
        for (size_t i = 0; i < dense.amounts.size(); ++i) {
            const Vec3& place = dense.order.places[i];
            const bool is_in = std::fabs(place.x) < 0.99f && place.y > 0.01f && place.y < 0.99f &&
                               std::fabs(place.z) < 0.99f;
            const bool is_out = std::fabs(place.x) > 1.01f || place.y < -0.01f || place.y > 1.01f ||
                                std::fabs(place.z) > 1.01f;
            QVERIFY(!is_in || !std::isnan(dense.amounts[i]));
            QVERIFY(!is_out || std::isnan(dense.amounts[i]));
            if (!is_in) {
                continue;
            }
            ++within;
            smoky += dense.amounts[i] > 0.5f ? 1 : 0;
            fastest = std::max(fastest, flow.amounts[i]);
            QVERIFY(std::fabs(flow.amounts[i] - length(flow.vectors[i])) < 1e-5f);
            // What the solver says is what is found.
            QVERIFY(std::fabs(std::fabs(left.amounts[i]) - std::fabs(out.amounts[i])) < 2e-3f);
            most_left = std::max(most_left, std::fabs(left.amounts[i]));
        }
        QVERIFY(within > 500 && smoky > within / 10 && smoky < within);
        QVERIFY(fastest > 0.5f && most_left < 0.05f * fastest); // the hand pushes
        window_->workbench().player().play();
    }

    void a_vortex_that_is_linked_by_its_dial_turns_the_gas() {
        Effect effect = hand_in_smoke();
        std::get<Pointer>(effect.elements[2].body).position = {0, 0.5f, 30};
        Vortex vortex;
        vortex.position = {0, 0.5f, 0};
        vortex.core = 0.6f;
        vortex.grip = 20;
        effect.elements.push_back({.id = "vortex", .name = "Vortex", .body = vortex});
        window_->workbench().document().reset(effect, {});
        Board* board = window_->boardPanel()->board();
        // Half a metre off, how fast it goes round.
        const auto turning = [&] {
            auto* bar = window_->findChild<LensBar*>();
            bar->choose(ForceLens::Kind::smoke);
            bar->aspectBox()->setCurrentIndex(int(SmokeAspect::flow));
            emit bar->aspectBox()->activated(int(SmokeAspect::flow));
            wait_for_pictures(4);
            float most = 0;
            const FieldReading* field = readings().field.get();
            for (size_t i = 0; field != nullptr && i < field->vectors.size(); ++i) {
                const Vec3& place = field->order.places[i];
                const float away = std::sqrt(place.x * place.x + place.z * place.z);
                if (away > 0.3f && away < 0.6f) {
                    const Vec3& flow = field->vectors[i];
                    most = std::max(most, (place.z * flow.x - place.x * flow.z) / away);
                }
            }
            return most;
        };
        QVERIFY(turning() < 0.1f);
        const QRect dial = board->cellRect("vortex", "smoke");
        QVERIFY(!dial.isEmpty());
        QTest::mouseClick(board, Qt::LeftButton, {}, dial.center());
        QCOMPARE(find_link(*find_element(*window_->workbench().effect(), "vortex"), "smoke")->weight, 1.0f);
        QTRY_VERIFY(turning() > 0.5f);
        QHelpEvent asks(QEvent::ToolTip, dial.center(), board->mapToGlobal(dial.center()));
        QApplication::sendEvent(board, &asks);
        QVERIFY(QToolTip::text().contains("acts with 100 %"));
        QToolTip::hideText();
        window_->workbench().undo();
        QVERIFY(find_link(*find_element(*window_->workbench().effect(), "vortex"), "smoke") == nullptr);
    }

    void the_cost_is_told_before_it_plays() {
        const Effect effect = hand_in_smoke();
        const QString words = cost_words(effect, "smoke", Readings(), SmoothedCosts());
        QVERIFY2(words.startsWith("32 \u00d7 16 \u00d7 32 cells of 6.3 cm, 4 MB"), qPrintable(words));
        const QString now = cost_words(effect, "smoke", readings(), SmoothedCosts());
        QVERIFY2(now.contains("of its cells hold smoke"), qPrintable(now));
    }

    void volumes_that_share_room_are_told_so() {
        Effect effect = hand_in_smoke();
        QVERIFY(!caution_words(effect, "smoke").contains("shares room"));
        Smoke other = std::get<Smoke>(find_element(effect, "smoke")->body);
        other.position.x += other.size.x * 0.9f;
        effect.elements.push_back({.id = "other", .name = "Haze", .body = other});
        QVERIFY2(caution_words(effect, "smoke").contains("shares room with Haze"),
                 qPrintable(caution_words(effect, "smoke")));
        std::get<Smoke>(effect.elements.back().body).position.x += other.size.x * 0.2f;
        QVERIFY(caution_words(effect, "smoke").isEmpty());
        std::get<Smoke>(effect.elements.back().body).position = other.position;
        effect.elements.back().muted = true;
        QVERIFY(caution_words(effect, "smoke").isEmpty());
    }

    void too_many_cells_are_refused_before_anything_is_made() {
        Effect huge = hand_in_smoke();
        auto& smoke = std::get<Smoke>(huge.elements[0].body);
        smoke.size = {2, 2, 2};
        smoke.resolution = 512;
        const auto refusal = whole_refusal(huge);
        QVERIFY(refusal.has_value());
        QVERIFY2(refusal->find("134217728 cells") != std::string::npos &&
                     refusal->find("MB") != std::string::npos,
                 refusal->c_str());
    }
};

QTEST_MAIN(TestSmokeWindow)
#include "tst_smoke_window.moc"
