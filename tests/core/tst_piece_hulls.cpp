// Particles that hit the pieces of breakables: what is convex round a piece, what is met first, what rides
// along.
#include "sample_effects.h"
#include "state_bytes.h"

#include "core/base/hash.h"
#include "core/cutting/cut.h"
#include "core/geometry/hull_planes.h"

#include <oneapi/tbb/global_control.h>

#include <QtTest>

using namespace ember;
using namespace ember::sample;

namespace {

// How far a place is outside of all planes; negative inside.
float off(const std::vector<float>& planes, const Vec3& place) {
    float farthest = -1e30f;
    for (size_t i = 0; i < planes.size(); i += 4) {
        farthest = std::max(farthest, dot(place, {planes[i], planes[i + 1], planes[i + 2]}) - planes[i + 3]);
    }
    return farthest;
}

// The emitter "e", the breakable "b", and what particles do on its pieces.
struct Scene {
    Effect effect;

    Scene(const Emitter& emitter, const Breakable& breakable, const PieceCollider& pieces) {
        effect = effect_of(emitter, {pieces});
        effect.elements.push_back({.id = "b", .name = "Body", .body = breakable});
    }
    void act(const ElementBody& body, const std::vector<Link>& links) {
        const std::string id = "a" + std::to_string(effect.elements.size());
        effect.elements.push_back({.id = id, .name = id, .body = body, .links = links});
    }
    void set(Simulation& simulation) const {
        simulation.set_effect(shared(effect), AssetLibrary().load(effect, ".").assets);
    }
};

// Held where it is put.
Pin everywhere() {
    Pin pin;
    pin.reach = ReachShape::everywhere;
    return pin;
}

Breakable block(const Vec3& position, const Vec3& size, int pieces) {
    Breakable block;
    block.position = position;
    block.size = size;
    block.pieces = pieces;
    return block;
}

FramePiece only_piece(const Simulation& simulation) {
    Frame frame;
    simulation.write_frame(frame);
    return frame.debris.at(0).pieces.at(0);
}

void run_for(Simulation& simulation, double seconds) {
    for (int i = 0; i < int(seconds * 60 + 0.5); ++i) {
        simulation.step();
    }
}

// A wall that is blown apart while it rains on it.
Scene wall_in_the_rain(OnHit on_hit) {
    Emitter rain;
    rain.shape = BirthShape::disc;
    rain.size = {2, 0, 2};
    rain.position = {0, 2, 0};
    rain.direction = {0, -1, 0};
    rain.rate = 3000;
    rain.capacity = 6000;
    rain.speed = {1, 3};
    rain.lifetime = {1.2f, 1.6f};
    rain.particle_size = {0.005f, 0.03f};
    rain.form = Form::stretched;
    rain.look = "soft-dots";
    PieceCollider pieces;
    pieces.on_hit = on_hit;
    Scene scene(rain, block({0, 0.4f, 0}, {1, 0.8f, 0.3f}, 40), pieces);
    scene.act(Gravity{}, {{"e", 1}, {"b", 1}});
    scene.act(Plane{}, {{"b", 1}});
    Blast blast;
    blast.reach = ReachShape::ball;
    blast.reach_size = {2, 2, 2};
    blast.first = 0.6f;
    scene.act(blast, {{"b", 1}});
    return scene;
}

} // namespace

class TestPieceHulls : public QObject {
    Q_OBJECT

  private slots:
    void planes_hold_a_piece_and_little_else() {
        CutOrder order;
        order.pieces = 30;
        Problems problems;
        const auto cut = cut_apart(block_mesh({1, 0.6f, 0.8f}), order, problems);
        QVERIFY(cut && cut->pieces.size() >= 20);
        for (const Piece& piece : cut->pieces) {
            const std::vector<float> planes = hull_planes(piece.mesh);
            for (const Vec3& corner : piece.mesh.corners) {
                QVERIFY(off(planes, corner) < 1e-5f);
            }
            // Its share of its own box, found at random places.
            const Vec3 low = piece.mesh.low(), size = piece.mesh.high() - low;
            uint32_t inside = 0;
            constexpr uint32_t tries = 20000;
            const auto unit = [](uint32_t n) { return float(mixed_seed(7, n)) / 4294967296.0f; };
            for (uint32_t n = 0; n < tries; ++n) {
                const Vec3 share = {unit(3 * n), unit(3 * n + 1), unit(3 * n + 2)};
                inside += off(planes, low + size * share) < 0 ? 1 : 0;
            }
            const float volume = size.x * size.y * size.z * float(inside) / tries;
            QVERIFY2(std::abs(volume / piece.volume - 1) < 0.05f,
                     qPrintable(QString("%1 of %2 m^3").arg(volume).arg(piece.volume)));
        }
    }

    void round_and_flat_bodies_have_few_planes() {
        Mesh ball;
        for (int i = 0; i < 400; ++i) {
            const float h = 1 - 2 * (float(i) + 0.5f) / 400, turn = float(i) * 2.3999632f;
            const float r = std::sqrt(1 - h * h);
            ball.corners.push_back({r * std::cos(turn), h, r * std::sin(turn)});
        }
        for (uint32_t i = 0; i + 2 < 400; ++i) {
            ball.triangles.push_back({i, i + 1, i + 2});
        }
        const std::vector<float> planes = hull_planes(ball);
        QVERIFY(planes.size() >= 6 * 4 && planes.size() <= 32 * 4);
        for (const Vec3& corner : ball.corners) {
            QVERIFY(off(planes, corner) < 1e-5f);
        }
        Mesh sheet;
        sheet.corners = {{0, 0, 0}, {1, 0, 0}, {0, 0, 1}};
        sheet.triangles = {{0, 1, 2}};
        const std::vector<float> of_sheet = hull_planes(sheet);
        QVERIFY(off(of_sheet, {0.2f, 0, 0.2f}) <= 0 && off(of_sheet, {0.2f, 0.1f, 0.2f}) > 0.09f);
        QVERIFY(off(of_sheet, {3, 0, 0}) > 1);
        Mesh tube; // open at both ends: its faces balance, and bound nothing along it
        for (uint32_t i = 0; i < 8; ++i) {
            const float turn = float(i) * 0.7853982f;
            tube.corners.push_back({std::cos(turn), 0, std::sin(turn)});
            tube.corners.push_back({std::cos(turn), 2, std::sin(turn)});
            const uint32_t next = (i + 1) % 8;
            tube.triangles.push_back({2 * i, 2 * i + 1, 2 * next});
            tube.triangles.push_back({2 * next, 2 * i + 1, 2 * next + 1});
        }
        QVERIFY(off(hull_planes(tube), {0, 1, 0}) < 0 && off(hull_planes(tube), {0, 5, 0}) > 2.9f);
        QVERIFY(hull_planes(Mesh()).empty());
    }

    void no_droplet_of_a_centimetre_passes_a_piece_of_two_at_twenty_metres_a_second() {
        Emitter rain;
        rain.shape = BirthShape::ball;
        rain.fill = BirthFill::surface;
        rain.size = {3, 3, 3};
        rain.aim = Aim::normal;
        rain.spread = 0.25f; // 0.65 cm at most beside the middle
        rain.speed = {-22, -18};
        rain.rate = 0;
        rain.burst_count = 10000;
        rain.capacity = 10000;
        rain.lifetime = {100, 100};
        rain.particle_size = {0.01f, 0.01f};
        rain.look = "soft-dots";
        for (const OnHit on_hit : {OnHit::die, OnHit::bounce, OnHit::stick}) {
            PieceCollider pieces;
            pieces.on_hit = on_hit;
            pieces.bounce = 0.4f;
            Scene scene(rain, block({}, {0.02f, 0.02f, 0.02f}, 2), pieces);
            scene.act(everywhere(), {{"b", 1}});
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 0.05);
            const auto starting = particles(simulation);
            QCOMPARE(starting.size(), size_t(10000));
            run_for(simulation, 0.25);
            if (on_hit == OnHit::die) {
                QCOMPARE(particles(simulation).size(), size_t(0));
                continue;
            }
            const auto ending = particles(simulation);
            QCOMPARE(ending.size(), size_t(10000));
            for (size_t i = 0; i < ending.size(); ++i) {
                QVERIFY(length(ending[i].velocity) < 17); // it was hit
                if (on_hit == OnHit::stick) {
                    const Vec3& p = ending[i].position;
                    const float rim = std::max({std::abs(p.x), std::abs(p.y), std::abs(p.z)});
                    QVERIFY2(rim > 0.0149f && rim < 0.0151f, qPrintable(QString::number(double(rim))));
                } else {
                    // It is on the side of a face that it came to from outside.
                    const Vec3 &way = starting[i].velocity, &at = ending[i].position;
                    QVERIFY(at.x * way.x < -0.0149f * std::abs(way.x) ||
                            at.y * way.y < -0.0149f * std::abs(way.y) ||
                            at.z * way.z < -0.0149f * std::abs(way.z));
                }
            }
        }
    }

    void what_sticks_moves_and_turns_with_its_piece() {
        // Thrown in at 1 m/s along x, struck on its way so that it turns.
        Emitter drop = single_particle({0.35f, 0.3f, 0.05f});
        drop.direction = {0, -1, 0};
        drop.speed = {1, 1};
        drop.particle_size = {0.02f, 0.02f};
        drop.form = Form::stretched;
        Breakable slab = block({}, {0.5f, 0.1f, 0.5f}, 1);
        slab.stands = false;
        slab.strength = 1e6f;
        PieceCollider pieces;
        pieces.on_hit = OnHit::stick;
        Scene scene(drop, slab, pieces);
        Dropper thrown;
        thrown.drops = "b";
        thrown.first = 0;
        thrown.every = 3600;
        thrown.spread = {};
        thrown.turns_any_way = false;
        thrown.velocity = {1, 0, 0};
        scene.act(thrown, {});
        Box post;
        post.position = {1.4f, 0, 0.3f};
        post.size = {0.3f, 1, 0.3f};
        scene.act(post, {{"b", 1}});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.5);
        const auto held = [&] {
            const FramePiece piece = only_piece(simulation);
            const ParticleState particle = particles(simulation).at(0);
            return piece.placement.axes.in(particle.position - piece.placement.position);
        };
        const Vec3 first = held();
        QVERIFY(std::abs(first.y - 0.06f) < 1e-3f);
        QVERIFY(std::abs(particles(simulation)[0].velocity.x - 1) < 1e-3f);
        // How the particle lies, in the axes of the piece.
        const auto lies = [&] {
            const ParticlePool& pool = *simulation.find_pool("e");
            BlockForms forms{};
            pool.rests().overlay(*pool.blocks()[0], forms);
            const Axes turn =
                Quaternion{{forms.turn_x[0], forms.turn_y[0], forms.turn_z[0]}, forms.turn_w[0]}.axes();
            return only_piece(simulation).placement.axes.in(turn.y);
        };
        const Vec3 lay = lies();
        const Axes before = only_piece(simulation).placement.axes;
        run_for(simulation, 1.5);
        const Axes after = only_piece(simulation).placement.axes;
        QVERIFY2(dot(before.x, after.x) < 0.9f, "the post has not turned the slab");
        QVERIFY2(length(held() - first) < 1e-3f, qPrintable(QString::number(double(length(held() - first)))));
        QVERIFY(length(lay) > 0.99f && length(lies() - lay) < 1e-2f);

        // Without its piece it is let go.
        std::erase_if(scene.effect.elements, [](const Element& each) { return each.id == "b"; });
        scene.act(Gravity{}, {{"e", 1}});
        scene.set(simulation);
        run_for(simulation, 0.5);
        QVERIFY(particles(simulation).at(0).velocity.y < -3);
    }

    void what_lands_comes_to_rest_on_what_has_fallen() {
        Scene scene = wall_in_the_rain(OnHit::bounce);
        auto& rain = std::get<Emitter>(scene.effect.elements[0].body);
        rain.lifetime = {100, 100};
        rain.rate = 0;
        rain.burst_count = 3000;
        rain.burst_start = 3; // the wall lies by then
        rain.size = {0.8f, 0, 0.8f};
        auto& pieces = std::get<PieceCollider>(scene.effect.elements[1].body);
        pieces.bounce = 0;
        pieces.friction = 3;
        Plane ground;
        ground.bounce = 0;
        ground.friction = 3;
        scene.act(ground, {{"e", 1}});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 7);
        const auto all = particles(simulation);
        QCOMPARE(all.size(), size_t(3000));
        size_t high = 0;
        for (const ParticleState& each : all) {
            QVERIFY2(each.position.y > each.size * 0.45f, "one has sunk into the ground");
            if (each.position.y > each.size * 0.5f + 0.02f) {
                ++high;
                QVERIFY2(length(each.velocity) < 0.5f,
                         qPrintable(QString::number(double(length(each.velocity)))));
            }
        }
        QVERIFY2(high > 200, qPrintable(QString::number(high)));
    }

    void weight_reach_and_children_are_as_on_other_colliders() {
        Emitter rain;
        rain.shape = BirthShape::rectangle;
        rain.size = {0.8f, 0, 0.8f};
        rain.position = {0, 1, 0};
        rain.direction = {0, -1, 0};
        rain.spread = 0;
        rain.speed = {4, 4};
        rain.rate = 0;
        rain.burst_count = rain.capacity = 4000;
        rain.lifetime = {100, 100};
        rain.particle_size = {0.01f, 0.01f};
        rain.look = "soft-dots";
        PieceCollider pieces;
        pieces.on_hit = OnHit::die;
        Scene scene(rain, block({0, 0, 0}, {1, 0.2f, 1}, 8), pieces);
        scene.act(everywhere(), {{"b", 1}});
        Emitter child = still(0, 100);
        child.parent = "e";
        child.when = ChildWhen::hit;
        child.per_parent_count = 1;
        scene.effect.elements.push_back({.id = "child", .name = "Child", .body = child});
        const auto left = [&] {
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 1);
            const size_t survivors = particles(simulation).size();
            const auto born = particles(simulation, "child");
            return std::pair(survivors, born.size());
        };
        QCOMPARE(left(), std::pair(size_t(0), size_t(4000)));
        scene.effect.elements[1].links[0].weight = 0.25f;
        const auto [passed, hit] = left();
        QVERIFY2(passed > 2800 && passed < 3200, qPrintable(QString::number(passed)));
        QCOMPARE(passed + hit, size_t(4000));
        scene.effect.elements[1].links[0].weight = 1;
        auto& reaching = std::get<PieceCollider>(scene.effect.elements[1].body);
        reaching.reach = ReachShape::box;
        reaching.reach_position = {1, 0, 0};
        reaching.reach_size = {2, 4, 4};
        reaching.fade_distance = 0;
        const auto [beside, within] = left();
        // At the rim of the reach some are put out of a side face, and slide there: no hit.
        QVERIFY2(beside > 1800 && beside < 2200 && within > 1800 && beside + within > 3960,
                 qPrintable(QString("%1 %2").arg(beside).arg(within)));
    }

    void pieces_feel_nothing_without_a_push() {
        Emitter jet = single_particle({-1, 0, 0});
        jet.direction = {1, 0, 0};
        jet.speed = {10, 10};
        const Scene scene(jet, block({0, 0, 0}, {0.5f, 0.5f, 0.5f}, 6), PieceCollider{});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.3);
        QVERIFY(particles(simulation).at(0).velocity.x < 0);
        QCOMPARE(length(simulation.bodies("b").at(0).velocity), 0.0f);
    }

    void pieces_get_the_momentum_that_particles_lose() {
        for (const OnHit on_hit : {OnHit::bounce, OnHit::stick, OnHit::die}) {
            Emitter jet;
            jet.shape = BirthShape::disc;
            jet.size = {0.3f, 0, 0.3f};
            jet.turn = {0, 0, 90}; // upright
            jet.position = {-1, 0.2f, 0};
            jet.direction = {1, 0, 0};
            jet.spread = 0;
            jet.speed = {9, 11};
            jet.rate = 0;
            jet.burst_count = jet.capacity = 2000;
            jet.lifetime = {100, 100};
            jet.particle_size = {0.01f, 0.02f};
            jet.look = "soft-dots";
            PieceCollider pieces;
            pieces.on_hit = on_hit;
            pieces.push = 0.002f;
            Breakable stack = block({0, 0, 0}, {0.5f, 0.5f, 0.5f}, 12);
            stack.strength = 1e6f;
            const Scene scene(jet, stack, pieces);
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 0.05);
            const auto momentum = [&](float kg) {
                Vec3 sum;
                for (const ParticleState& each : particles(simulation)) {
                    sum += each.velocity * kg;
                }
                return sum;
            };
            const Vec3 before = momentum(pieces.push);
            QVERIFY(before.x > 35);
            run_for(simulation, 0.25);
            Vec3 of_pieces;
            for (const Debris::Moving& body : simulation.bodies("b")) {
                of_pieces += body.velocity * body.mass;
            }
            QVERIFY(of_pieces.x > 10);
            const Vec3 lost = before - momentum(pieces.push);
            if (on_hit !=
                OnHit::stick) { // those are part of it, and no weight of theirs is added to its mass
                QVERIFY2(length(of_pieces - lost) < 0.01f * length(lost),
                         qPrintable(QString("%1 of %2 N s").arg(of_pieces.x).arg(lost.x)));
            }
        }
    }

    void only_the_breakable_that_is_meant_is_hit() {
        for (const bool is_meant : {true, false}) {
            Emitter drop = single_particle({0, 1, 0});
            drop.direction = {0, -1, 0};
            drop.speed = {2, 2};
            PieceCollider pieces;
            pieces.of = is_meant ? "b" : "c";
            pieces.on_hit = OnHit::stick;
            Scene scene(drop, block({0, 0, 0}, {1, 0.2f, 1}, 4), pieces);
            scene.act(everywhere(), {{"b", 1}});
            scene.effect.elements.push_back(
                {.id = "c", .name = "Other", .body = block({9, 0, 0}, {1, 1, 1}, 4)});
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 1);
            QCOMPARE(particles(simulation).at(0).position.y > 0, is_meant);
        }
    }

    void pieces_hit_particles_alone() {
        const Element pieces = {.id = "p", .name = "p", .body = PieceCollider{}};
        QVERIFY(can_link(pieces, {.id = "e", .name = "e", .body = Emitter{}}));
        const char* of_smoke = link_refusal(pieces, {.id = "s", .name = "s", .body = Smoke{}});
        QVERIFY(of_smoke != nullptr && QByteArray(of_smoke).contains("smoke"));
        QVERIFY(!can_link(pieces, {.id = "b", .name = "b", .body = Breakable{}}));
    }

    void threads_and_snapshots_change_nothing() {
        for (const OnHit on_hit : {OnHit::bounce, OnHit::stick}) {
            const Scene scene = wall_in_the_rain(on_hit);
            const auto bytes_after = [&](size_t threads, bool restores) {
                const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
                Simulation simulation;
                scene.set(simulation);
                run_for(simulation, 0.9);
                if (restores) {
                    const auto kept = simulation.snapshot();
                    run_for(simulation, 0.3);
                    simulation.restore(*kept);
                }
                run_for(simulation, 0.6);
                return state_bytes(simulation, {"e", "b"});
            };
            const QByteArray one = bytes_after(1, false);
            QVERIFY(one.size() > 10000);
            QCOMPARE(bytes_after(2, false), one);
            QCOMPARE(bytes_after(2, true), one);
        }
    }

    void absurd_pieces_and_particles_stay_finite() {
        Scene scene = wall_in_the_rain(OnHit::bounce);
        auto& rain = std::get<Emitter>(scene.effect.elements[0].body);
        rain.particle_size = {0.001f, 50};
        rain.speed = {0, 1e5f};
        rain.rate = 300;
        auto& wall = std::get<Breakable>(scene.effect.elements[2].body);
        wall.size = {0.05f, 0.05f, 0.05f};
        wall.pieces = 1000;
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.5);
        QVERIFY(simulation.meters().debris.pieces > 500);
        for (const ParticleState& each : particles(simulation)) {
            QVERIFY(std::isfinite(each.position.x + each.position.y + each.position.z));
            QVERIFY(std::isfinite(each.velocity.x + each.velocity.y + each.velocity.z));
        }
    }
};

QTEST_GUILESS_MAIN(TestPieceHulls)
#include "tst_piece_hulls.moc"
