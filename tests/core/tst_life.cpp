// Amounts of births over time, particles born of particles, movers, and what is expected of them.
#include "sample_effects.h"
#include "sample_files.h"

#include "core/budget/expected.h"
#include "core/effect/track.h"
#include "core/scene/placements.h"

#include <QTemporaryDir>
#include <QtTest>

#include <numbers>

using namespace ember;
using namespace ember::sample;

namespace {

Effect with_child(const Emitter& parent, Emitter child, const std::vector<ElementBody>& influences = {}) {
    Effect effect = effect_of(parent, influences);
    child.parent = "e";
    effect.elements.insert(effect.elements.begin() + 1, {.id = "child", .name = "Child", .body = child});
    return effect;
}

Effect riding_on(Emitter emitter, const ElementBody& mover) {
    emitter.rides_on = "m";
    Effect effect = effect_of(emitter);
    effect.elements.push_back({.id = "m", .name = "Mover", .body = mover});
    return effect;
}

uint64_t born_after(const Effect& effect, double seconds) {
    return run(effect, seconds).meters().elements[0].born;
}

} // namespace

class TestLife : public QObject {
    Q_OBJECT

  private slots:
    void bursts_come_when_they_are_due_and_as_often() {
        Emitter emitter = still(0, 100);
        emitter.burst_count = 50;
        emitter.burst_start = 0.5f;
        emitter.burst_every = 0.25f;
        emitter.burst_repeats = 3;
        QCOMPARE(born_after(effect_of(emitter), 0.49), uint64_t(0));
        QCOMPARE(born_after(effect_of(emitter), 0.7), uint64_t(50));
        QCOMPARE(born_after(effect_of(emitter), 5), uint64_t(150));
        emitter.burst_repeats = 0;
        QCOMPARE(born_after(effect_of(emitter), 5.4), uint64_t(50 * 20));
    }

    void births_start_stop_and_loop() {
        Emitter emitter = still(100, 100);
        emitter.begins = Begin::at_time;
        emitter.start = 1;
        emitter.duration = 0.5f;
        QCOMPARE(born_after(effect_of(emitter), 0.95), uint64_t(0));
        QCOMPARE(born_after(effect_of(emitter), 4), uint64_t(50));
        emitter.loop_every = 2;
        QCOMPARE(born_after(effect_of(emitter), 8), uint64_t(200)); // at 1, 3, 5 and 7 s
        emitter.burst_count = 5;
        emitter.burst_start = 0.25f;
        QCOMPARE(born_after(effect_of(emitter), 8), uint64_t(220)); // a burst in each loop
    }

    void births_per_metre_leave_no_gaps_behind_a_fast_mover() {
        Emitter emitter = still(0, 100);
        emitter.per_metre = 20;
        const Effect effect = riding_on(emitter, Orbit{{}, 10, 1}); // 63 m/s, more than a metre a step
        const auto trail = particles(run(effect, 0.5));
        const double way = std::numbers::pi * 10;
        QVERIFY(std::abs(double(trail.size()) - way * 20) < 0.01 * way * 20);
        for (size_t i = 1; i < trail.size(); ++i) {
            const float gap = length(trail[i].position - trail[i - 1].position);
            QVERIFY2(std::abs(gap - 0.05f) < 0.005f, qPrintable(QString::number(double(gap))));
        }
    }

    void warm_up_gives_exactly_the_state_of_having_run_that_long() {
        Emitter emitter = still(300, 2);
        emitter.shape = BirthShape::ball;
        emitter.speed = {1, 2};
        Effect effect = effect_of(emitter, {Gravity{}, Turbulence{.churn = 1}, Wind{}, Plane{}});
        const Simulation ran = run(effect, 3.5);
        effect.stage.warm_up = 3;
        Simulation warmed = run(effect, 0.5);
        QVERIFY(std::abs(warmed.time_s() - 0.5) < 1e-9);
        const auto a = particles(ran), b = particles(warmed);
        QCOMPARE(a.size(), b.size());
        for (size_t i = 0; i < a.size(); ++i) {
            QVERIFY(a[i].position == b[i].position && a[i].velocity == b[i].velocity &&
                    a[i].number == b[i].number);
        }
        // Another warm-up starts again by itself.
        effect.stage.warm_up = 1;
        warmed.set_effect(shared(effect));
        QVERIFY(warmed.is_warming_up() && std::abs(warmed.time_s() + 1) < 1e-9);
    }

    void each_parent_gives_birth_all_through_its_life() {
        Emitter parent = still(50, 2);
        Emitter child = still(0, 1);
        child.per_parent_rate = 30;
        const Simulation simulation = run(with_child(parent, child), 6);
        // 100 parents, 3000 births a second, each living a second.
        QVERIFY(std::abs(double(simulation.meters().elements[1].live) - 3000) < 60);
    }

    void a_death_gives_birth_with_the_parents_place_velocity_and_colour() {
        Emitter parent = still(0, 1);
        parent.burst_count = 40;
        parent.speed = {2, 2};
        parent.direction = {1, 0, 0};
        parent.spread = 0;
        Emitter child = still(0, 10);
        child.when = ChildWhen::death;
        child.per_parent_count = 3;
        child.inherited_velocity = 0.5f;
        child.colour_share = 1;
        Effect effect = with_child(parent, child);
        effect.looks.front().colour_over_life.stops = {{0, {1, 1, 1, 1}}, {1, {1, 0.25f, 0, 0}}};
        const Simulation simulation = run(effect, 2);
        const auto children = particles(simulation, "child");
        QCOMPARE(children.size(), size_t(120));
        for (const auto& p : children) {
            QVERIFY(std::abs(p.velocity.x - 1) < 1e-4f);
            // Where the parent was after its second, and a second more of its own.
            QVERIFY(std::abs(p.position.x - p.age * 1 - 2) < 0.1f);
        }
        const Colour tint = simulation.find_pool("child")->blocks()[0]->mark[0].tint();
        QVERIFY(std::abs(tint.green - 0.25f) < 0.05f && tint.blue < 0.05f && tint.alpha == 1);
    }

    void a_hit_gives_birth_if_it_is_hard_enough() {
        Emitter parent = still(0, 100);
        parent.burst_count = 100;
        parent.position = {0, 2, 0};
        Emitter child = still(0, 10);
        child.when = ChildWhen::hit;
        child.per_parent_count = 4;
        child.least_impact = 3;
        const auto born = [&](float bounce) {
            return run(with_child(parent, child, {Gravity{}, Plane{{.bounce = bounce, .roughness = 0}}}), 4)
                .meters()
                .elements[1]
                .born;
        };
        // From 2 m they arrive at 6.3 m/s; with half a bounce the second time at 3.1, the third at 1.6.
        QCOMPARE(born(0), uint64_t(400));
        QCOMPARE(born(0.5f), uint64_t(800));
        child.chance = 0.5f;
        const auto half = double(born(0));
        QVERIFY(std::abs(half - 200) < 4 * 4 * std::sqrt(100 * 0.25)); // four standard deviations of events
    }

    void children_of_children_to_any_depth() {
        Effect effect = with_child(still(20, 1), still(0, 1));
        std::get<Emitter>(effect.elements[1].body).per_parent_rate = 5;
        for (int depth = 2; depth < 5; ++depth) {
            Emitter next = still(0, 1);
            next.parent = effect.elements[size_t(depth) - 1].id;
            next.per_parent_rate = 3;
            effect.elements.push_back({.id = "d" + std::to_string(depth), .name = "Deep", .body = next});
        }
        const Simulation simulation = run(effect, 8);
        const auto expected = expected_counts(effect);
        const double by_hand[] = {20, 100, 300, 900, 2700};
        for (size_t i = 0; i < 5; ++i) {
            QVERIFY(std::abs(expected[i].live - by_hand[i]) < 1e-6 * by_hand[i]);
            const auto live = double(simulation.meters().elements[i].live);
            QVERIFY2(std::abs(live - by_hand[i]) < 0.08 * by_hand[i] + 3, qPrintable(QString::number(live)));
        }
    }

    void what_exceeds_the_cap_is_foretold_and_counted() {
        Emitter child = still(0, 2);
        child.per_parent_rate = 1000;
        child.capacity = 5000;
        const Effect effect = with_child(still(100, 2), child);
        const auto expected = expected_counts(effect);
        QVERIFY(std::abs(expected[1].live - 400000) < 1);
        const auto excess = expected_excess(effect, 1, expected[1]);
        QVERIFY(excess && excess->find("400000") != std::string::npos &&
                excess->find("5000") != std::string::npos);
        QVERIFY(!expected_excess(effect, 0, expected[0]));
        const Simulation simulation = run(effect, 2);
        QVERIFY(simulation.meters().elements[1].live <= 5000);
        QVERIFY(simulation.meters().elements[1].refused > 50000);
        QCOMPARE(simulation.meters().elements[0].refused, uint64_t(0));
    }

    void a_flood_of_children_neither_hangs_nor_takes_all_memory() {
        Emitter child = still(0, 10);
        child.per_parent_rate = 10000;
        child.capacity = 100;
        Emitter many = still(1e6f, 3600);
        many.capacity = 200000;
        const Simulation simulation = run(with_child(many, child), 0.5);
        QCOMPARE(simulation.meters().elements[1].live, size_t(100));
        QVERIFY(simulation.meters().elements[1].refused > 1000000);
    }

    void particles_for_ever_stay() {
        Emitter emitter = still(0, 1);
        emitter.burst_count = 10;
        emitter.for_ever = true;
        QCOMPARE(particles(run(effect_of(emitter), 30)).size(), size_t(10));
    }

    void birth_colours_are_drawn_from_their_ramp() {
        Emitter emitter = still(0, 100);
        emitter.burst_count = 4000;
        emitter.birth_colours.stops = {{0, {1, 0, 0, 1}}, {1, {0, 0, 1, 0.25f}}};
        const Simulation simulation = run(effect_of(emitter), 0.1);
        double red = 0, alpha = 0;
        for (const auto& block : simulation.find_pool("e")->blocks()) {
            for (int i = 0; i < block->count; ++i) {
                const Colour tint = block->mark[i].tint();
                QVERIFY(std::abs(tint.red + tint.blue - 1) < 0.04f);
                red += double(tint.red) / 4000;
                alpha += double(tint.alpha) / 4000;
            }
        }
        QVERIFY(std::abs(red - 0.5) < 0.02 && std::abs(alpha - 0.625) < 0.02);
    }

    void own_seed_gives_another_draw_for_one_source_alone() {
        Emitter emitter = still(100, 10);
        emitter.shape = BirthShape::ball;
        const auto a = particles(run(effect_of(emitter), 1));
        emitter.own_seed = 5;
        const auto b = particles(run(effect_of(emitter), 1));
        QVERIFY(a.size() == b.size() && a[0].position != b[0].position);
    }

    void movers_carry_what_rides_on_them() {
        const auto place = [](const ElementBody& mover, double time_s, Vec3 offset = {}) {
            Emitter emitter;
            emitter.rides_on = "m";
            emitter.position = offset;
            Effect effect = effect_of(emitter);
            effect.elements.push_back({.id = "m", .name = "Mover", .body = mover});
            return placements_at(prepared(shared(effect), {}, {}), time_s)[0].position;
        };
        // A quarter of a round about y: from x to -z.
        const Orbit orbit{{{0, 1, 0}, {}, {}}, 2, 4};
        QVERIFY(length(place(orbit, 1) - Vec3{0, 1, -2}) < 1e-5f);
        QVERIFY(length(place(orbit, 1, {0.5f, 0, 0}) - Vec3{0, 1, -2.5f}) <
                1e-5f); // turned along like a spoke
        PathMover path;
        path.path = PathKind::points;
        path.points = {{0, 0, 0}, {4, 0, 0}};
        path.period = 2;
        QVERIFY(length(place(path, 0.5) - Vec3{1, 0, 0}) < 1e-3f);
        QVERIFY(length(place(path, 2.5) - Vec3{1, 0, 0}) < 1e-3f);
        path.at_end = PathEnd::return_back;
        QVERIFY(length(place(path, 2.5) - Vec3{3, 0, 0}) < 1e-3f);
        path.at_end = PathEnd::stay;
        QVERIFY(length(place(path, 9) - Vec3{4, 0, 0}) < 1e-3f);
        const Wander wander{{}, {2, 1, 0}, 1};
        for (int i = 0; i < 400; ++i) {
            const Vec3 a = place(wander, i * 0.05), b = place(wander, i * 0.05 + 0.01);
            QVERIFY(std::abs(a.x) < 1.4f && std::abs(a.y) < 0.7f && a.z == 0);
            QVERIFY(length(b - a) < 0.08f); // no jumps
        }
    }

    void riders_of_riders_add_up() {
        Emitter emitter;
        emitter.rides_on = "small";
        Effect effect = effect_of(emitter);
        effect.elements.push_back({.id = "big", .name = "Big", .body = Orbit{{}, 3, 8}});
        effect.elements.push_back({.id = "small", .name = "Small", .body = Orbit{{{}, {}, "big"}, 1, 2}});
        const Vec3 place = placements_at(prepared(shared(effect), {}, {}), 2)[0].position;
        // A quarter of the big round, and one whole small round within its axes.
        QVERIFY(length(place - Vec3{0, 0, -4}) < 1e-4f);
    }

    void single_bursts_are_expected_as_many_as_they_have_alive_at_once() {
        Emitter once = still(0, 2);
        once.burst_count = 3000;
        once.burst_repeats = 1;
        QCOMPARE(expected_counts(effect_of(once))[0].most(), 3000.0);
        QCOMPARE(run(effect_of(once), 0.5).meters().elements[0].live, size_t(3000));
        // Four, of which three are alive together.
        Emitter several = once;
        several.burst_repeats = 4;
        several.burst_every = 0.9f;
        QCOMPARE(expected_counts(effect_of(several))[0].most(), 9000.0);
        size_t most = 0;
        Simulation simulation = run(effect_of(several), 0);
        for (int i = 0; i < 300; ++i) {
            simulation.step();
            most = std::max(most, simulation.meters().elements[0].live);
        }
        QCOMPARE(most, size_t(9000));
        several.capacity = 8000;
        QVERIFY(expected_excess(effect_of(several), 0, expected_counts(effect_of(several))[0]));
        // What is born of them counts too.
        Emitter child = still(0, 1);
        child.when = ChildWhen::death;
        child.per_parent_count = 2;
        QCOMPARE(expected_counts(with_child(once, child))[1].most(), 6000.0);
    }

    void what_colliders_kill_is_not_expected_to_live() {
        Emitter emitter = still(500, 20);
        emitter.position = {0, 2, 0};
        emitter.capacity = 2000;
        Plane ground;
        ground.on_hit = OnHit::die;
        const Effect effect = effect_of(emitter, {Gravity{}, ground});
        const ExpectedCount expected = expected_counts(effect)[0];
        // 2 m of fall take 0.64 s.
        const auto live = double(run(effect, 3).meters().elements[0].live);
        QVERIFY2(std::abs(expected.most() / live - 1) < 0.1,
                 qPrintable(QString("%1 %2").arg(expected.most()).arg(live)));
        QVERIFY(expected.is_about);
        QVERIFY(!expected_excess(effect, 0, expected));
        Effect missed = effect;
        missed.elements[2].links.clear();
        QVERIFY(expected_excess(missed, 0, expected_counts(missed)[0]));
    }

    void what_is_keyed_is_expected_at_the_most_that_it_comes_to() {
        const Effect plain = effect_of(still(100, 2));
        const Effect swelling = with_track(plain, {"e", "rate", {Curve{{{0, 100}, {2, 900}, {4, 50}}}}, {}});
        const ExpectedCount expected = expected_counts(swelling)[0];
        QCOMPARE(expected.most(), 1800.0);
        QVERIFY(expected.is_about);
        QVERIFY(!expected_counts(plain)[0].is_about);
        // More keys than are looked at: first, last and even ones between; what never changes is no guess.
        Curve even;
        for (int i = 0; i < 500; ++i) {
            even.points.push_back({float(i) * 0.1f, 300});
        }
        const ExpectedCount steady = expected_counts(with_track(plain, {"e", "rate", {even}, {}}))[0];
        QCOMPARE(steady.most(), 600.0);
        QVERIFY(!steady.is_about);
        // A keyed rate does not bear more of those that are let loose to see how long they live.
        Plane ground;
        ground.on_hit = OnHit::die;
        Emitter falling = still(100, 20);
        falling.position = {0, 2, 0};
        const Effect killed = effect_of(falling, {Gravity{}, ground});
        const Effect keyed = with_track(killed, {"e", "rate", {Curve{{{0, 100}, {2, 100}}}}, {}});
        QVERIFY(std::abs(expected_counts(keyed)[0].most() / expected_counts(killed)[0].most() - 1) < 1e-6);
    }

    void what_is_driven_is_expected_at_the_middle_of_its_range() {
        Effect effect = effect_of(still(1000, 2));
        effect.elements.push_back({.id = "tide", .name = "Tide", .body = Cycle{}});
        effect.drives.push_back({"e", "rate", 0, "tide", 100, 300});
        const ExpectedCount expected = expected_counts(effect)[0];
        QVERIFY(std::abs(expected.most() - 400) < 1);
        QVERIFY(expected.is_about);
        effect.elements[1].muted = true;
        QVERIFY(std::abs(expected_counts(effect)[0].most() - 2000) < 1);
    }

    void keys_come_from_a_file() {
        QTemporaryDir folder;
        write_text(folder.filePath("keys.csv").toStdString(),
                   "time, x, y, z\n# a comment\n0, 0, 0, 0\n2, 4, 0, 2\n4, 4, 2, 2, 0, 90, 0\n");
        Effect effect = riding_on(Emitter{}, KeyedMover{{}, "keys.csv", 10, false});
        AssetLibrary library;
        const LoadResult loaded = library.load(effect, folder.path().toStdString());
        QVERIFY(loaded.missing.empty());
        const PreparedEffect ready = prepared(shared(effect), loaded.assets, {});
        QVERIFY(length(placements_at(ready, 11)[0].position - Vec3{2, 0, 1}) < 1e-5f);
        QVERIFY(length(placements_at(ready, 13)[0].position - Vec3{4, 1, 2}) < 1e-5f);
        QVERIFY(length(placements_at(ready, 19)[0].axes.x - Vec3{0, 0, -1}) < 1e-5f);
    }

    void what_rides_on_itself_is_refused_and_does_not_hang() {
        Effect effect = effect_of(Emitter{});
        effect.elements.push_back({.id = "a", .name = "A", .body = Orbit{{{}, {}, "b"}}});
        effect.elements.push_back({.id = "b", .name = "B", .body = Orbit{{{}, {}, "a"}}});
        const auto refusal = whole_refusal(effect);
        QVERIFY(refusal && refusal->find("a, b, a") != std::string::npos);
        placements_at(prepared(shared(effect), {}, {}), 1);
        Emitter own_child;
        own_child.parent = "e";
        QVERIFY(whole_refusal(effect_of(own_child)));
        run(effect_of(own_child), 0.1);
    }
};

QTEST_APPLESS_MAIN(TestLife)
#include "tst_life.moc"
