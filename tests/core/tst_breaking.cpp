// Breakables: what holds, what breaks, and what becomes of the pieces.
#include "core/budget/expected.h"
#include "core/debris/fracture.h"
#include "core/effect/effect_file.h"
#include "core/effect/parameter.h"
#include "sample_effects.h"
#include "sample_files.h"

#include <QTemporaryDir>
#include <QtTest>

#include <cmath>

using namespace ember;
using namespace ember::sample;

namespace {

// Breakables "b", with the given influences linked to it as "i1", "i2", ...
struct Scene {
    Effect effect;
    AssetLibrary library;

    explicit Scene(const Breakable& breakable, const std::vector<ElementBody>& influences = {}) {
        effect = starter_effect();
        effect.elements.clear();
        effect.elements.push_back({.id = "b", .name = "Body", .body = breakable});
        for (const ElementBody& body : influences) {
            const std::string id = "i" + std::to_string(effect.elements.size());
            Element element = {.id = id, .name = id, .body = body};
            if (reach_of(body) != nullptr) {
                element.links = {{"b", 1}};
            }
            effect.elements.push_back(element);
        }
    }
    void set(Simulation& simulation) {
        simulation.set_effect(shared(effect), library.load(effect, ".").assets);
    }
};

void run_for(Simulation& simulation, double seconds) {
    for (int i = 0; i < int(seconds * 60 + 0.5); ++i) {
        simulation.step();
    }
}

const DebrisMeter& meter(const Simulation& simulation) {
    return simulation.meters().debris;
}

const DebrisMeter& of_body(const Simulation& simulation) {
    return simulation.meters().elements[0].debris;
}

Vec3 momentum(const Simulation& simulation, const std::string& id = "b") {
    Vec3 sum;
    for (const Debris::Moving& body : simulation.bodies(id)) {
        sum += body.is_fixed ? Vec3() : body.velocity * body.mass;
    }
    return sum;
}

Breakable block(const Vec3& position, const Vec3& size, int pieces) {
    Breakable block;
    block.position = position;
    block.size = size;
    block.pieces = pieces;
    block.sliver = 0;
    block.strength_spread = 0;
    return block;
}

Pin pin_below(float height) {
    Pin pin;
    pin.reach = ReachShape::slab;
    pin.reach_position = {0, 0, 0};
    pin.reach_size = {1, 2 * height, 1};
    pin.fade_distance = 0;
    return pin;
}

// Over all the ground, a metre high.
CleanupZone zone_on_the_ground() {
    CleanupZone zone;
    zone.reach = ReachShape::box;
    zone.reach_position = {0, 0, 0};
    zone.reach_size = {10, 2, 10};
    zone.fade_distance = 0;
    return zone;
}

// A ball that comes along x and reaches the origin after a second.
std::vector<ElementBody> striker(float speed, float mass, const Vec3& at) {
    PathMover mover;
    mover.path = PathKind::points;
    mover.points = {{at.x - speed - 0.3f, at.y, at.z}, {at.x, at.y, at.z}, {at.x + speed + 0.3f, at.y, at.z}};
    mover.period = 2 * (speed + 0.3f) / speed;
    mover.at_end = PathEnd::stay;
    Ball ball;
    ball.position = {};
    ball.radius = 0.2f;
    ball.rides_on = "i2";
    ball.blow = mass;
    ball.bounce = 0;
    return {ball, mover};
}

} // namespace

class TestBreaking : public QObject {
    Q_OBJECT

  private slots:
    void a_row_of_springs_carries_its_load_to_the_wall() {
        // Three pieces in a row, the first fixed, the last pulled with 10 N.
        std::vector<LoadedPiece> pieces = {
            {1, {0, 0, 0}, {}, true}, {1, {1, 0, 0}, {}, false}, {1, {2, 0, 0}, {10, 0, 0}, false}};
        const std::vector<LoadedBond> bonds = {{0, 1, 2, 9}, {1, 2, 0.5f, 11}};
        std::vector<char> broken(2);
        const std::vector<float> forces = bond_forces(pieces, bonds, broken);
        QVERIFY(std::fabs(forces[0] - 10) < 1e-3f && std::fabs(forces[1] - 10) < 1e-3f);
        QCOMPARE(break_bonds(pieces, bonds, broken).bonds, size_t(1));
        QVERIFY(broken[0] != 0 && broken[1] == 0);
    }

    void what_falls_freely_is_not_strained() {
        std::vector<LoadedPiece> pieces;
        std::vector<LoadedBond> bonds;
        for (int i = 0; i < 5; ++i) {
            pieces.push_back({float(i + 1), {float(i), 0, 0}, {0, -9.81f * float(i + 1), 0}, false});
            if (i > 0) {
                bonds.push_back({uint32_t(i - 1), uint32_t(i), 1, 1});
            }
        }
        for (const float force : bond_forces(pieces, bonds, std::vector<char>(bonds.size()))) {
            QVERIFY(force < 1e-2f);
        }
    }

    void a_blow_on_a_free_rod_strains_it_by_what_its_end_has_to_pull() {
        // Pushed along its length at one end: each bond pulls the mass beyond it.
        std::vector<LoadedPiece> pieces;
        std::vector<LoadedBond> bonds;
        for (int i = 0; i < 4; ++i) {
            pieces.push_back({1, {float(i), 0, 0}, {i == 0 ? 40.0f : 0.0f, 0, 0}, false});
            if (i > 0) {
                bonds.push_back({uint32_t(i - 1), uint32_t(i), 1, 100});
            }
        }
        const std::vector<float> forces = bond_forces(pieces, bonds, std::vector<char>(3));
        QVERIFY(std::fabs(forces[0] - 30) < 0.1f);
        QVERIFY(std::fabs(forces[1] - 20) < 0.1f);
        QVERIFY(std::fabs(forces[2] - 10) < 0.1f);
    }

    void a_whole_body_falls_as_one() {
        Scene scene(block({0, 5, 0}, {1, 1, 1}, 30), {Gravity{}});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.5);
        QCOMPARE(simulation.bodies("b").size(), size_t(1));
        const Debris::Moving body = simulation.bodies("b")[0];
        const float g = Gravity().strength;
        QVERIFY2(std::fabs(body.velocity.y + 0.5f * g) < 0.02f, qPrintable(QString::number(body.velocity.y)));
        QVERIFY(std::fabs(body.mass - 1200) < 2);
        QCOMPARE(meter(simulation).awake, meter(simulation).pieces);
    }

    void a_stack_at_rest_sleeps_within_two_seconds() {
        Breakable stack = block({0, 0.5f, 0}, {1, 1, 0.5f}, 1);
        stack.pattern = CutPattern::courses;
        stack.block = {0.5f, 0.25f, 0.5f};
        stack.strength = 0;
        Scene scene(stack, {Gravity{.strength = 9.81f}, Plane{}});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 2);
        QVERIFY(simulation.bodies("b").size() > 8);
        QCOMPARE(meter(simulation).awake, size_t(0));
        // It does not float, and has not sunk or fallen.
        float lowest = 1e9f, highest = -1e9f;
        for (const Debris::Moving& body : simulation.bodies("b")) {
            lowest = std::min(lowest, body.place.y);
            highest = std::max(highest, body.place.y);
        }
        QVERIFY2(std::fabs(lowest - 0.125f) < 0.01f, qPrintable(QString::number(lowest)));
        QVERIFY2(std::fabs(highest - 0.875f) < 0.02f, qPrintable(QString::number(highest)));
    }

    void it_breaks_where_load_over_strength_says() {
        // A slab hangs from its pinned upper half: its lower half weighs on the section of 1 m^2.
        for (const float share : {0.9f, 1.1f}) {
            Breakable slab = block({0, 0.5f, 0}, {1, 1, 1}, 2);
            slab.pattern = CutPattern::layers;
            slab.cut_axis = {0, 1, 0};
            slab.evenness = 1;
            const float load_kpa = 600 * 9.81f / 1000;
            slab.strength = load_kpa / share;
            Pin pin = pin_below(0.2f);
            pin.reach_position = {0, 0.8f, 0};
            Scene scene(slab, {Gravity{.strength = 9.81f}, pin});
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 0.5);
            QCOMPARE(simulation.bodies("b").size(), size_t(share > 1 ? 2 : 1));
        }
    }

    void a_pinned_wall_keeps_its_pinned_pieces() {
        Breakable wall = block({0, 1, 0}, {0.3f, 2, 2}, 60);
        wall.strength = 30;
        std::vector<ElementBody> all = striker(6, 400, {0, 1.4f, 0});
        all.push_back(pin_below(0.4f));
        all.push_back(Gravity{.strength = 9.81f});
        all.push_back(Plane{});
        Scene scene(wall, all);
        Simulation simulation;
        scene.set(simulation);
        simulation.step();
        const std::vector<Debris::Moving> before = simulation.bodies("b");
        QCOMPARE(before.size(), size_t(1));
        QVERIFY(before[0].is_fixed);
        run_for(simulation, 3);
        size_t fixed = 0, loose = 0;
        for (const Debris::Moving& body : simulation.bodies("b")) {
            (body.is_fixed ? fixed : loose) += body.pieces;
        }
        QVERIFY2(loose >= 5, qPrintable(QString("%1 loose of %2").arg(loose).arg(fixed + loose)));
        QVERIFY(fixed >= 8);
    }

    void a_wall_that_is_stronger_than_the_blow_stays_whole() {
        for (const float strength : {20.0f, 200000.0f}) {
            Breakable wall = block({0, 1, 0}, {0.3f, 2, 2}, 60);
            wall.strength = strength;
            std::vector<ElementBody> all = striker(4, 200, {0, 1.4f, 0});
            all.push_back(pin_below(0.4f));
            Scene scene(wall, all);
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 3);
            QCOMPARE(simulation.bodies("b").size() == 1, strength > 1000);
        }
    }

    void fragments_have_the_momentum_of_the_whole() {
        // Two blocks meet in the air and break; nothing else acts.
        Breakable block_a = block({-1, 0, 0}, {0.6f, 0.6f, 0.6f}, 20);
        block_a.strength = 5;
        block_a.rest_speed = 0;
        block_a.stands = false;
        Dropper left;
        left.drops = "b";
        left.position = {-1, 0, 0};
        left.every = 1000;
        left.spread = {};
        left.turns_any_way = false;
        left.velocity = {4, 0, 0};
        Dropper right = left;
        right.position = {1, 0.1f, 0.05f};
        right.velocity = {-1, 0, 0};
        Scene scene(block_a, {left, right});
        Simulation simulation;
        scene.set(simulation);
        simulation.step();
        const Vec3 before = momentum(simulation);
        QVERIFY(before.x > 100);
        QCOMPARE(simulation.bodies("b").size(), size_t(2));
        run_for(simulation, 1);
        QVERIFY(simulation.bodies("b").size() > 6);
        const Vec3 after = momentum(simulation);
        QVERIFY2(length(after - before) < 0.01f * length(before),
                 qPrintable(QString("%1 %2 %3 and %4").arg(after.x).arg(after.y).arg(after.z).arg(before.x)));
    }

    void a_blast_throws_pieces_outwards() {
        Breakable body = block({0, 0, 0}, {1, 1, 1}, 40);
        Blast blast;
        blast.reach = ReachShape::ball;
        blast.reach_position = {};
        blast.reach_size = {4, 4, 4};
        blast.first = 0.5f;
        blast.speed = 5;
        Scene scene(body, {blast});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.4);
        QCOMPARE(simulation.bodies("b").size(), size_t(1));
        run_for(simulation, 0.6);
        const std::vector<Debris::Moving> bodies = simulation.bodies("b");
        QVERIFY(bodies.size() > 20);
        for (const Debris::Moving& each : bodies) {
            QVERIFY(dot(each.velocity, each.place) > 0);
        }
        QVERIFY(length(momentum(simulation)) < 0.02f * 1200 * 5);
    }

    void cleanup_meets_its_ranges_to_the_step() {
        // One piece is dropped from where it rests at once.
        Breakable body = block({0, 0.25f, 0}, {0.5f, 0.5f, 0.5f}, 1);
        body.stands = false;
        body.at_rest = RestFate::clear;
        body.linger = {1, 1};
        body.clear_time = {0.5f, 0.5f};
        Dropper dropper;
        dropper.drops = "b";
        dropper.position = {0, 0.25f, 0};
        dropper.spread = {};
        dropper.turns_any_way = false;
        dropper.every = 1000;
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}, dropper});
        Simulation simulation;
        scene.set(simulation);
        std::optional<int> rest, parted, gone;
        for (int i = 1; i <= 600 && !gone; ++i) {
            simulation.step();
            const bool is_there = meter(simulation).bodies > 0;
            if (!rest && is_there && meter(simulation).pieces == 1) {
                rest = i; // slow from its first step
            }
            parted = rest && !is_there && !parted ? std::optional(i) : parted;
            gone = parted && meter(simulation).pieces == 0 ? std::optional(i) : gone;
        }
        QVERIFY(rest && parted && gone);
        QCOMPARE(*rest, 1);
        QCOMPARE(*parted - *rest, 30 + 60); // half a second until it counts as resting, one of lingering
        QCOMPARE(*gone - *parted, 30);
    }

    void a_zone_parks_slow_pieces_and_nothing_else() {
        Breakable body = block({0, 2, 0}, {0.4f, 0.4f, 0.4f}, 8);
        body.strength = 0;
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}, zone_on_the_ground()});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.3);
        QCOMPARE(meter(simulation).parked, size_t(0));
        run_for(simulation, 4);
        QCOMPARE(meter(simulation).parked, size_t(8));
        QCOMPARE(meter(simulation).bodies, size_t(0));
    }

    void light_pieces_lie_on_the_stage_and_need_no_bodies() {
        Breakable body = block({0, 1, 0}, {0.6f, 0.6f, 0.6f}, 12);
        body.strength = 0;
        body.light_below = 1;
        body.light_after = 0.2f;
        body.at_rest = RestFate::clear;
        body.linger = {1, 1};
        body.clear_time = {0.2f, 0.2f};
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}});
        Simulation simulation;
        scene.set(simulation);
        float fastest_before = 0;
        for (int i = 0; i < 60 && meter(simulation).light == 0; ++i) {
            fastest_before = length(momentum(simulation)) / (0.6f * 0.6f * 0.6f * body.density);
            simulation.step();
        }
        QCOMPARE(meter(simulation).light, size_t(12));
        QCOMPARE(meter(simulation).bodies, size_t(0));
        QVERIFY(fastest_before > 1.5f);
        Frame before, after;
        simulation.write_frame(before);
        simulation.step();
        simulation.write_frame(after);
        for (size_t i = 0; i < 12; ++i) {
            // They fly on as they fell.
            const Vec3 way =
                after.debris[0].pieces[i].placement.position - before.debris[0].pieces[i].placement.position;
            QVERIFY(std::fabs(-way.y * 60 - fastest_before) < 0.5f);
        }
        run_for(simulation, 1.2);
        simulation.write_frame(after);
        QCOMPARE(after.debris[0].pieces.size(), size_t(12));
        for (const FramePiece& piece : after.debris[0].pieces) {
            const float across = std::cbrt(after.debris[0].cut->pieces[piece.piece].volume);
            QVERIFY(piece.placement.position.y > 0.2f * across && piece.placement.position.y < across);
        }
        run_for(simulation, 5);
        QCOMPARE(meter(simulation).pieces, size_t(0));
    }

    void what_crumbles_is_gone_at_once_and_leaves_dust() {
        Breakable body = block({0, 0.6f, 0}, {0.3f, 0.3f, 0.3f}, 4);
        body.strength = 0;
        body.longest_life = 0.5f;
        body.clear_by = ClearBy::crumbling;
        body.clear_time = {5, 5};
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}});
        Emitter dust = single_particle({});
        dust.parent = "b";
        dust.when = ChildWhen::death;
        dust.per_parent_count = 7;
        dust.capacity = 100;
        scene.effect.elements.push_back({.id = "e", .name = "Dust", .body = dust});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.4);
        QCOMPARE(meter(simulation).pieces, size_t(4));
        QVERIFY(particles(simulation).empty());
        run_for(simulation, 1);
        QCOMPARE(meter(simulation).pieces, size_t(0));
        QCOMPARE(particles(simulation).size(), size_t(28));
    }

    void cleanup_is_switched_off_and_on_while_it_runs() {
        Breakable body = block({0, 1, 0}, {0.4f, 0.4f, 0.4f}, 8);
        body.strength = 0;
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}, zone_on_the_ground()});
        Simulation simulation;
        scene.set(simulation);
        for (int i = 0; i < 4 * 60; ++i) {
            simulation.step({.cleans = false});
        }
        const auto of_zone = [&] { return simulation.meters().elements.at(3).debris; };
        QCOMPARE(meter(simulation).parked, size_t(0));
        QCOMPARE(meter(simulation).resting, size_t(8));
        QCOMPARE(of_zone().taken, size_t(0));
        simulation.step();
        QCOMPARE(meter(simulation).parked, size_t(8));
        QCOMPARE(of_zone().taken, size_t(8));
        QCOMPARE(of_zone().taken_lately, size_t(8));
        QVERIFY(of_zone().saved_ms > 0);
        run_for(simulation, 11);
        QCOMPARE(of_zone().taken, size_t(8));
        QCOMPARE(of_zone().taken_lately, size_t(0));
    }

    void parked_pieces_do_not_collide_until_they_are_called_back() {
        Breakable body = block({0, 0.2f, 0}, {0.4f, 0.4f, 0.4f}, 1);
        body.stands = false;
        Dropper dropper;
        dropper.drops = "b";
        dropper.position = {0, 0.5f, 0};
        dropper.every = 1000;
        dropper.spread = {};
        CleanupZone park, call;
        park.fate = ZoneFate::park;
        call.fate = ZoneFate::call_back;
        for (CleanupZone* zone : {&park, &call}) {
            zone->reach = ReachShape::box;
            zone->reach_position = {};
            zone->reach_size = {4, 2, 4};
            zone->fade_distance = 0;
        }
        std::vector<ElementBody> all = striker(1.5f, 500, {0, 0.25f, 0}); // passes between 0.8 and 1.2 s
        all.insert(all.end(), {Gravity{.strength = 9.81f}, Plane{}, dropper, park, call});
        Scene scene(body, all);
        for (const bool calls : {false, true}) {
            scene.effect.elements.back().muted = !calls;
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 0.7);
            QCOMPARE(meter(simulation).parked, size_t(calls ? 0 : 1));
            run_for(simulation, 1);
            Frame frame;
            simulation.write_frame(frame);
            const float moved = length(frame.debris.at(0).pieces.at(0).placement.position - Vec3{0, 0.2f, 0});
            QCOMPARE(moved > 0.3f, calls);
        }
    }

    // What is expected of a breakable beside what it has, once its effect has settled.
    void pieces_are_expected_by_drops_and_by_how_long_they_linger() {
        Breakable body = block({0, 0.6f, 0}, {0.3f, 0.3f, 0.3f}, 10);
        body.stands = false;
        body.strength = 0;
        body.at_rest = RestFate::clear;
        body.linger = {1, 1};
        body.clear_time = {0.5f, 0.5f};
        body.capacity = 2000;
        Dropper dropper;
        dropper.drops = "b";
        dropper.position = {0, 0.8f, 0};
        dropper.every = 0.5f;
        dropper.first = 0;
        dropper.spread = {2, 0, 2};
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}, dropper});
        const ExpectedCount expected = expected_counts(scene.effect).at(0);
        QVERIFY(expected.is_about);
        QCOMPARE(expected.births_per_s, 20.0);
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 8);
        double sum = 0;
        const size_t bytes = simulation.meters().bytes;
        for (int i = 0; i < 60; ++i) {
            simulation.step();
            sum += double(simulation.meters().debris.pieces) / 60;
        }
        QVERIFY2(std::abs(sum / expected.most() - 1) < 0.4,
                 qPrintable(QString("%1 measured, %2 expected").arg(sum).arg(expected.most())));
        QVERIFY(bytes > 1000); // pieces count in memory
        // What rests for ever comes to its capacity; what is muted to nothing.
        auto& breakable = std::get<Breakable>(scene.effect.elements[0].body);
        breakable.at_rest = RestFate::stay;
        QCOMPARE(expected_counts(scene.effect).at(0).most(), 2000.0);
        scene.effect.elements[0].muted = true;
        QCOMPARE(expected_counts(scene.effect).at(0).most(), 0.0);
    }

    void a_blast_is_set_off_by_what_comes_near_and_only_once() {
        Breakable body = block({0, 0, 0}, {0.4f, 0.4f, 0.4f}, 6);
        std::vector<ElementBody> all = striker(1, 0, {0, 1.5f, 0}); // passes above after a second and a bit
        Blast blast;
        blast.reach = ReachShape::ball;
        blast.reach_position = {};
        blast.reach_size = {3, 3, 3};
        blast.set_off_by = "i2";
        blast.within = 1.6f;
        blast.speed = 1;
        all.push_back(blast);
        Scene scene(body, all);
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.5);
        QCOMPARE(simulation.bodies("b").size(), size_t(1));
        run_for(simulation, 1);
        const size_t apart = simulation.bodies("b").size();
        QVERIFY(apart > 3);
        const float speed = length(simulation.bodies("b")[0].velocity);
        run_for(simulation, 1);
        QVERIFY(std::fabs(length(simulation.bodies("b")[0].velocity) - speed) < 0.05f);
    }

    void a_doze_wakes_on_touch() {
        Breakable body = block({0, 2, 0}, {0.4f, 0.4f, 0.4f}, 1);
        CleanupZone zone;
        zone.fate = ZoneFate::doze;
        zone.below_speed = 100;
        zone.reach = ReachShape::ball;
        zone.reach_position = {0, 1.5f, 0};
        zone.reach_size = {1, 1, 1};
        zone.fade_distance = 0;
        std::vector<ElementBody> all = striker(1, 10, {0, 1.6f, 0});
        all.push_back(Gravity{.strength = 9.81f});
        all.push_back(zone);
        Scene scene(body, all);
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.8);
        QCOMPARE(meter(simulation).awake, size_t(0)); // it hangs in the air
        const float height = simulation.bodies("b")[0].place.y;
        QVERIFY(height > 1);
        scene.effect.elements.back().muted = true; // the zone
        run_for(simulation, 0.1);
        QCOMPARE(simulation.bodies("b")[0].place.y, height);
        simulation.set_effect(shared(scene.effect), scene.library.load(scene.effect, ".").assets);
        run_for(simulation, 1);
        QVERIFY(simulation.bodies("b")[0].place.y < height - 0.5f);
    }

    void droppers_are_held_to_the_capacity() {
        Breakable body = block({0, 0, 0}, {0.2f, 0.2f, 0.2f}, 5);
        body.stands = false;
        body.capacity = 50;
        Dropper dropper;
        dropper.drops = "b";
        dropper.every = 0.001f;
        Scene scene(body, {Gravity{}, Plane{}, dropper});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 1);
        QCOMPARE(meter(simulation).pieces, size_t(50));
        QVERIFY(simulation.meters().elements[0].refused > 4000);
    }

    void the_same_seed_gives_the_same_places() {
        const auto places = [] {
            Breakable wall = block({0, 1, 0}, {0.3f, 2, 2}, 60);
            wall.strength = 30;
            std::vector<ElementBody> all = striker(6, 400, {0, 1.4f, 0});
            all.push_back(Gravity{.strength = 9.81f});
            all.push_back(Plane{});
            Scene scene(wall, all);
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 20);
            Frame frame;
            simulation.write_frame(frame);
            std::vector<Placement> placements;
            for (const FramePiece& piece : frame.debris.at(0).pieces) {
                placements.push_back(piece.placement);
            }
            return placements;
        };
        const std::vector<Placement> once = places(), again = places();
        QVERIFY(once.size() >= 50);
        QVERIFY(once == again);
    }

    void children_are_born_on_the_faces_that_break() {
        Breakable slab = block({0, 0.5f, 0}, {1, 1, 1}, 2);
        slab.pattern = CutPattern::layers;
        slab.cut_axis = {0, 1, 0};
        slab.evenness = 1;
        slab.strength = 1; // less than its lower half weighs
        Pin pin = pin_below(0.2f);
        pin.reach_position = {0, 0.8f, 0};
        Scene scene(slab, {Gravity{.strength = 9.81f}, pin});
        Emitter grit = single_particle({});
        grit.parent = "b";
        grit.when = ChildWhen::broken;
        grit.shape = BirthShape::broken;
        grit.per_parent_count = 400;
        grit.capacity = 1000;
        scene.effect.elements.push_back({.id = "e", .name = "Grit", .body = grit});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.2);
        const std::vector<ParticleState> born = particles(simulation);
        QCOMPARE(born.size(), size_t(400));
        int right = 0, front = 0;
        for (const ParticleState& each : born) {
            QVERIFY(std::fabs(each.position.y - 0.5f) < 0.03f);
            QVERIFY(std::fabs(each.position.x) <= 0.501f && std::fabs(each.position.z) <= 0.501f);
            right += each.position.x > 0 ? 1 : 0;
            front += each.position.z > 0 ? 1 : 0;
        }
        QVERIFY(std::abs(right - 200) < 50 && std::abs(front - 200) < 50); // even over the face
    }

    void hits_and_rests_and_ends_give_birth_too() {
        for (const ChildWhen when : {ChildWhen::hit, ChildWhen::rest, ChildWhen::death}) {
            Breakable body = block({0, 1, 0}, {0.3f, 0.3f, 0.3f}, 1);
            body.at_rest = RestFate::clear;
            body.linger = {0.5f, 0.5f};
            Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}});
            Emitter child = single_particle({});
            child.parent = "b";
            child.when = when;
            child.per_parent_count = 3;
            child.least_impact = 2;
            child.capacity = 100;
            scene.effect.elements.push_back({.id = "e", .name = "Child", .body = child});
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 0.3); // it still falls
            QVERIFY(particles(simulation).empty());
            run_for(simulation, 2.5);
            const size_t born = particles(simulation).size();
            QVERIFY(when == ChildWhen::hit ? born >= 3 && born % 3 == 0 : born == 3);
        }
    }

    void moving_pieces_leave_a_trail_and_resting_ones_do_not() {
        Breakable body = block({0, 2, 0}, {0.3f, 0.3f, 0.3f}, 4);
        body.strength = 0;
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}});
        Emitter dust = single_particle({});
        dust.parent = "b";
        dust.per_parent_rate = 30;
        dust.capacity = 10000;
        scene.effect.elements.push_back({.id = "e", .name = "Dust", .body = dust});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.6); // loose after a tenth of a second of falling
        const size_t falling = particles(simulation).size();
        QVERIFY2(falling >= 48 && falling <= 72, qPrintable(QString::number(falling)));
        run_for(simulation, 4);
        QCOMPARE(meter(simulation).awake, size_t(0));
        const size_t at_rest = particles(simulation).size();
        run_for(simulation, 1);
        QCOMPARE(particles(simulation).size(), at_rest);
    }

    void a_hit_is_one_event_however_many_corners_touch() {
        Breakable body = block({0, 1, 0}, {0.5f, 0.1f, 0.5f}, 1); // lands flat on its four corners
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}});
        Emitter grit = single_particle({});
        grit.parent = "b";
        grit.when = ChildWhen::hit;
        grit.per_parent_count = 7;
        grit.least_impact = 3;
        grit.capacity = 100;
        scene.effect.elements.push_back({.id = "e", .name = "Grit", .body = grit});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 2);
        QCOMPARE(particles(simulation).size(), size_t(7));
    }

    void an_edit_reaches_bodies_that_move_beside_drives() {
        // A slab of ice slides, and is given friction while it does, in an effect with a drive.
        Breakable ice = block({0, 0.1f, 0}, {0.4f, 0.04f, 0.4f}, 1);
        ice.friction = 0;
        ice.stands = false;
        Dropper push;
        push.drops = "b";
        push.position = {0, 0.02f, 0};
        push.spread = {};
        push.turns_any_way = false;
        push.velocity = {3, 0, 0};
        push.every = 1000;
        for (const bool brakes : {false, true}) {
            Scene scene(ice, {Gravity{.strength = 9.81f}, Plane{.normal = {0, 1, 0}}, push});
            scene.effect.elements.push_back({.id = "m", .name = "M", .body = Cycle{}});
            scene.effect.drives.push_back({"i1", "strength", 0, "m", 9.8f, 9.82f, {}});
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 0.5);
            std::get<Breakable>(scene.effect.elements[0].body).friction = brakes ? 1.0f : 0.0f;
            scene.set(simulation);
            run_for(simulation, 1);
            const float speed = length(simulation.bodies("b").at(0).velocity);
            QVERIFY2(brakes ? speed < 0.2f : speed > 2.5f, qPrintable(QString::number(speed)));
        }
    }

    void what_rests_wakes_when_the_artist_changes_something() {
        Breakable body = block({0, 0.5f, 0}, {0.4f, 0.4f, 0.4f}, 1);
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 3);
        QCOMPARE(meter(simulation).awake, size_t(0));
        std::get<Plane>(scene.effect.elements[2].body).position = {0, -1, 0};
        scene.set(simulation);
        run_for(simulation, 2);
        QVERIFY(std::fabs(simulation.bodies("b").at(0).place.y - (0.2f - 1)) < 0.02f);
    }

    void pieces_lie_on_every_kind_of_collider() {
        const QTemporaryDir folder;
        write_ball_mesh(folder.filePath("ball.obj").toStdString(), 24);
        MeshCollider mesh;
        mesh.mesh = "ball.obj";
        mesh.resolution = 32;
        Ball ball;
        ball.position = {};
        ball.radius = 1;
        Capsule capsule;
        capsule.position = {};
        capsule.radius = 0.5f;
        capsule.length = 1;
        Cylinder cylinder;
        cylinder.position = {};
        cylinder.radius = 1;
        cylinder.length = 2;
        Box box;
        box.position = {};
        box.size = {2, 2, 2};
        HeightMap heights;
        heights.from = HeightsFrom::stage;
        heights.size = {4, 1, 4};
        for (const ElementBody& collider :
             std::initializer_list<ElementBody>{mesh, ball, capsule, cylinder, box}) {
            for (const bool as_heights : {false, true}) {
                Breakable body = block({0, 1.5f, 0}, {0.4f, 0.2f, 0.4f}, 1);
                body.friction = 100; // it does not slide off
                Scene scene(body, {Gravity{.strength = 9.81f}, collider});
                if (as_heights) { // heights of it in its place
                    scene.effect.elements.back().links.clear();
                    scene.effect.elements.push_back(
                        {.id = "h", .name = "Heights", .body = heights, .links = {{"b", 1}}});
                }
                Simulation simulation;
                simulation.set_effect(shared(scene.effect),
                                      scene.library.load(scene.effect, folder.path().toStdString()).assets);
                run_for(simulation, 1.5);
                const Vec3 place = simulation.bodies("b").at(0).place;
                QVERIFY2(std::fabs(place.y - 1.1f) < 0.06f,
                         qPrintable(QString("%1 on %2, %3")
                                        .arg(place.y)
                                        .arg(QString::fromStdString(std::string(type_of(collider).key)))
                                        .arg(as_heights)));
            }
        }
    }

    void what_cannot_be_cut_is_said_and_the_rest_runs() {
        const QTemporaryDir folder;
        write_box_mesh(folder.filePath("open.obj").toStdString(), true);
        std::ofstream(folder.filePath("flat.obj").toStdString()) << "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n";
        for (const std::string name : {"open", "flat", "none"}) {
            Breakable body = block({0, 1, 0}, {1, 1, 1}, 10);
            body.shape = BreakShape::mesh;
            body.mesh = name + ".obj";
            Scene scene(body, {Gravity{}, Plane{}});
            const LoadResult loaded = scene.library.load(scene.effect, folder.path().toStdString());
            QCOMPARE(loaded.notes.size(), size_t(name == "open" ? 1 : 0));
            QCOMPARE(loaded.missing.size(), size_t(name == "open" ? 0 : 1));
            const Problems& said = name == "open" ? loaded.notes : loaded.missing;
            QVERIFY(said[0].text().find(name + ".obj") != std::string::npos);
            Simulation simulation;
            simulation.set_effect(shared(scene.effect), loaded.assets);
            run_for(simulation, 0.2);
            QCOMPARE(meter(simulation).pieces > 0, name == "open");
        }
    }

    void bad_numbers_and_links_are_refused() {
        Scene scene(block({0, 1, 0}, {1, 1, 1}, 10), {Pin(), Gravity()});
        scene.effect.elements.push_back({.id = "e", .name = "E", .body = single_particle({})});
        std::string text = effect_text(scene.effect);
        const auto replaced = [&](const std::string& from, const std::string& to) {
            std::string changed = text;
            changed.replace(changed.find(from), from.size(), to);
            return parse_effect(changed, "test");
        };
        QVERIFY(parse_effect(text, "test").problems.empty());
        QCOMPARE(replaced("\"pieces\": 10", "\"pieces\": 100000").problems.size(), size_t(1));
        QCOMPARE(replaced("\"pieces\": 10", "\"pieces\": 10, \"strength\": -1").problems.size(), size_t(1));
        QCOMPARE(replaced("\"b\": 1", "\"e\": 1").problems.size(), size_t(1)); // a pin on particles
        Dropper dropper;
        dropper.drops = "e"; // no breakable
        scene.effect.elements.push_back({.id = "d", .name = "D", .body = dropper});
        const ReadResult read = parse_effect(effect_text(scene.effect), "test");
        QCOMPARE(read.problems.size(), size_t(1));
        QVERIFY(read.problems[0].text().find("breakable") != std::string::npos);
        QVERIFY(std::get<Dropper>(read.effect->elements.back().body).drops.empty());
        scene.effect.elements.pop_back();
        std::get<Breakable>(scene.effect.elements[0].body).capacity = most_pieces;
        scene.effect.elements.push_back(scene.effect.elements[0]);
        const auto refusal = whole_refusal(scene.effect);
        QVERIFY(refusal && refusal->find("pieces") != std::string::npos);
    }

    void a_breakable_returns_whole() {
        Breakable body = block({0, 0.5f, 0}, {1, 1, 1}, 20);
        body.strength = 0;
        body.returns_after = 3;
        body.longest_life = 60;
        body.clear_time = {0.2f, 0.2f};
        Blast blast;
        blast.reach = ReachShape::everywhere;
        blast.first = 0.5f;
        Scene scene(body, {Gravity{}, Plane{}, blast});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 2.9);
        const size_t pieces = meter(simulation).pieces;
        run_for(simulation, 1);
        QCOMPARE(meter(simulation).pieces, pieces);
        float farthest = 0;
        for (const Debris::Moving& each : simulation.bodies("b")) {
            farthest = std::max(farthest, length(each.place - Vec3{0, 0.5f, 0}));
        }
        QVERIFY(farthest < 1);
    }

    void it_returns_though_nothing_of_it_is_left() {
        Breakable body = block({0, 3, 0}, {1, 1, 1}, 20); // it falls
        body.strength = 0;
        body.returns_after = 3;
        body.longest_life = 0.5f;
        body.clear_time = {0.2f, 0.2f};
        Scene scene(body, {Gravity{.strength = 9.81f}, Plane{}});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 2.5);
        QCOMPARE(meter(simulation).pieces, size_t(0));
        run_for(simulation, 0.7);
        QVERIFY(meter(simulation).pieces > 10);
    }

    // Between hardly broken and wholly broken lies a factor of ten in strength.
    void breaking_grows_gradually_with_the_blow_data() {
        QTest::addColumn<int>("which");
        QTest::newRow("a cube of 20, dropped 3 m") << 0;
        QTest::newRow("a slab of 40, dropped 5 m on its edge") << 1;
        QTest::newRow("a pillar of 60 that is struck") << 2;
    }
    void breaking_grows_gradually_with_the_blow() {
        QFETCH(int, which);
        const auto share_broken = [&](float strength) {
            Breakable body = which == 0   ? block({0, 3.5f, 0}, {1, 1, 1}, 20)
                             : which == 1 ? block({0, 6, 0}, {2, 2, 0.3f}, 40)
                                          : block({0, 1, 0}, {0.6f, 2, 0.6f}, 60);
            body.strength = strength;
            body.strength_spread = Breakable().strength_spread;
            std::vector<ElementBody> all;
            if (which == 2) {
                all = striker(6, 400, {0, 1.2f, 0});
            } else {
                body.turn = which == 0 ? Vec3{10, 0, 15} : Vec3{0, 20, 40};
            }
            all.push_back(Gravity{.strength = 9.81f});
            all.push_back(Plane{});
            Scene scene(body, all);
            Simulation simulation;
            scene.set(simulation);
            run_for(simulation, 2);
            return double(of_body(simulation).faces_broken) / double(of_body(simulation).faces);
        };
        double wholly = 0, hardly = 0; // the strengths
        QString all;
        double before = 1;
        for (double strength = 1; strength < 1e6; strength *= std::sqrt(2)) {
            const double share = share_broken(float(strength));
            all += QString(" %1: %2 %").arg(strength, 0, 'f', 0).arg(100 * share, 0, 'f', 0);
            wholly = share >= 0.8 ? strength : wholly;
            hardly = share <= 0.1 && hardly == 0 ? strength : hardly;
            QVERIFY2(share < before + 0.2, qPrintable(all)); // about even
            before = share;
        }
        if (qEnvironmentVariableIsSet("EMBER_SAY")) {
            qInfo().noquote() << all;
        }
        QVERIFY2(wholly > 0 && hardly / wholly >= 10, qPrintable(all));
    }

    void what_breaks_is_told_piece_by_piece_and_once_for_the_whole() {
        Breakable boulder = block({0, 4, 0}, {1, 1, 1}, 50);
        boulder.strength = 3;
        Emitter one = single_particle({});
        one.parent = "b";
        one.when = ChildWhen::broken;
        one.per_parent_count = 1;
        one.capacity = 10000;
        Emitter whole = one;
        whole.when = ChildWhen::apart;
        Scene scene(boulder, {Gravity{.strength = 9.81f}, Plane{}});
        scene.effect.elements.push_back({.id = "off", .name = "Off", .body = one});
        scene.effect.elements.push_back({.id = "apart", .name = "Apart", .body = whole});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 3);
        const size_t pieces = meter(simulation).pieces, bodies = simulation.bodies("b").size();
        QVERIFY(bodies > 20);
        // One for each body more than there was.
        QCOMPARE(particles(simulation, "off").size(), bodies - 1);
        QVERIFY(bodies <= pieces);
        const size_t times = particles(simulation, "apart").size();
        QVERIFY2(times >= 1 && times < bodies / 2, qPrintable(QString::number(times)));
        // Where it broke, not where it was put up.
        QVERIFY(particles(simulation, "apart").front().position.y < 1.2f);
    }

    void a_breakable_takes_the_effects_seed_unless_it_has_its_own() {
        const auto volumes = [](uint32_t seed, int own) {
            Breakable body = block({}, {1, 1, 1}, 12);
            body.own_seed = own;
            Scene scene(body);
            scene.effect.seed = seed;
            const Assets assets = scene.library.load(scene.effect, ".").assets;
            const auto cut = assets.find<Cut>(needs_of(scene.effect).front().key());
            std::vector<float> found;
            for (const Piece& piece : cut->pieces) {
                found.push_back(piece.volume);
            }
            return found;
        };
        QVERIFY(volumes(1, 0) != volumes(2, 0));
        QCOMPARE(volumes(1, 0), volumes(1, 0));
        QVERIFY(volumes(1, 7) != volumes(1, 0));
        QCOMPARE(volumes(1, 7), volumes(2, 7));
    }

    void even_cells_are_alike() {
        Breakable body = block({}, {1, 1, 1}, 30);
        body.evenness = 1;
        Scene scene(body);
        const Assets assets = scene.library.load(scene.effect, ".").assets;
        const auto cut = assets.find<Cut>(needs_of(scene.effect).front().key());
        float low = 1e9f, high = 0;
        for (const Piece& piece : cut->pieces) {
            low = std::min(low, piece.volume);
            high = std::max(high, piece.volume);
        }
        QVERIFY2(high / low < 1.5f, qPrintable(QString::number(high / low)));
    }

    void a_fed_heap_comes_to_rest_piece_by_piece() {
        Breakable boulder = block({}, {0.8f, 0.8f, 0.8f}, 50);
        boulder.stands = false;
        boulder.strength = 0;
        Dropper dropper;
        dropper.drops = "b";
        dropper.position = {0, 1.5f, 0};
        dropper.spread = {0.3f, 0, 0.3f};
        dropper.every = 1;
        Scene scene(boulder, {Gravity{.strength = 9.81f}, Plane{}, dropper});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 2.5); // the third lands now; no more come
        const size_t all = meter(simulation).pieces;
        QVERIFY(all >= 120);
        scene.effect.elements[3].muted = true;
        scene.set(simulation);
        run_for(simulation, 3);
        const size_t rests = meter(simulation).resting;
        QVERIFY2(rests * 2 >= all, qPrintable(QString("%1 of %2 at rest").arg(rests).arg(all)));
        // One piece more wakes those that it meets, not all of them.
        run_for(simulation, 4);
        QCOMPARE(meter(simulation).awake, size_t(0));
        Breakable pebble = block({}, {0.1f, 0.1f, 0.1f}, 1);
        pebble.position = {0.3f, 7, 0};
        scene.effect.elements.push_back({.id = "pebble", .name = "Pebble", .body = pebble});
        for (size_t i : {1, 2}) {
            scene.effect.elements[i].links.push_back({"pebble", 1});
        }
        scene.set(simulation);    // an edit wakes all; they stay where they are
        run_for(simulation, 1.3); // it has just landed
        QVERIFY2(meter(simulation).awake < all / 3, qPrintable(QString::number(meter(simulation).awake)));
        run_for(simulation, 0.4);
        QVERIFY2(meter(simulation).awake < all / 4, qPrintable(QString::number(meter(simulation).awake)));
    }

    void a_doze_costs_about_as_little_as_parking() {
        // Counted: bodies that move. A heap that is fed, in a zone.
        const auto moving = [](ZoneFate fate) {
            Breakable boulder = block({}, {0.8f, 0.8f, 0.8f}, 40);
            boulder.stands = false;
            boulder.strength = 0;
            Dropper dropper;
            dropper.drops = "b";
            dropper.position = {0, 1.5f, 0};
            dropper.every = 1.5f;
            CleanupZone zone = zone_on_the_ground();
            zone.fate = fate;
            zone.below_speed = 0.3f;
            Scene scene(boulder, {Gravity{.strength = 9.81f}, Plane{}, dropper, zone});
            Simulation simulation;
            scene.set(simulation);
            size_t sum = 0;
            for (int i = 0; i < 60 * 9; ++i) {
                simulation.step();
                sum += i > 60 * 5 ? meter(simulation).awake : 0;
            }
            return sum;
        };
        const size_t doze = moving(ZoneFate::doze), park = moving(ZoneFate::park);
        QVERIFY2(doze < 3 * park, qPrintable(QString("%1 %2").arg(doze).arg(park)));
    }

    void what_rests_moves_on_when_its_support_goes() {
        Breakable tower = block({0, 0.75f, 0}, {0.5f, 1.5f, 0.5f}, 1);
        tower.pattern = CutPattern::courses;
        tower.block = {0.5f, 0.25f, 0.5f};
        tower.strength = 0;
        Box table;
        table.position = {0, -0.5f, 0};
        table.size = {40, 1, 40};
        Scene scene(tower, {Gravity{.strength = 9.81f}, table});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 2);
        QCOMPARE(meter(simulation).awake, size_t(0));
        std::get<Box>(scene.effect.elements[2].body).position.y = -3;
        scene.set(simulation);
        run_for(simulation, 0.4);
        QCOMPARE(meter(simulation).resting, size_t(0));
        run_for(simulation, 8);
        QCOMPARE(meter(simulation).awake, size_t(0));
        for (const Debris::Moving& body : simulation.bodies("b")) {
            QVERIFY(body.place.y < -0.9f);
        }
    }

    void a_blast_is_set_off_by_a_breakable_where_it_is() {
        Breakable body = block({0, 6, 0}, {0.5f, 0.5f, 0.5f}, 6);
        body.strength = 1e5f;
        Blast blast;
        blast.reach = ReachShape::ball;
        blast.reach_position = {0, 1, 0};
        blast.reach_size = {4, 4, 4};
        blast.set_off_by = "b";
        blast.within = 0.5f;
        blast.damage = 1e6f;
        Scene scene(body, {Gravity{.strength = 9.81f}, blast});
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 0.9); // it has fallen 4 m
        QCOMPARE(simulation.bodies("b").size(), size_t(1));
        run_for(simulation, 0.3);
        QVERIFY(simulation.bodies("b").size() > 1);
    }

    void a_blast_that_something_sets_off_breaks_all_that_is_linked_to_it() {
        Blast blast;
        blast.reach = ReachShape::ball;
        blast.reach_position = {};
        blast.reach_size = {8, 8, 8};
        blast.set_off_by = "m";
        blast.within = 1;
        blast.damage = 1e6f;
        Scene scene(block({1, 0, 0}, {0.5f, 0.5f, 0.5f}, 6), {blast});
        scene.effect.elements.push_back(
            {.id = "c", .name = "Other", .body = block({-1, 0, 0}, {0.5f, 0.5f, 0.5f}, 6)});
        scene.effect.elements[1].links.push_back({"c", 1});
        Swing swing; // hangs straight down in the middle of its way
        swing.position = {0, 3, 0};
        scene.effect.elements.push_back({.id = "m", .name = "Swing", .body = swing});
        Ball bob;
        bob.position = {0, -3, 0};
        bob.rides_on = "m";
        scene.effect.elements.push_back({.id = "bob", .name = "Bob", .body = bob});
        std::get<Blast>(scene.effect.elements[1].body).set_off_by = "bob";
        Simulation simulation;
        scene.set(simulation);
        run_for(simulation, 6);
        QVERIFY(simulation.bodies("b").size() > 1);
        QVERIFY(simulation.bodies("c").size() > 1);
    }

    void a_blast_throws_particles_of_any_mass_at_its_speed_where_it_reaches() {
        for (const float weight : {1.0f, 0.5f}) {
            Emitter cloud;
            cloud.shape = BirthShape::ball;
            cloud.size = {4, 4, 4};
            cloud.rate = 0;
            cloud.burst_count = cloud.capacity = 400;
            cloud.for_ever = true;
            cloud.speed = {0, 0};
            cloud.mass = {0.2f, 5};
            cloud.look = "soft-dots";
            Blast blast;
            blast.reach = ReachShape::ball;
            blast.reach_position = {};
            blast.reach_size = {2, 2, 2};
            blast.fade_distance = 0;
            blast.speed = 6;
            blast.first = 0.5f;
            Effect effect = effect_of(cloud, {blast});
            effect.elements[1].links[0].weight = weight;
            Simulation simulation;
            simulation.set_effect(shared(effect));
            run_for(simulation, 0.4);
            const auto before = particles(simulation);
            run_for(simulation, 0.2);
            const auto after = particles(simulation);
            QCOMPARE(after.size(), size_t(400));
            size_t thrown = 0;
            for (size_t i = 0; i < after.size(); ++i) {
                QCOMPARE(length(before[i].velocity), 0.0f);
                const float from = length(before[i].position);
                if (from > 1.001f) {
                    QCOMPARE(length(after[i].velocity), 0.0f);
                } else if (from > 0.06f && from < 0.999f) { // nearer, a step could not be held stable
                    const Vec3 way = before[i].position * (1 / from);
                    QVERIFY(length(after[i].velocity - way * (6 * weight)) < 0.01f);
                    ++thrown;
                }
            }
            QVERIFY(thrown > 20);
        }
    }
};

QTEST_GUILESS_MAIN(TestBreaking)
#include "tst_breaking.moc"
