// Triggers: each when, each then, chance, limit, delay, and words.
#include "core/effect/effect_file.h"
#include "core/effect/sentence.h"
#include "core/smoke/volume.h"
#include "sample_effects.h"
#include "sample_files.h"

#include <QTemporaryDir>
#include <QtTest>

#include <cmath>

using namespace ember;
using namespace ember::sample;

namespace {

// An emitter "spray" that bears nothing of itself, at (2, 1, 0).
Emitter idle_emitter() {
    Emitter emitter;
    emitter.look = starter_effect().looks[0].id;
    emitter.rate = 0;
    emitter.position = {2, 1, 0};
    emitter.size = {0.001f, 0.001f, 0.001f};
    emitter.speed = {0, 0};
    emitter.lifetime = {100, 100};
    emitter.capacity = 5000;
    return emitter;
}

Breakable falling_block(float height) {
    Breakable block;
    block.position = {0, height, 0};
    block.size = {0.5f, 0.5f, 0.5f};
    block.pieces = 8;
    block.strength = 1;
    return block;
}

// A place off which things happen every step: the trigger "t" and what it needs.
struct Scene {
    Effect effect = starter_effect();
    AssetLibrary library;
    Simulation simulation;

    explicit Scene(const Trigger& trigger, const std::vector<Element>& others = {}) {
        effect.elements = {{.id = "spray", .name = "Spray", .body = idle_emitter()},
                           {.id = "t", .name = "Trigger", .body = trigger}};
        effect.elements.insert(effect.elements.end(), others.begin(), others.end());
        set();
    }
    void set() { simulation.set_effect(shared(effect), library.load(effect, ".").assets); }
    Trigger& trigger() { return std::get<Trigger>(effect.elements[1].body); }

    void run(double seconds, const StepInputs& inputs = {}) {
        for (int i = 0; i < int(seconds * 60 + 0.5); ++i) {
            simulation.step(inputs);
        }
    }
    size_t live() const {
        const ParticlePool* pool = simulation.find_pool("spray");
        return pool != nullptr ? pool->live() : 0;
    }
    Vec3 first_place() const {
        const ParticleBlock& block = *simulation.find_pool("spray")->blocks().front();
        return {block.x[0], block.y[0], block.z[0]};
    }
};

// At a press of the key 1.
Trigger starts_for(float seconds, const std::string& what) {
    Trigger trigger;
    trigger.when = TriggerWhen::key;
    trigger.then = TriggerThen::start;
    trigger.what = what;
    trigger.lasting = seconds;
    return trigger;
}

void press(Scene& scene) {
    scene.run(1.0 / 60, {.pointer = {}, .clicks = 0, .keys = {1}});
}

Trigger bursts(TriggerWhen when, int births = 10) {
    Trigger trigger;
    trigger.when = when;
    trigger.what = "spray";
    trigger.births = births;
    return trigger;
}

// What makes a block fall onto the ground and break.
std::vector<Element> falling() {
    return {{.id = "block", .name = "Block", .body = falling_block(1.5f)},
            {.id = "gravity", .name = "Gravity", .body = Gravity{.strength = 9.81f}, .links = {{"block", 1}}},
            {.id = "ground", .name = "Ground", .body = Plane{}, .links = {{"block", 1}}}};
}

} // namespace

class TestTriggers : public QObject {
    Q_OBJECT

  private slots:
    // In the step in which something is done, as often as it is; not when it is only due later.
    void what_a_trigger_does_is_told_by_its_step() {
        Trigger trigger = bursts(TriggerWhen::at_time);
        trigger.at = 0.105f;
        trigger.delay = 0.25f;
        Scene scene(trigger);
        std::vector<int> steps;
        for (int i = 0; i < 60; ++i) {
            scene.simulation.step();
            const Meters& meters = scene.simulation.meters();
            QCOMPARE(meters.elements[0].fired, 0u);
            for (uint32_t k = 0; k < meters.elements[1].fired; ++k) {
                steps.push_back(i);
            }
        }
        QCOMPARE(steps, std::vector<int>{21});
    }

    void at_a_time_once_and_again_and_again() {
        Trigger once = bursts(TriggerWhen::at_time);
        once.at = 0.5f;
        Scene scene(once);
        scene.run(0.5);
        QCOMPARE(scene.live(), size_t(0));
        scene.run(1.5);
        QCOMPARE(scene.live(), size_t(10));
        QVERIFY(length(scene.first_place() - Vec3{2, 1, 0}) < 0.01f);

        Trigger every = bursts(TriggerWhen::every);
        every.time = 0.25f;
        Scene again(every);
        again.run(1.01); // at 0.25, 0.5, 0.75 and 1 s
        QCOMPARE(again.live(), size_t(40));
    }

    void clicks_and_keys_are_heard_once() {
        Scene clicked(bursts(TriggerWhen::click));
        clicked.run(0.2);
        QCOMPARE(clicked.live(), size_t(0));
        clicked.run(1.0 / 60, {.pointer = {}, .clicks = 2, .keys = {}});
        clicked.run(0.2);
        QCOMPARE(clicked.live(), size_t(20));

        Trigger key = bursts(TriggerWhen::key);
        key.key = 7;
        Scene pressed(key);
        pressed.run(1.0 / 60, {.pointer = {}, .clicks = 1, .keys = {3}});
        QCOMPARE(pressed.live(), size_t(0));
        pressed.run(1.0 / 60, {.pointer = {}, .clicks = 0, .keys = {7}});
        QCOMPARE(pressed.live(), size_t(10));
    }

    void who_comes_near_sets_it_off_each_time_anew() {
        Orbit orbit; // through (1, 0, 0) every second
        orbit.radius = 1;
        orbit.period = 1;
        orbit.position = {};
        Trigger enters = bursts(TriggerWhen::enters);
        enters.mover = "walker";
        enters.position = {1, 0, 0};
        enters.within = 0.3f;
        Scene scene(enters, {{.id = "walker", .name = "Walker", .body = orbit}});
        scene.run(3.5);
        QVERIFY2(scene.live() == 30 || scene.live() == 40, qPrintable(QString::number(scene.live())));
        QVERIFY(length(scene.first_place() - Vec3{1, 0, 0}) < 0.01f); // where it happened
    }

    void a_count_that_is_reached_counts_once() {
        Emitter growing = idle_emitter();
        growing.rate = 100;
        Trigger reached = bursts(TriggerWhen::count);
        reached.of = "growing";
        reached.count = 50;
        Scene scene(reached, {{.id = "growing", .name = "Growing", .body = growing}});
        scene.run(0.4);
        QCOMPARE(scene.live(), size_t(0));
        scene.run(2);
        QCOMPARE(scene.live(), size_t(10));
    }

    // Of a breakable its pieces count, each once.
    void pieces_are_counted_once_each() {
        Trigger trigger = bursts(TriggerWhen::count, 1);
        trigger.of = "block";
        Scene first(trigger, falling());
        first.run(0.1);
        const size_t pieces = first.simulation.meters().debris.pieces;
        QVERIFY(pieces > 4);
        for (const bool is_enough : {false, true}) {
            trigger.count = int(pieces) + (is_enough ? 0 : 1);
            Scene scene(trigger, falling());
            scene.run(0.2);
            QCOMPARE(scene.live() > 0, is_enough);
        }
    }

    void breaks_hits_rests_and_ends_of_pieces_are_heard_where_they_happen() {
        for (const TriggerWhen when :
             {TriggerWhen::broken, TriggerWhen::hit, TriggerWhen::rest, TriggerWhen::gone}) {
            Trigger trigger = bursts(when, 1);
            trigger.of = "block";
            Scene scene(trigger, falling());
            auto& block = std::get<Breakable>(scene.effect.elements[2].body);
            block.at_rest = when == TriggerWhen::gone ? RestFate::clear : RestFate::stay;
            block.linger = {0.1f, 0.2f};
            scene.set();
            scene.run(0.3);
            QCOMPARE(scene.live(), size_t(0)); // still in the air
            scene.run(5);
            QVERIFY2(scene.live() > 0, qPrintable(QString::number(int(when))));
            const Vec3 at = scene.first_place();
            QVERIFY(std::fabs(at.x) < 1.5f && at.y < 1 && std::fabs(at.z) < 1.5f);
        }
    }

    void hits_and_ends_of_particles_are_heard_too() {
        Emitter drops = idle_emitter();
        drops.position = {0, 0.5f, 0};
        drops.burst_count = 20;
        drops.burst_start = 0;
        drops.speed = {2, 2};
        drops.direction = {0, -1, 0};
        drops.spread = 0;
        drops.lifetime = {1, 1};
        Element ground = {.id = "ground", .name = "Ground", .body = Plane{}, .links = {{"drops", 1}}};
        std::get<Plane>(ground.body).bounce = 0;
        Trigger hit = bursts(TriggerWhen::hit, 1);
        hit.of = "drops";
        hit.least = 1;
        Scene scene(hit, {{.id = "drops", .name = "Drops", .body = drops}, ground});
        scene.run(0.8);
        QCOMPARE(scene.live(), size_t(20));
        QVERIFY(scene.first_place().y < 0.1f);

        Trigger gone = bursts(TriggerWhen::gone, 2);
        gone.of = "drops";
        Scene ends(gone, {{.id = "drops", .name = "Drops", .body = drops}});
        ends.run(0.9);
        QCOMPARE(ends.live(), size_t(0));
        ends.run(0.3);
        QCOMPARE(ends.live(), size_t(40));
    }

    void a_chance_a_limit_and_a_delay_hold() {
        Trigger trigger = bursts(TriggerWhen::every, 1);
        trigger.time = 1.0f / 60;
        trigger.chance = 0.25f;
        Scene chance(trigger);
        chance.run(40); // 2400 times: 600, give or take 4 standard deviations
        QVERIFY2(std::abs(int(chance.live()) - 600) < 85, qPrintable(QString::number(chance.live())));

        trigger.chance = 1;
        trigger.limit = 7;
        Scene limit(trigger);
        limit.run(0.5);
        QCOMPARE(limit.live(), size_t(7));
        limit.run(9.5);
        QVERIFY2(limit.live() >= 69 && limit.live() <= 70, qPrintable(QString::number(limit.live())));

        Trigger later = bursts(TriggerWhen::at_time);
        later.at = 0.5f;
        later.delay = 1;
        Scene delay(later);
        delay.run(1.45);
        QCOMPARE(delay.live(), size_t(0));
        delay.run(0.1);
        QCOMPARE(delay.live(), size_t(10));
    }

    void what_is_started_was_off_and_what_is_stopped_bears_no_more() {
        Trigger trigger;
        trigger.when = TriggerWhen::at_time;
        trigger.at = 1;
        trigger.what = "jet";
        trigger.then = TriggerThen::start;
        Emitter jet = idle_emitter();
        jet.rate = 60;
        Scene starts(trigger, {{.id = "jet", .name = "Jet", .body = jet}});
        const auto count = [](const Scene& scene) { return scene.simulation.find_pool("jet")->live(); };
        starts.run(0.9);
        QCOMPARE(count(starts), size_t(0));
        starts.run(1.1);
        QVERIFY(count(starts) > 50);

        trigger.then = TriggerThen::stop;
        Scene stops(trigger, {{.id = "jet", .name = "Jet", .body = jet}});
        stops.run(1.1);
        const size_t then = count(stops);
        QVERIFY(then > 50);
        stops.run(1);
        QCOMPARE(count(stops), then); // the living go on
        stops.simulation.rewind();
        stops.run(0.5);
        QVERIFY(count(stops) > 20); // and it is as in the beginning
    }

    void what_is_done_for_a_while_is_undone_then() {
        Trigger trigger = starts_for(0.5f, "jet");
        Emitter jet = idle_emitter();
        jet.rate = 60;
        const auto count = [](const Scene& scene) { return int(scene.simulation.find_pool("jet")->live()); };

        Scene starts(trigger, {{.id = "jet", .name = "Jet", .body = jet}});
        press(starts);
        starts.run(2);
        QVERIFY2(std::abs(count(starts) - 30) <= 1, qPrintable(QString::number(count(starts))));
        press(starts);
        starts.run(0.25);
        press(starts); // the time begins anew
        starts.run(2);
        QVERIFY2(std::abs(count(starts) - 75) <= 2, qPrintable(QString::number(count(starts))));

        trigger.then = TriggerThen::stop;
        Scene stops(trigger, {{.id = "jet", .name = "Jet", .body = jet}});
        press(stops);
        stops.run(2);
        QVERIFY2(std::abs(count(stops) - 90) <= 1, qPrintable(QString::number(count(stops))));

        trigger.then = TriggerThen::set;
        trigger.parameter = "rate";
        trigger.value = 600;
        Scene sets(trigger, {{.id = "jet", .name = "Jet", .body = jet}});
        press(sets);
        sets.run(2);
        QVERIFY2(std::abs(count(sets) - (300 + 90)) <= 3, qPrintable(QString::number(count(sets))));
        QCOMPARE(sentence_of(sets.effect, trigger),
                 std::string("When 1 is pressed, Jet: Rate becomes 600 1/s for 0.5 s."));
    }

    // Looks and the stage have only numbers; what is set of them goes back after its time.
    void a_look_and_the_stage_are_set() {
        const std::string look = starter_effect().looks[0].id;
        for (const auto& [id, key, own] : {std::tuple(look, "glow", 2.0f), {"stage", "exposure", -1.0f}}) {
            Trigger trigger;
            trigger.when = TriggerWhen::key;
            trigger.then = TriggerThen::set;
            trigger.what = id;
            trigger.parameter = key;
            trigger.value = 3;
            trigger.lasting = 0.5f;
            Scene scene(trigger);
            scene.effect.looks[0].glow = 2;
            scene.effect.stage.exposure = -1;
            scene.set();
            const auto seen = [&] {
                Frame frame;
                scene.simulation.write_frame(frame);
                const auto holder = find_holder(*frame.now, trigger.what);
                return std::get<float>(holder->find(trigger.parameter)->get(holder->object));
            };
            scene.run(0.1);
            QCOMPARE(seen(), own);
            scene.run(1.0 / 60, {.pointer = {}, .clicks = 0, .keys = {1}});
            scene.run(0.2);
            QCOMPARE(seen(), 3.0f);
            scene.run(0.4);
            QCOMPARE(seen(), own);
            QVERIFY(!why_never_done(scene.effect, trigger));
            QVERIFY(sentence_of(scene.effect, trigger).find("becomes 3") != std::string::npos);
            const ReadResult read = parse_effect(effect_text(scene.effect), "set");
            QVERIFY(read.problems.empty() && *read.effect == scene.effect);
            trigger.then = TriggerThen::start; // it cannot
            QVERIFY(why_never_done(scene.effect, trigger));
        }
    }

    // What a trigger sets is in the frame, for pictures too; a drive comes before it, the own value before
    // both.
    void a_frame_carries_the_effect_as_drives_and_triggers_have_it() {
        Trigger trigger;
        trigger.when = TriggerWhen::key;
        trigger.key = 1;
        trigger.then = TriggerThen::set;
        trigger.what = "steam";
        trigger.parameter = "absorption";
        trigger.value = 77;
        trigger.lasting = 0.5f;
        Smoke smoke;
        smoke.resolution = 16;
        smoke.absorption = 5;
        Scene scene(trigger, {{.id = "steam", .name = "Steam", .body = smoke},
                              {.id = "m", .name = "Modulator", .body = Growth{{}, 0, 1000}}});
        const auto seen = [&] {
            Frame frame;
            scene.simulation.write_frame(frame);
            return std::get<Smoke>(find_element(*frame.now, "steam")->body).absorption;
        };
        scene.run(0.2);
        QCOMPARE(seen(), 5.0f);
        scene.effect.drives = {{"steam", "absorption", 0, "m", 20, 20, {}}};
        scene.set();
        QCOMPARE(seen(), 20.0f); // at once, also while nothing steps
        scene.run(2.0 / 60);
        QCOMPARE(seen(), 20.0f);
        scene.run(1.0 / 60, {.pointer = {}, .clicks = 0, .keys = {1}});
        scene.run(2.0 / 60);
        QCOMPARE(seen(), 77.0f);
        scene.run(0.6);
        QCOMPARE(seen(), 20.0f);
        scene.effect.elements[3].muted = true;
        scene.set();
        QCOMPARE(seen(), 5.0f);
        Frame frame;
        scene.simulation.write_frame(frame);
        QCOMPARE(std::get<Smoke>(find_element(*frame.effect, "steam")->body).absorption, 5.0f);
    }

    // Smoke that a break starts ends by itself.
    void smoke_that_a_trigger_starts_ends_by_itself() {
        const Trigger trigger = starts_for(0.25f, "steam-source");
        Smoke smoke;
        smoke.resolution = 16;
        smoke.fade = 0;
        smoke.sides = SmokeSides::closed;
        SmokeSource source;
        source.position = smoke.position;
        Scene scene(trigger, {{.id = "steam", .name = "Steam", .body = smoke},
                              {.id = "steam-source", .name = "Source", .body = source}});
        const auto mass = [&] { return scene.simulation.find_smoke("steam")->mass(); };
        scene.run(0.5);
        QCOMPARE(mass(), 0.0);
        press(scene);
        scene.run(0.3);
        const double fed = mass();
        QVERIFY(fed > 1);
        scene.run(0.5);
        QVERIFY2(std::fabs(mass() / fed - 1) < 0.02, qPrintable(QString::number(mass() / fed)));
    }

    void a_number_is_set_within_its_limits_until_it_begins_anew() {
        Trigger trigger;
        trigger.when = TriggerWhen::key;
        trigger.key = 1;
        trigger.then = TriggerThen::set;
        trigger.what = "jet";
        trigger.parameter = "rate";
        trigger.value = 600;
        Emitter jet = idle_emitter();
        jet.rate = 60;
        Scene scene(trigger, {{.id = "jet", .name = "Jet", .body = jet}});
        const auto count = [&] { return scene.simulation.find_pool("jet")->live(); };
        scene.run(1);
        QCOMPARE(count(), size_t(60));
        scene.run(1.0 / 60, {.pointer = {}, .clicks = 0, .keys = {1}});
        scene.run(1);
        QVERIFY2(count() > 600 && count() < 680, qPrintable(QString::number(count())));
        QCOMPARE(sentence_of(scene.effect, trigger),
                 std::string("When 1 is pressed, Jet: Rate becomes 600 1/s."));

        scene.trigger().value = -1e6f; // no rate is less than nothing
        scene.set();
        scene.run(1.0 / 60, {.pointer = {}, .clicks = 0, .keys = {1}});
        scene.run(0.1);
        const size_t before = count();
        scene.run(0.5);
        QCOMPARE(count(), before);
        scene.simulation.rewind();
        scene.run(1);
        QCOMPARE(count(), size_t(60));

        trigger.parameter = "look"; // no number
        QVERIFY(why_never_done(scene.effect, trigger).value().find("which of its numbers") !=
                std::string::npos);
    }

    void a_limit_of_the_budget_that_is_reached_counts_once() {
        Emitter growing = idle_emitter();
        growing.rate = 100;
        Trigger over = bursts(TriggerWhen::over);
        Scene scene(over, {{.id = "growing", .name = "Growing", .body = growing}});
        scene.effect.budget.particles = 50;
        scene.set();
        scene.run(0.4);
        QCOMPARE(scene.live(), size_t(0));
        scene.run(2);
        QCOMPARE(scene.live(), size_t(10));
    }

    void a_zone_is_switched_at_runtime() {
        Trigger trigger;
        trigger.when = TriggerWhen::key;
        trigger.key = 1;
        trigger.what = "zone";
        trigger.then = TriggerThen::stop;
        CleanupZone zone;
        zone.fate = ZoneFate::clear;
        zone.below_speed = 100;
        std::vector<Element> others = falling();
        others.push_back({.id = "zone", .name = "Zone", .body = zone, .links = {{"block", 1}}});
        Scene cleaned(trigger, others), kept(trigger, others);
        kept.run(1.0 / 60, {.pointer = {}, .clicks = 0, .keys = {1}});
        cleaned.run(3);
        kept.run(3);
        QVERIFY(cleaned.simulation.meters().debris.pieces < kept.simulation.meters().debris.pieces);
    }

    void blasts_and_droppers_wait_to_be_told() {
        Trigger trigger;
        trigger.when = TriggerWhen::click;
        trigger.what = "blast";
        trigger.then = TriggerThen::blast;
        Blast blast;
        blast.reach = ReachShape::ball;
        blast.reach_position = {0, 0.25f, 0};
        blast.first = 0.2f; // by its own clock, which it does not have now
        std::vector<Element> others = falling();
        std::get<Breakable>(others[0].body) = falling_block(0.25f);
        std::get<Breakable>(others[0].body).strength = 200;
        others.push_back({.id = "blast", .name = "Blast", .body = blast, .links = {{"block", 1}}});
        Scene struck(trigger, others);
        struck.run(1);
        QCOMPARE(struck.simulation.bodies("block").size(), size_t(1));
        struck.run(1.0 / 60, {.pointer = {}, .clicks = 1, .keys = {}});
        struck.run(0.1);
        QVERIFY(struck.simulation.bodies("block").size() > 3);

        Dropper dropper;
        dropper.drops = "block";
        dropper.position = {0, 3, 0};
        trigger.what = "dropper";
        trigger.then = TriggerThen::drop;
        others = falling();
        std::get<Breakable>(others[0].body).stands = false;
        others.push_back({.id = "dropper", .name = "Dropper", .body = dropper});
        Scene drops(trigger, others);
        drops.run(1);
        QCOMPARE(drops.simulation.meters().debris.pieces, size_t(0));
        drops.run(1.0 / 60, {.pointer = {}, .clicks = 1, .keys = {}});
        drops.run(0.1);
        QCOMPARE(drops.simulation.meters().debris.pieces, size_t(8));
    }

    void parked_pieces_come_back_and_collide_again_and_loose_ones_are_cleared() {
        std::vector<Element> others = falling();
        auto& block = std::get<Breakable>(others[0].body);
        block.at_rest = RestFate::park;
        block.linger = {0.1f, 0.2f};
        Trigger trigger;
        trigger.when = TriggerWhen::click;
        trigger.what = "block";
        trigger.then = TriggerThen::call_back;
        Scene scene(trigger, others);
        scene.run(6);
        const DebrisMeter& meter = scene.simulation.meters().debris;
        QVERIFY(meter.parked > 0);
        const size_t parked = meter.parked;
        scene.run(1.0 / 60, {.pointer = {}, .clicks = 1, .keys = {}});
        QVERIFY(meter.parked == 0 && meter.bodies >= parked);
        for (const Debris::Moving& body : scene.simulation.bodies("block")) {
            QVERIFY(body.place.y > 0); // on the ground, not through it
        }

        scene.trigger().then = TriggerThen::clear;
        scene.set();
        scene.run(1.0 / 60, {.pointer = {}, .clicks = 1, .keys = {}});
        scene.run(2); // the longest time that clearing takes is 1.5 s
        QCOMPARE(meter.pieces, size_t(0));
    }

    void the_same_seed_does_the_same() {
        Trigger trigger = bursts(TriggerWhen::broken, 3);
        trigger.of = "block";
        trigger.chance = 0.5f;
        Scene one(trigger, falling()), other(trigger, falling());
        one.run(3);
        other.run(3);
        QVERIFY(one.live() > 0);
        QCOMPARE(one.live(), other.live());
        QCOMPARE(one.first_place(), other.first_place());
    }

    void bad_numbers_are_held_and_nothing_stalls() {
        Trigger trigger = bursts(TriggerWhen::every, 1'000'000);
        trigger.time = 0.01f;
        Scene scene(trigger);
        scene.run(1);
        QCOMPARE(scene.live(), size_t(5000)); // its capacity
        trigger.what = "t";                   // a trigger is told by nobody
        Scene itself(trigger);
        itself.run(0.5);
        QCOMPARE(itself.live(), size_t(0));
        trigger.what = "nobody";
        Scene nobody(trigger);
        nobody.run(0.5);
        QCOMPARE(nobody.live(), size_t(0));
    }

    void a_trigger_says_what_it_does_and_why_it_would_not() {
        Trigger trigger = bursts(TriggerWhen::broken, 40);
        trigger.of = "block";
        trigger.chance = 0.05f;
        trigger.limit = 30;
        Scene scene(trigger, falling());
        QCOMPARE(
            sentence_of(scene.effect, trigger),
            std::string("When a piece of Block comes off, 1 in 20, Spray bears 40; at most 30 a second."));
        QVERIFY(!why_never_done(scene.effect, trigger));
        trigger.of = "spray";
        QVERIFY(why_never_done(scene.effect, trigger).value().find("do not break") != std::string::npos);
        trigger.then = TriggerThen::blast;
        QVERIFY(why_never_done(scene.effect, trigger).value().find("Name what does it") != std::string::npos);
        trigger = bursts(TriggerWhen::every);
        trigger.time = 0.25f;
        trigger.then = TriggerThen::drop;
        trigger.what = "block";
        trigger.delay = 2;
        QCOMPARE(sentence_of(scene.effect, trigger),
                 std::string("Every 0.25 s, 2 s later, Block drops one."));
    }

    void files_keep_triggers_and_report_names_that_do_not_fit() {
        Trigger trigger = bursts(TriggerWhen::broken, 40);
        trigger.of = "block";
        Scene scene(trigger, falling());
        QTemporaryDir folder;
        const std::filesystem::path path = (folder.path() + "/one.ember.json").toStdString();
        QVERIFY(!save_effect(scene.effect, path));
        const auto read = read_effect(path);
        QVERIFY(read.effect && read.problems.empty());
        QVERIFY(*read.effect == scene.effect);

        scene.trigger().what = "t";
        QVERIFY(!save_effect(scene.effect, path));
        const auto odd = read_effect(path);
        QVERIFY(odd.effect && !odd.problems.empty());
        QVERIFY(std::get<Trigger>(odd.effect->elements[1].body).what.empty());
    }

    void smoke_that_a_trigger_starts_begins_where_it_happened() {
        Emitter drop = single_particle({0.4f, 2, -0.2f});
        Plane ground;
        ground.on_hit = OnHit::die;
        Effect effect = effect_of(drop, {Gravity{}, ground});
        Smoke smoke;
        smoke.position = {0, 0, 0};
        smoke.size = {2, 2, 2};
        smoke.resolution = 24;
        SmokeSource source;
        source.position = {-0.8f, 1.5f, 0.8f};
        source.size = {0.2f, 0.2f, 0.2f};
        source.heat = 0;
        Trigger trigger;
        trigger.when = TriggerWhen::gone;
        trigger.of = "e";
        trigger.then = TriggerThen::start;
        trigger.what = "source";
        effect.elements.push_back({.id = "smoke", .name = "Smoke", .body = smoke});
        effect.elements.push_back({.id = "source", .name = "Source", .body = source});
        effect.elements.push_back({.id = "when", .name = "When", .body = trigger});
        const Simulation simulation = run(effect, 0.9);
        const SmokeVolume& volume = *simulation.find_smoke("smoke");
        Vec3 middle;
        float sum = 0;
        const SmokeSize& size = volume.size();
        for (int z = 0; z < size.z; ++z) {
            for (int y = 0; y < size.y; ++y) {
                for (int x = 0; x < size.x; ++x) {
                    const float density = volume.cells()[size.packed(x, y, z)].density;
                    middle += size.middle(x, y, z) * density;
                    sum += density;
                }
            }
        }
        QVERIFY(sum > 0);
        middle = middle / sum;
        QVERIFY2(std::abs(middle.x - 0.4f) < 0.15f && std::abs(middle.z + 0.2f) < 0.15f,
                 qPrintable(QString("%1 %2 %3").arg(middle.x).arg(middle.y).arg(middle.z)));
    }
};

QTEST_GUILESS_MAIN(TestTriggers)
#include "tst_triggers.moc"
