// The lens on forces: what it shows is what the kernels compute.
#include "../core/sample_effects.h"

#include "core/runtime/field.h"
#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"
#include "desktop/view/picture_maker.h"

#include <QApplication>
#include <QComboBox>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QtTest>

#include <numbers>

using namespace ember;
using namespace ember::sample;

namespace {

FieldReading read(const Effect& effect, const FieldOrder& order) {
    Simulation simulation;
    simulation.set_effect(shared(effect));
    simulation.step();
    return simulation.read_field(order);
}

Vec3 vector_of(const Effect& effect, const std::string& influence, const Vec3& place) {
    const FieldReading reading = read(effect, {influence, "", {place}, {}, 0, 0});
    return reading.vectors.empty() ? Vec3{-1, -1, -1} : reading.vectors[0];
}

} // namespace

class TestLens : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    const FieldReading* reading() { return window_->pictureMaker().shot().readings.field.get(); }
    void openWindow(const Effect& effect) {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = std::make_unique<MainWindow>(folder_->path());
        window_->resize(1280, 800);
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
        window_->document().reset(effect, {});
        QSignalSpy shown(window_.get(), &MainWindow::pictureShown);
        QVERIFY(shown.wait(5000));
    }

  private slots:
    void cleanup() {
        if (window_) {
            window_->document().reset(*window_->document().effect(), {});
            window_.reset();
        }
    }

    void single_forces_are_read_as_they_act() {
        Wind wind;
        wind.direction = {1, 0, 0};
        wind.speed = 6;
        wind.gusts = 0;
        wind.grip = 0.5f;
        Vortex vortex;
        vortex.spin = 90;
        vortex.core = 100;
        vortex.inflow = vortex.lift = 0;
        vortex.grip = 2;
        const Effect effect = effect_of(single_particle({}), {Gravity{}, wind, vortex});
        const auto close = [](const Vec3& a, const Vec3& b) { return length(a - b) < 1e-3f; };
        QVERIFY(close(vector_of(effect, "i1", {3, 2, 1}), {0, -9.81f, 0}));
        QVERIFY(close(vector_of(effect, "i2", {3, 2, 1}), {3, 0, 0}));
        // A quarter turn a second at 2 m, taken on at twice a second.
        const Vec3 swirl = vector_of(effect, "i3", {2, 0, 0});
        QVERIFY(std::abs(length(swirl) - 2 * 2 * std::numbers::pi_v<float> / 2) < 0.02f);
        QVERIFY(std::abs(swirl.x) < 1e-3f && std::abs(swirl.y) < 1e-3f);
        // All of them together, with the weights of their links.
        Effect weighted = effect;
        weighted.elements[1].links[0].weight = 0.5f;
        QVERIFY(close(vector_of(weighted, "", {2, 0, 0}), Vec3{3, -4.905f, 0} + swirl));
    }

    void what_acts_on_nothing_reads_nothing() {
        Effect effect = effect_of(single_particle({}), {Gravity{}});
        effect.elements[1].links.clear();
        QVERIFY(read(effect, {"i1", "", {{0, 0, 0}}, {}, 0, 0}).vectors.empty());
        effect.elements[1].links = {{"e", 1}};
        effect.elements[1].muted = true;
        QVERIFY(read(effect, {"i1", "", {{0, 0, 0}}, {}, 0, 0}).vectors.empty());
    }

    // Round a vortex they are circles.
    void streamlines_follow_the_field() {
        Vortex vortex;
        vortex.core = 100;
        vortex.inflow = vortex.lift = 0;
        const Effect effect = effect_of(single_particle({}), {vortex});
        const FieldReading reading = read(effect, {"i1", "", {}, {{1, 0.3f, 0}, {0, 0, 2}}, 200, 0.05f});
        QCOMPARE(reading.line_points.size(), size_t(2 * 201));
        for (size_t i = 0; i < 201; ++i) {
            QVERIFY(std::abs(length(reading.line_points[i] - Vec3{0, 0.3f, 0}) - 1) < 0.01f);
            QVERIFY(std::abs(length(reading.line_points[201 + i]) - 2) < 0.01f);
        }
        QVERIFY(std::abs(length(reading.line_points[1] - reading.line_points[0]) - 0.05f) < 1e-4f);
    }

    void slice_probe_and_kernel_say_the_same() {
        Turbulence eddies;
        eddies.churn = 0;
        Emitter emitter;
        emitter.look = "soft-dots";
        openWindow(effect_of(emitter, {eddies, Gravity{}}));
        window_->select("i1");
        window_->lensBar()->choose(ForceLens::Kind::slice);
        QTRY_VERIFY(reading() != nullptr && reading()->vectors.size() > 1000);
        const FieldReading slice = *reading();
        QCOMPARE(slice.order.influence, std::string("i1"));

        // The pointer onto the middle of one of its cells.
        const size_t cell = slice.vectors.size() / 2 + 11;
        const LiveView* view = window_->view();
        const auto pixel = on_picture(slice.order.places[cell], view->camera(), view->size());
        QVERIFY(pixel.has_value());
        QTest::mouseMove(window_->view(), pixel->toPoint());
        QTRY_VERIFY(reading()->vectors.size() == slice.vectors.size() + 1);
        const Vec3 probed = reading()->vectors.back();
        const Vec3 place = reading()->order.places.back();
        QVERIFY(length(place - slice.order.places[cell]) < 0.02f);
        QVERIFY(length(probed - slice.vectors[cell]) < 0.05f * length(slice.vectors[cell]) + 0.02f);
        const Vec3 computed = vector_of(*window_->document().effect(), "i1", place);
        QVERIFY(length(probed - computed) < 1e-4f);
    }

    void lens_costs_nothing_when_it_is_off() {
        Emitter emitter;
        emitter.look = "soft-dots";
        openWindow(effect_of(emitter, {Gravity{}}));
        QVERIFY(reading() == nullptr);
        QTest::keyClick(window_.get(), Qt::Key_L);
        QTRY_VERIFY(reading() != nullptr);
        for (int i = 0; i < 3; ++i) {
            QTest::keyClick(window_.get(), Qt::Key_L);
        }
        QCOMPARE(window_->lensBar()->lens().kind, ForceLens::Kind::age);
        QTRY_VERIFY(reading() == nullptr);
        QTest::keyClick(window_.get(), Qt::Key_L);
        QCOMPARE(window_->lensBar()->lens().kind, ForceLens::Kind::none);
        QVERIFY(!window_->lensBar()->ofBox()->isVisible());
    }

    void lens_shows_while_paused_and_follows_the_camera() {
        Emitter emitter;
        emitter.look = "soft-dots";
        openWindow(effect_of(emitter, {Gravity{}}));
        window_->player().pause();
        window_->lensBar()->choose(ForceLens::Kind::arrows);
        QTRY_VERIFY(reading() != nullptr);
        const Vec3 before = reading()->order.places.front();
        window_->view()->orbit(40, 10);
        QTRY_VERIFY(reading() != nullptr && length(reading()->order.places.front() - before) > 0.1f);
    }
};

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    theme::apply(application);
    TestLens test;
    return QTest::qExec(&test, argc, argv);
}
#include "tst_lens.moc"
