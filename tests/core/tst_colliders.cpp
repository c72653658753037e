// Things to hit: every shape, moving ones, what sticks and dies, and particles against particles.
#include "sample_effects.h"
#include "sample_files.h"

#include "core/base/hash.h"
#include "core/scene/windows.h"

#include <QImage>
#include <QTemporaryDir>
#include <QtTest>

#include <numbers>

using namespace ember;
using namespace ember::sample;

namespace {

double error(double found, double expected) {
    return std::abs(found - expected) / std::abs(expected);
}

Surface dead() {
    return {.bounce = 0, .friction = 0, .roughness = 0};
}

// A rain of droplets at 60 m/s that comes from all sides at a thing at the origin.
Emitter rain() {
    Emitter emitter;
    emitter.shape = BirthShape::ball;
    emitter.fill = BirthFill::surface;
    emitter.size = {8, 8, 8};
    emitter.aim = Aim::normal;
    emitter.spread = 18;
    emitter.speed = {-60, -60};
    emitter.rate = 0;
    emitter.burst_count = 3000;
    emitter.capacity = 3000;
    emitter.lifetime = {100, 100};
    emitter.particle_size = {0.01f, 0.01f};
    emitter.look = "soft-dots";
    return emitter;
}

// A single droplet on its way.
Emitter droplet(Vec3 position, Vec3 velocity, float size = 0.02f) {
    Emitter emitter = single_particle(position);
    emitter.direction = velocity;
    emitter.speed = {length(velocity), length(velocity)};
    emitter.particle_size = {size, size};
    return emitter;
}

ParticleState only_particle(const Effect& effect, double seconds, const Assets& assets = {}) {
    Simulation simulation;
    simulation.set_effect(shared(effect), assets);
    for (int i = 0; i < int(seconds * 60 + 0.5); ++i) {
        simulation.step();
    }
    return particles(simulation).at(0);
}

LoadResult load(const Effect& effect, const QTemporaryDir& folder) {
    return AssetLibrary().load(effect, folder.path().toStdString());
}

} // namespace

class TestColliders : public QObject {
    Q_OBJECT

  private slots:
    void no_droplet_passes_a_thin_shape_at_sixty_metres_a_second_data() {
        QTest::addColumn<int>("kind");
        QTest::newRow("box of 1 cm") << 0;
        QTest::newRow("ball") << 1;
        QTest::newRow("capsule") << 2;
        QTest::newRow("cylinder of 1 cm") << 3;
    }
    // Droplets that the shape stops come to rest on it; none is ever found inside.
    void no_droplet_passes_a_thin_shape_at_sixty_metres_a_second() {
        QFETCH(int, kind);
        const Place turned = {{}, {20, 30, 40}, {}};
        const ElementBody bodies[] = {Box{dead(), turned, {0.01f, 20, 20}}, Ball{dead(), turned, 0.3f},
                                      Capsule{dead(), turned, 0.1f, 2}, Cylinder{dead(), turned, 4, 0.01f}};
        Simulation simulation;
        simulation.set_effect(shared(effect_of(rain(), {bodies[kind]})));
        const Axes axes = turned_axes(turned.turn);
        const auto depth = [&](const Vec3& place) -> float {
            const Vec3 p = axes.in(place);
            switch (kind) {
            case 0:
                return std::max({std::abs(p.x) - 0.005f, std::abs(p.y) - 10, std::abs(p.z) - 10});
            case 1:
                return length(p) - 0.3f;
            case 2:
                return length(Vec3{p.x, p.y - std::clamp(p.y, -1.0f, 1.0f), p.z}) - 0.1f;
            default:
                return std::max(std::hypot(p.x, p.z) - 4, std::abs(p.y) - 0.005f);
            }
        };
        // On which side of a plate each begins: none may change over.
        std::vector<float> sides;
        for (int i = 0; i < 30; ++i) {
            simulation.step();
            const auto all = particles(simulation);
            for (size_t k = 0; k < all.size(); ++k) {
                QVERIFY2(depth(all[k].position) > 0.0049f - 1e-3f,
                         qPrintable(QString::number(depth(all[k].position))));
                const Vec3 p = axes.in(all[k].position);
                const float side = kind == 0 ? p.x : p.y;
                if (i == 0) {
                    sides.push_back(side);
                } else if (kind == 0 && std::hypot(p.y, p.z) < 9) {
                    QVERIFY(side * sides[k] > 0);
                }
            }
        }
    }

    void balls_bounce_off_round_things_at_the_mirrored_angle() {
        // From the left, half a radius above the middle, onto a ball: the normal is 30 degrees up.
        const Surface full = {.bounce = 1, .friction = 0, .roughness = 0};
        const float size = 0.02f, sum = 0.5f + size / 2;
        const auto p =
            only_particle(effect_of(droplet({-3, sum / 2, 0}, {5, 0, 0}, size), {Ball{full, {}, 0.5f}}), 1);
        // Turned by twice the angle to the normal: 120 degrees.
        QVERIFY(length(p.velocity - Vec3{-2.5f, 4.3301f, 0}) < 0.02f);
        const auto q = only_particle(
            effect_of(droplet({-3, 0, sum / 2}, {5, 0, 0}, size), {Cylinder{full, {}, 0.5f, 4}}), 1);
        QVERIFY(length(q.velocity - Vec3{-2.5f, 0, 4.3301f}) < 0.02f);
        const auto r = only_particle(
            effect_of(droplet({-3, 0, sum / 2}, {5, 0, 0}, size), {Capsule{full, {}, 0.5f, 4}}), 1);
        QVERIFY(length(r.velocity - Vec3{-2.5f, 0, 4.3301f}) < 0.02f);
        const auto top = only_particle(
            effect_of(droplet({0.2f, 4, 0}, {0, -5, 0}, size), {Cylinder{full, {}, 0.5f, 4}}), 1);
        QVERIFY(length(top.velocity - Vec3{0, 5, 0}) < 0.02f);
    }

    void particles_rest_on_every_shape() {
        const Surface rough = {.bounce = 0.2f, .friction = 1, .roughness = 0};
        const float r = 0.01f;
        const auto rests = [&](const ElementBody& body, float height) {
            const auto p = only_particle(effect_of(droplet({0, 3, 0}, {0, -1, 0}), {Gravity{}, body}), 4);
            return std::abs(p.position.y - height) < 2e-3f && length(p.velocity) < 0.02f;
        };
        QVERIFY(rests(Ball{rough, {}, 0.5f}, 0.5f + r));
        QVERIFY(rests(Capsule{rough, {{}, {0, 0, 90}, {}}, 0.3f, 1}, 0.3f + r));
        QVERIFY(rests(Capsule{rough, {}, 0.3f, 1}, 0.8f + r));
        QVERIFY(rests(Cylinder{rough, {}, 0.3f, 1}, 0.5f + r));
        QVERIFY(rests(Cylinder{rough, {{}, {90, 0, 0}, {}}, 0.3f, 1}, 0.3f + r));
    }

    void what_starts_inside_a_shape_is_put_out() {
        for (const ElementBody& body :
             {ElementBody(Ball{dead(), {}, 1}), ElementBody(Capsule{dead(), {}, 0.6f, 1}),
              ElementBody(Cylinder{dead(), {}, 0.8f, 2})}) {
            const auto p = only_particle(effect_of(droplet({0.3f, 0.2f, 0.1f}, {}), {body}), 0.1);
            QVERIFY(length(Vec3{p.position.x, 0, p.position.z}) > 0.55f || std::abs(p.position.y) > 0.9f);
        }
    }

    void moving_colliders_push_with_their_own_velocity() {
        // A wall that comes at 2 m/s onto a droplet at rest: with full bounce it leaves at twice that.
        PathMover mover;
        mover.path = PathKind::points;
        mover.points = {{-2, 0, 0}, {4, 0, 0}};
        mover.period = 3;
        const Surface full = {.bounce = 1, .friction = 0, .roughness = 0};
        Effect effect = effect_of(droplet({}, {}), {Box{full, {{}, {}, "m"}, {0.2f, 4, 4}}});
        effect.elements.push_back({.id = "m", .name = "Mover", .body = mover});
        QVERIFY(error(double(only_particle(effect, 1.5).velocity.x), 4) < 0.01);
        // With no bounce it is pushed along.
        std::get<Box>(effect.elements[1].body).bounce = 0;
        QVERIFY(error(double(only_particle(effect, 1.5).velocity.x), 2) < 0.01);
    }

    void turning_colliders_push_with_the_speed_of_their_rim() {
        // A blade of 2 m turns by half a round a second and meets a droplet one metre out.
        const Surface dead_blade = dead();
        Effect effect =
            effect_of(droplet({0, 0, -1}, {}), {Box{dead_blade, {{1, 0, 0}, {}, "m"}, {2, 1, 0.05f}}});
        effect.elements.push_back({.id = "m", .name = "Mover", .body = Orbit{{}, 0, 2}});
        Simulation simulation;
        simulation.set_effect(shared(effect));
        Vec3 velocity;
        for (int i = 0; i < 60 && length(velocity) < 0.1f; ++i) {
            simulation.step();
            velocity = particles(simulation).at(0).velocity;
        }
        // At the hit the blade points along -z and its surface goes along -x.
        QVERIFY2(error(-double(velocity.x), std::numbers::pi) < 0.05,
                 qPrintable(QString::number(double(velocity.x))));
    }

    void what_sticks_moves_along_and_is_let_go() {
        Surface sticky = dead();
        sticky.on_hit = OnHit::stick;
        Effect effect = effect_of(droplet({-3, 0, 0.2f}, {8, 0, 0}),
                                  {Gravity{.strength = 1}, Ball{sticky, {{}, {}, "m"}, 0.5f}});
        effect.elements.push_back({.id = "m", .name = "Mover", .body = Orbit{{}, 0, 2}});
        Simulation simulation;
        simulation.set_effect(shared(effect));
        for (int i = 0; i < 60; ++i) {
            simulation.step();
        }
        const Vec3 at_one = particles(simulation).at(0).position;
        QVERIFY(error(double(length(at_one)), 0.51) < 0.01);
        for (int i = 0; i < 60; ++i) {
            simulation.step();
        }
        // Half a round later it is on the other side.
        const auto later = particles(simulation).at(0);
        QVERIFY(length(later.position - Vec3{-at_one.x, at_one.y, -at_one.z}) < 0.01f);
        QVERIFY(error(double(length(Vec3{later.velocity.x, 0, later.velocity.z})),
                      std::numbers::pi * std::hypot(double(at_one.x), double(at_one.z))) < 0.02);
        effect.elements[2].muted = true;
        simulation.set_effect(shared(effect));
        for (int i = 0; i < 60; ++i) {
            simulation.step();
        }
        const Vec3 fallen = particles(simulation).at(0).position;
        QVERIFY(fallen.y < at_one.y - 0.3f);
        // Let go is let go, also if what held it acts again.
        effect.elements[2].muted = false;
        simulation.set_effect(shared(effect));
        for (int i = 0; i < 30; ++i) {
            simulation.step();
        }
        QVERIFY(particles(simulation).at(0).position.y < fallen.y - 0.3f);
    }

    void what_dies_on_a_hit_is_gone() {
        Surface deadly = dead();
        deadly.on_hit = OnHit::die;
        const Simulation simulation = run(effect_of(rain(), {Ball{deadly, {}, 1}}), 0.4);
        // All that came through the ball's middle are gone, those that missed it are not.
        QVERIFY(simulation.meters().particles < 3000 && simulation.meters().particles > 0);
        for (const auto& p : particles(simulation)) {
            QVERIFY(length(p.position) > 1);
        }
    }

    void friction_goes_from_sliding_to_stuck_at_once() {
        const auto distance = [](float friction) {
            const Plane plane{{.bounce = 0, .friction = friction, .roughness = 0}};
            return only_particle(effect_of(droplet({0, 0.5f, 0}, {3, 0, 0}), {Gravity{}, plane}), 5)
                .position.x;
        };
        const float landing = 3 * std::sqrt(2 * 0.49f / 9.81f);
        QVERIFY(distance(0) > 14);
        QVERIFY(std::abs(distance(100) - landing) < 0.06f);
        QVERIFY(distance(0.3f) > landing + 0.1f && distance(0.3f) < 2);
    }

    void collider_acts_only_within_its_reach() {
        Plane plane{dead()};
        plane.reach = ReachShape::box;
        plane.reach_position = {};
        plane.reach_size = {2, 2, 2};
        plane.fade = Fade::stop;
        plane.fade_distance = 0.01f;
        QVERIFY(only_particle(effect_of(droplet({0.5f, 1, 0}, {}), {Gravity{}, plane}), 2).position.y > 0);
        QVERIFY(only_particle(effect_of(droplet({1.5f, 1, 0}, {}), {Gravity{}, plane}), 2).position.y < -5);
    }

    void mesh_acts_as_its_shape() {
        QTemporaryDir folder;
        write_ball_mesh(folder.filePath("ball.obj").toStdString());
        MeshCollider mesh{dead(), {{0, 1, 0}, {}, {}}, "ball.obj", 0.5f, 64};
        mesh.bounce = 0.2f;
        mesh.friction = 1;
        const Effect effect = effect_of(droplet({0, 3, 0}, {0, -1, 0}), {Gravity{}, mesh});
        const LoadResult loaded = load(effect, folder);
        QVERIFY(loaded.missing.empty() && loaded.notes.empty());
        const auto p = only_particle(effect, 4, loaded.assets);
        QVERIFY2(std::abs(p.position.y - 1.51f) < 0.01f, qPrintable(QString::number(double(p.position.y))));
        // A fast rain: nothing inside.
        mesh.position = {};
        const Effect wet = effect_of(rain(), {mesh});
        Simulation simulation;
        simulation.set_effect(shared(wet), loaded.assets);
        for (int i = 0; i < 30; ++i) {
            simulation.step();
            for (const auto& each : particles(simulation)) {
                QVERIFY2(length(each.position) > 0.49f,
                         qPrintable(QString::number(double(length(each.position)))));
            }
        }
    }

    void area_of_a_mesh_rides_on_a_mover_and_does_the_same_there() {
        QTemporaryDir folder;
        write_ball_mesh(folder.filePath("ball.obj").toStdString());
        MeshCollider mesh{dead(), {}, "ball.obj", 1, 32, 0.8f, "m"};
        Effect effect = effect_of(droplet({1, 4, 0}, {0, -1, 0}), {Gravity{}, mesh});
        effect.elements.push_back({.id = "m", .name = "Mover", .body = PathMover{}});
        auto& mover = std::get<PathMover>(effect.elements.back().body);
        mover.path = PathKind::points;
        mover.points = {{0, 1, 0}, {0.001f, 1, 0}};
        const LoadResult loaded = load(effect, folder);
        QVERIFY(loaded.missing.empty());
        // Beside the area the mesh is not felt.
        QVERIFY(only_particle(effect, 3, loaded.assets).position.y < -10);
        std::get<Emitter>(effect.elements[0].body).position = {0.1f, 4, 0};
        std::get<MeshCollider>(effect.elements[2].body).friction = 1;
        const auto rests = only_particle(effect, 3, loaded.assets);
        QVERIFY(std::abs(length(rests.position) - 1.01f) < 0.01f);
    }

    void open_mesh_is_said_and_acts_as_a_shell() {
        QTemporaryDir folder;
        write_box_mesh(folder.filePath("open.obj").toStdString(), true);
        const MeshCollider mesh{{.bounce = 0, .friction = 1, .roughness = 0}, {}, "open.obj", 1, 48};
        const Effect effect = effect_of(droplet({0, 2, 0}, {}), {Gravity{}, mesh});
        const LoadResult loaded = load(effect, folder);
        QVERIFY(loaded.missing.empty());
        QCOMPARE(loaded.notes.size(), size_t(1));
        QVERIFY(loaded.notes[0].text().find("4 open edges") != std::string::npos);
        QVERIFY(loaded.notes[0].expected.find("thin shell") != std::string::npos);
        // Through the open top and down to the bottom, which holds it.
        const auto p = only_particle(effect, 3, loaded.assets);
        QVERIFY2(p.position.y < -0.3f && p.position.y > -0.5f,
                 qPrintable(QString::number(double(p.position.y))));
    }

    void height_map_from_an_image_carries_at_its_heights() {
        QTemporaryDir folder;
        QImage image(64, 64, QImage::Format_Grayscale8);
        for (int y = 0; y < 64; ++y) {
            for (int x = 0; x < 64; ++x) {
                image.setPixel(x, y, qRgb(x * 4, x * 4, x * 4)); // a ramp along x
            }
        }
        QVERIFY(image.save(folder.filePath("ramp.png")));
        HeightMap map{
            {.bounce = 0, .friction = 100, .roughness = 0}, {}, HeightsFrom::image, "ramp.png", {4, 1, 4}};
        for (const float x : {-1.5f, 0.0f, 1.2f}) {
            const Effect effect = effect_of(droplet({x, 2, 0.3f}, {}), {Gravity{}, map});
            const LoadResult loaded = load(effect, folder);
            QVERIFY(loaded.missing.empty());
            const auto p = only_particle(effect, 2, loaded.assets);
            const float expected = (x + 2) / 4 * 63 * 4 / 255 + 0.01f;
            QVERIFY2(std::abs(p.position.y - expected) < 0.02f,
                     qPrintable(QString::number(double(p.position.y - expected))));
        }
        // Beside the area there is nothing.
        const Effect beside = effect_of(droplet({3, 2, 0}, {}), {Gravity{}, map});
        QVERIFY(only_particle(beside, 2, load(beside, folder).assets).position.y < -5);
        // Fast droplets do not pass.
        const Effect fast = effect_of(droplet({0, 3, 0}, {0, -60, 0}), {map});
        QVERIFY(only_particle(fast, 0.5, load(fast, folder).assets).position.y > 0.4f);
    }

    void height_map_captures_what_stands_on_the_stage_and_follows() {
        const Surface surface = {.bounce = 0, .friction = 100, .roughness = 0};
        HeightMap map{surface, {{}, {}, "m"}, HeightsFrom::stage, "", {4, 2, 4}, 128};
        Effect effect = effect_of(droplet({0.2f, 3, 0.2f}, {}), {Gravity{}, map});
        // A box and the ground stand there, but only the map is linked.
        effect.elements.push_back(
            {.id = "box", .name = "Box", .body = Box{surface, {{0, 0.5f, 0}, {}, {}}, {1, 1, 1}}});
        effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{surface}});
        effect.elements.push_back({.id = "m", .name = "Mover", .body = Orbit{{}, 0}});
        QVERIFY(std::abs(only_particle(effect, 2).position.y - 1.01f) < 0.02f);
        std::get<Emitter>(effect.elements[0].body).position = {1.5f, 3, 0.2f};
        QVERIFY(std::abs(only_particle(effect, 2).position.y - 0.01f) < 0.02f);
        // The area follows its mover away from the box.
        std::get<Orbit>(effect.elements.back().body).position = {10, 0, 0};
        QVERIFY(only_particle(effect, 2).position.y < -5);
    }

    void a_captured_map_is_made_anew_only_where_something_moved() {
        HeightMap map{{}, {{}, {}, ""}, HeightsFrom::stage, "", {8, 2, 8}, 128};
        Effect effect = effect_of(droplet({0, 3, 0}, {}), {Gravity{}, map});
        effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{}});
        Orbit way;
        way.radius = 2;
        way.period = 4;
        effect.elements.push_back({.id = "way", .name = "Way", .body = way});
        Box walker;
        walker.position = {0, 0.5f, 0};
        walker.size = {0.4f, 1, 0.4f};
        walker.rides_on = "way";
        effect.elements.push_back({.id = "walker", .name = "Walker", .body = walker});
        const auto captured = [](const Simulation& simulation) {
            return simulation.meters().elements[2].cells_captured;
        };
        Simulation simulation = run(effect, 1.0 / 60);
        QCOMPARE(captured(simulation), size_t(128 * 128));
        QVERIFY(simulation.meters().elements[2].ms > 0); // in the column of the map
        for (int i = 0; i < 60; ++i) {
            simulation.step();
            // The walker's place and the one before.
            QVERIFY2(captured(simulation) > 0 && captured(simulation) < 128 * 128 / 50,
                     qPrintable(QString::number(captured(simulation))));
        }
        // Nothing moves: nothing is made.
        std::get<Box>(effect.elements[5].body).rides_on.clear();
        simulation.set_effect(shared(effect));
        simulation.step();
        simulation.step();
        QCOMPARE(captured(simulation), size_t(0));
        // Muted: nothing either, whoever moves.
        effect.elements[2].muted = true;
        std::get<Box>(effect.elements[5].body).rides_on = "way";
        simulation.set_effect(shared(effect));
        for (int i = 0; i < 5; ++i) {
            simulation.step();
            QCOMPARE(captured(simulation), size_t(0));
            QCOMPARE(simulation.meters().elements[2].ms, 0.0);
        }
    }

    void who_walks_over_a_captured_map_need_not_be_in_it() {
        Surface surface = {.bounce = 0, .friction = 100, .roughness = 0};
        HeightMap map{surface, {{}, {}, ""}, HeightsFrom::stage, "", {6, 3, 6}, 96};
        Effect effect = effect_of(droplet({0, 1, 0}, {}), {Gravity{}, map});
        effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{surface}});
        PathMover way;
        way.path = PathKind::points;
        way.points = {{-3, 0, 0}, {3, 0, 0}};
        way.period = 3;
        effect.elements.push_back({.id = "way", .name = "Way", .body = way});
        Box walker{surface, {{0, 0.5f, 0}, {}, "way"}, {0.6f, 1, 0.6f}};
        effect.elements.push_back({.id = "walker", .name = "Walker", .body = walker});
        const auto highest = [](const Effect& of) {
            Simulation simulation = run(of, 0.8);
            float most = 0;
            for (int i = 0; i < 120; ++i) {
                simulation.step();
                most = std::max(most, particles(simulation).at(0).position.y);
            }
            return most;
        };
        QVERIFY2(highest(effect) > 0.7f, qPrintable(QString::number(highest(effect))));
        std::get<Box>(effect.elements[5].body).captured = false;
        QVERIFY2(highest(effect) < 0.05f, qPrintable(QString::number(highest(effect))));
    }

    void what_goes_over_the_edge_of_a_map_does_as_it_is_told() {
        Surface surface = {.bounce = 0, .friction = 0, .roughness = 0};
        HeightMap map{surface, {{}, {}, ""}, HeightsFrom::stage, "", {2, 2, 2}, 32};
        const auto end_of = [&](MapEdge edge) {
            map.at_edge = edge;
            Effect effect = effect_of(droplet({0, 0.05f, 0}, {2, 0, 0}), {Gravity{}, map});
            effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{surface}});
            return particles(run(effect, 2));
        };
        QVERIFY(end_of(MapEdge::fall).at(0).position.y < -3);
        QVERIFY(std::abs(end_of(MapEdge::stay).at(0).position.y) < 0.05f);
        QVERIFY(end_of(MapEdge::stay).at(0).position.x > 2);
        QVERIFY(end_of(MapEdge::die).empty() || end_of(MapEdge::die).at(0).age < 1);
    }

    // Of every type of element, on an effect in which it would have work.
    void what_is_muted_costs_nothing() {
        QTemporaryDir folder;
        write_box_mesh(folder.filePath("box.obj").toStdString());
        for (const ElementType& type : element_types()) {
            Effect effect = effect_of(droplet({0, 1, 0}, {1, 0, 0}), {Gravity{}});
            std::get<Emitter>(effect.elements[0].body).capacity = 500;
            effect.elements.push_back({.id = "smoke", .name = "Smoke", .body = Smoke{.resolution = 16}});
            effect.elements.push_back({.id = "feed", .name = "Feed", .body = SmokeSource{}});
            effect.elements.push_back({.id = "block", .name = "Block", .body = Breakable{.pieces = 4}});
            Element element{.id = "muted", .name = "Muted", .body = type.prototype};
            if (reach_of(element.body) != nullptr) {
                element.links = {{"e", 1}, {"block", 1}};
            }
            std::visit(
                [](auto& body) {
                    if constexpr (requires { body.mesh; }) {
                        body.mesh = "box.obj";
                    }
                    if constexpr (requires { body.from = HeightsFrom::stage; }) {
                        body.from = HeightsFrom::stage;
                    }
                },
                element.body);
            element.muted = true;
            effect.elements.push_back(element);
            Simulation simulation;
            simulation.set_effect(shared(effect), load(effect, folder).assets);
            for (int i = 0; i < 20; ++i) {
                simulation.step();
                const ElementMeter& meter = simulation.meters().elements.back();
                const std::string what(type.key);
                QVERIFY2(meter.ms == 0 && meter.blocks_ms == 0, what.c_str());
                QVERIFY2(meter.live == 0 && meter.born == 0 && meter.cells_captured == 0 &&
                             meter.smoke.cells == 0 && meter.debris.pieces == 0 && meter.debris.taken == 0,
                         what.c_str());
            }
        }
    }

    void streams_of_colliding_particles_keep_their_momentum() {
        Emitter left = droplet({-0.3f, 0, 0}, {1.5f, 0, 0}, 0.03f);
        left.shape = BirthShape::ball;
        left.size = {0.4f, 0.4f, 0.4f};
        left.rate = 0;
        left.burst_count = 600;
        left.capacity = 600;
        left.mass = {1, 3};
        Effect effect = effect_of(left, {Contacts{{}, 1, 0.6f}});
        Emitter right = left;
        right.position = {0.3f, 0.05f, 0};
        right.direction = {-1, 0, 0};
        right.mass = {2, 2};
        effect.elements.insert(effect.elements.begin() + 1, {.id = "r", .name = "Right", .body = right});
        effect.elements[2].links.push_back({"r", 1});
        Simulation simulation = run(effect, 1.0 / 60);
        const BlockKernels& kernels = block_kernels(best_isa());
        const auto momentum = [&](double& energy) {
            Vec3 sum;
            energy = 0;
            for (const char* id : {"e", "r"}) {
                const uint32_t seed = mixed_seed(effect.seed, hash_of(id));
                for (const auto& p : particles(simulation, id)) {
                    const float share = kernels.chance(seed, p.number, FOR_MASS);
                    const float mass = std::string(id) == "e" ? 1 + 2 * share : 2;
                    sum += p.velocity * mass;
                    energy += 0.5 * double(mass * dot(p.velocity, p.velocity));
                }
            }
            return sum;
        };
        double energy_before = 0, energy_after = 0;
        const Vec3 before = momentum(energy_before);
        for (int i = 0; i < 90; ++i) {
            simulation.step();
        }
        const Vec3 after = momentum(energy_after);
        QVERIFY2(energy_after < 0.8 * energy_before,
                 qPrintable(QString::number(energy_after / energy_before))); // they have hit
        const double all = 600 * 2 * 2 * 1.5;
        QVERIFY2(double(length(after - before)) < 0.001 * all,
                 qPrintable(QString::number(double(length(after - before)) / all)));
    }

    void a_heap_at_one_point_keeps_its_momentum_though_only_some_pairs_are_looked_at() {
        // Far more than are looked at for each.
        Emitter heap = droplet({0, 0, 0}, {1, 0, 0}, 0.05f);
        heap.shape = BirthShape::ball;
        heap.size = {0.04f, 0.04f, 0.04f};
        heap.spread = 180;
        heap.speed = {0.5f, 2};
        heap.rate = 0;
        heap.burst_count = 3000;
        heap.capacity = 3000;
        const Effect effect = effect_of(heap, {Contacts{{}, 1, 0.5f}});
        const auto motion = [](const Simulation& simulation, double& energy) {
            Vec3 sum;
            energy = 0;
            for (const auto& p : particles(simulation)) {
                sum += p.velocity;
                energy += 0.5 * double(dot(p.velocity, p.velocity));
            }
            return sum;
        };
        double free_energy = 0, energy = 0;
        const Vec3 free = motion(run(effect_of(heap, {}), 0.1), free_energy);
        const Vec3 hit = motion(run(effect, 0.1), energy);
        QVERIFY2(energy < 0.9 * free_energy, qPrintable(QString::number(energy / free_energy)));
        QVERIFY2(double(length(hit - free)) < 1e-3 * std::sqrt(2 * free_energy * 3000),
                 qPrintable(QString::number(double(length(hit - free)))));
    }

    void two_equal_balls_exchange_their_velocities() {
        Effect effect = effect_of(droplet({-0.5f, 0, 0}, {2, 0, 0}, 0.1f), {Contacts{{}, 1, 1}});
        effect.elements.insert(effect.elements.begin() + 1,
                               {.id = "r", .name = "Right", .body = droplet({0.5f, 0, 0}, {-1, 0, 0}, 0.1f)});
        effect.elements[2].links.push_back({"r", 1});
        const Simulation simulation = run(effect, 1);
        QVERIFY(length(particles(simulation).at(0).velocity - Vec3{-1, 0, 0}) < 1e-3f);
        QVERIFY(length(particles(simulation, "r").at(0).velocity - Vec3{2, 0, 0}) < 1e-3f);
    }
};

QTEST_APPLESS_MAIN(TestColliders)
#include "tst_colliders.moc"
