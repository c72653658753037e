// The lens on forces: what it shows is what the kernels compute.
#include "window_driver.h"

#include "../core/sample_effects.h"
#include "../core/sample_files.h"

#include "core/scene/field.h"
#include "desktop/main_window.h"
#include "desktop/theme.h"
#include "desktop/view/lens_bar.h"
#include "desktop/view/live_view.h"
#include "desktop/workbench/picture_maker.h"

#include <QApplication>
#include <QComboBox>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QtTest>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

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

    const FieldReading* reading() { return window_->workbench().pictureMaker().shot().readings.field.get(); }
    void openWindow(const Effect& effect) {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = driver::shown_window(folder_->path());
        QVERIFY(window_ != nullptr);
        window_->workbench().document().reset(effect, {});
        QSignalSpy shown(window_.get(), &MainWindow::pictureShown);
        QVERIFY(shown.wait(120000));
    }

  private slots:
    // What the live view says agrees with what pictures take, however slow they are.
    void the_pace_is_that_of_the_pictures() {
        for (const double interval_s : {0.004, 1 / 60.0, 0.1, 0.582, 2.0}) {
            Pace pace;
            int64_t now_ns = 1'000'000'000;
            pace.note(now_ns);
            QCOMPARE(pace.a_second(), 0.0);
            for (int i = 0; i < 400; ++i) {
                // Every other one half longer, as pictures come.
                now_ns += int64_t(interval_s * (i % 2 == 0 ? 0.8 : 1.2) * 1e9);
                pace.note(now_ns);
            }
            QVERIFY2(std::fabs(pace.a_second() * interval_s - 1) < (interval_s > 0.4 ? 0.25 : 0.05),
                     qPrintable(QString::number(pace.a_second() * interval_s)));
            // A single one that takes long is seen at once.
            now_ns += 3'000'000'000;
            pace.note(now_ns);
            QVERIFY(pace.a_second() < 0.5 + 0.02 / interval_s);
            pace.begin();
            QCOMPARE(pace.a_second(), 0.0);
        }
    }

    void cleanup() {
        if (window_) {
            window_->workbench().document().reset(*window_->workbench().document().effect(), {});
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
        const Vec3 computed = vector_of(*window_->workbench().document().effect(), "i1", place);
        QVERIFY(length(probed - computed) < 1e-4f);
    }

    void lens_costs_nothing_when_it_is_off() {
        Emitter emitter;
        emitter.look = "soft-dots";
        openWindow(effect_of(emitter, {Gravity{}}));
        QVERIFY(reading() == nullptr);
        QTest::keyClick(window_.get(), Qt::Key_L);
        QTRY_VERIFY(reading() != nullptr);
        for (int i = 0; i < 4; ++i) {
            QTest::keyClick(window_.get(), Qt::Key_L);
        }
        QCOMPARE(window_->lensBar()->lens().kind, ForceLens::Kind::age);
        QTRY_VERIFY(reading() == nullptr);
        for (int i = 0; i < 4; ++i) {
            QTest::keyClick(window_.get(), Qt::Key_L);
        }
        QCOMPARE(window_->lensBar()->lens().kind, ForceLens::Kind::none);
        QVERIFY(!window_->lensBar()->ofBox()->isVisible());
    }

    // One particle falls on the ground: one contact, as hard as its fall says.
    void contacts_are_where_and_as_hard_as_the_hit() {
        Emitter drop = single_particle({0.5f, 1.5f, 0});
        Plane ground;
        ground.bounce = 0.5f;
        ground.friction = 0;
        Simulation simulation;
        simulation.set_effect(shared(effect_of(drop, {Gravity{}, ground})));
        Frame frame;
        std::vector<FrameContact> contacts;
        for (int i = 0; i < 80; ++i) {
            simulation.note_contacts(i > 2);
            simulation.step();
            simulation.write_frame(frame);
            contacts.insert(contacts.end(), frame.contacts.begin(), frame.contacts.end());
        }
        QVERIFY(!contacts.empty());
        QVERIFY(std::abs(contacts[0].speed - std::sqrt(2 * 9.81f * 1.5f)) < 0.1f);
        QVERIFY(std::abs(contacts[0].position.x - 0.5f) < 0.01f && std::abs(contacts[0].position.y) < 0.05f);
        simulation.note_contacts(false);
        simulation.step();
        simulation.write_frame(frame);
        QVERIFY(frame.contacts.empty());

        ContactLens lens;
        QCOMPARE(lens.figures(), QString("nothing is hit"));
        lens.add(10, {{{0, 0, 0}, 2}, {{1, 0, 0}, 4}});
        lens.add(11, {});
        QVERIFY(lens.figures().contains("60 contacts a second, hardest 4.0 m/s, mean 3.0 m/s"));
        lens.add(60, {});
        QCOMPARE(lens.figures(), QString("nothing is hit")); // they fade
    }

    void a_step_that_takes_more_than_a_second_is_said_while_it_runs() {
        LiveView view;
        Shot shot;
        view.setPlaying(true);
        QVERIFY(view.slowWords().isEmpty());
        shot.readings.meters.step_ms = 999;
        view.setShot(&shot);
        QVERIFY(view.slowWords().isEmpty());
        shot.readings.meters.step_ms = 2640;
        QCOMPARE(view.slowWords(), QString("a step takes 2.6 s; P pauses"));
        view.setPlaying(false);
        QVERIFY(view.slowWords().isEmpty());
    }

    void a_lens_says_what_is_still_being_measured() {
        openWindow(effect_of(single_particle({}), {Gravity{}}));
        QTemporaryDir meshes;
        sample::write_ball_mesh(meshes.filePath("ball.obj").toStdString());
        MeshCollider ball;
        ball.mesh = "ball.obj";
        for (const bool through_lens : {true, false}) {
            window_->lensBar()->choose(through_lens ? ForceLens::Kind::slice : ForceLens::Kind::none);
            ball.resolution += 1; // measured anew
            window_->workbench().document().reset(effect_of(single_particle({}), {Gravity{}, ball}),
                                                  meshes.filePath("own.ember.json"));
            // The reading has begun, and its end comes by an event.
            QCOMPARE(window_->view()->awaitedWords().isEmpty(), !through_lens);
            window_->view()->grab(); // it is drawn
            QTRY_VERIFY(window_->workbench().pictureMaker().shot().readings.effect ==
                        window_->workbench().document().effect());
            QTRY_VERIFY(window_->view()->awaitedWords().isEmpty());
        }
    }

    void contacts_are_seen_in_the_window_only_through_their_lens() {
        Emitter drop = single_particle({0, 0.3f, 0});
        drop.rate = 300;
        drop.capacity = 400;
        openWindow(effect_of(drop, {Gravity{}, Plane{}}));
        QTRY_VERIFY(window_->workbench().pictureMaker().shot().readings.step >
                    40); // they have hit the ground
        QVERIFY(window_->workbench().pictureMaker().shot().contacts.empty());
        window_->lensBar()->choose(ForceLens::Kind::contacts);
        QTRY_VERIFY(window_->view()->contacts().figures().contains("contacts a second"));
    }

    // Tiles add up to the frame, and the hot ones are where the particles are.
    void cost_heat_adds_up_to_the_frame_and_lies_on_the_particles() {
        Emitter cloud;
        cloud.look = "soft-dots";
        cloud.rate = 40000;
        cloud.capacity = 60000;
        cloud.speed = {0, 0.2f};
        cloud.position = {0, 1, 0};
        cloud.size = {0.3f, 0.3f, 0.3f};
        Turbulence eddies;
        eddies.strength = 0.1f;
        Simulation simulation;
        simulation.set_effect(shared(effect_of(cloud, {eddies})));
        for (int i = 0; i < 90; ++i) {
            simulation.step();
        }
        Frame frame;
        simulation.write_frame(frame);
        Renderer renderer;
        Picture picture;
        const Camera camera = camera_of(frame.effect->stage);
        for (int i = 0; i <= Renderer::most_stage_samples; ++i) {
            renderer.draw(frame, *frame.effect, camera, 640, 400, picture);
        }
        const HeatMap heat = renderer.heat(frame);
        QCOMPARE(heat.ms.size(), size_t(heat.across * heat.down));
        const double sum = std::accumulate(heat.ms.begin(), heat.ms.end(), 0.0);
        const double seen = renderer.meters().stage_ms + renderer.meters().dots_ms +
                            renderer.meters().finishing_ms + frame.meters.elements[0].blocks_ms;
        QVERIFY(std::abs(sum - seen) < 0.02 * seen);
        QVERIFY(frame.meters.elements[0].blocks_ms >= frame.meters.elements[1].ms);

        // Were the step dear, its milliseconds would be seen where its particles are.
        frame.meters.elements[0].blocks_ms = 1e5;
        const HeatMap dear = renderer.heat(frame);
        const auto hottest = size_t(std::max_element(dear.ms.begin(), dear.ms.end()) - dear.ms.begin());
        const auto middle = on_picture({0, 1.1f, 0}, camera, {640, 400});
        const int across = dear.across;
        QVERIFY(std::abs(int(hottest) % across - int(middle->x()) / dear.tile_width) <= 1);
        QVERIFY(std::abs(int(hottest) / across - int(middle->y()) / dear.tile_height) <= 1);
        QVERIFY(std::abs(std::accumulate(dear.ms.begin(), dear.ms.end(), 0.0) - 1e5) < 1e3);
    }

    void cost_heat_is_measured_only_through_its_lens() {
        Emitter emitter;
        emitter.look = "soft-dots";
        openWindow(effect_of(emitter, {Gravity{}}));
        QVERIFY(window_->workbench().pictureMaker().shot().heat.ms.empty());
        window_->lensBar()->choose(ForceLens::Kind::heat);
        QTRY_VERIFY(!window_->view()->heat().mean().ms.empty());
        window_->lensBar()->choose(ForceLens::Kind::none);
        QTRY_VERIFY(window_->workbench().pictureMaker().shot().heat.ms.empty());
    }

    void lens_shows_while_paused_and_follows_the_camera() {
        Emitter emitter;
        emitter.look = "soft-dots";
        openWindow(effect_of(emitter, {Gravity{}}));
        window_->workbench().player().pause();
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
