// Smoke as an element among others: what feeds and pushes it, and how often it moves on.
#include "core/assets/assets.h"
#include "core/smoke/volume.h"
#include "sample_effects.h"

#include <QtTest>

#include <algorithm>
#include <cmath>
#include <set>

using namespace ember;

namespace {

constexpr const char* smoke_id = "smoke";

// Steam over a small source, in a closed box, with nothing that thins it out.
Effect steam(int moves_every = 1) {
    Effect effect = starter_effect();
    effect.elements.clear();
    Smoke smoke;
    smoke.position = {0, 0.5f, 0};
    smoke.size = {1, 1, 1};
    smoke.resolution = 24;
    smoke.sides = SmokeSides::closed;
    smoke.fade = 0;
    smoke.moves_every = moves_every;
    SmokeSource source;
    source.position = {0, 0.25f, 0};
    source.density = 3;
    source.ragged = 0;
    effect.elements = {{.id = smoke_id, .name = "Smoke", .body = smoke},
                       {.id = "source", .name = "Source", .body = source}};
    return effect;
}

// A hand that is carried through the box and takes the gas along.
void add_hand(Effect& effect) {
    Orbit way;
    way.position = {0, 0.5f, 0};
    way.radius = 0.3f;
    way.period = 2;
    Push hand;
    hand.position = {};
    hand.rides_on = "way";
    Trigger later; // so that each step has an effect of its own
    later.when = TriggerWhen::at_time;
    later.at = 1000;
    later.then = TriggerThen::set;
    later.what = "source";
    later.parameter = "density";
    effect.elements.push_back({.id = "way", .name = "Way", .body = way});
    effect.elements.push_back({.id = "hand", .name = "Hand", .body = hand});
    effect.elements.push_back({.id = "later", .name = "Later", .body = later});
}

const SmokeVolume& volume_of(const Simulation& simulation, const char* id = smoke_id) {
    return *simulation.find_smoke(id);
}

// The mean speed of all cells, m/s.
double drift(const SmokeVolume& volume) {
    const SmokeSize& size = volume.size();
    double sum = 0;
    for (int z = 0; z < size.z; ++z) {
        for (int y = 0; y < size.y; ++y) {
            for (int x = 0; x < size.x; ++x) {
                sum += double(length(volume.flow(x, y, z)));
            }
        }
    }
    return sum / double(size.cells());
}

bool same_cells(const SmokeVolume& volume, const SmokeCells& cells) {
    return std::equal(
        cells.begin(), cells.end(), volume.cells().begin(),
        [](const SmokeCell& a, const SmokeCell& b) { return a.density == b.density && a.heat == b.heat; });
}

} // namespace

class TestSmokeEffect : public QObject {
    Q_OBJECT

  private slots:
    // Burning sparks: what they give goes with their age, and the gas goes along with them.
    void particles_feed_by_their_age_and_take_the_gas_along() {
        struct Given {
            double density = 0, heat = 0, speed_x = 0;
        };
        const auto given = [](const Curve& density, const Curve& heat, float motion) {
            Emitter sparks = sample::still(0, 1);
            sparks.position = {-0.3f, 0.5f, 0};
            sparks.shape = BirthShape::point;
            sparks.burst_count = 50;
            sparks.burst_repeats = 1;
            sparks.speed = {0.4f, 0.4f};
            sparks.direction = {1, 0, 0};
            sparks.spread = 0;
            Smoke smoke = std::get<Smoke>(steam().elements[0].body);
            smoke.cooling = smoke.lift = smoke.settling = smoke.curl = smoke.fine_swirl = smoke.broad_swirl =
                0;
            SmokeSource source;
            source.shape = FeedShape::particles;
            source.source = "e";
            source.density = 1;
            source.heat = 10;
            source.density_over_life = density;
            source.heat_over_life = heat;
            source.motion = motion;
            Effect effect = sample::effect_of(sparks);
            effect.elements.push_back({.id = smoke_id, .name = "Smoke", .body = smoke});
            effect.elements.push_back({.id = "feed", .name = "Feed", .body = source});
            Simulation simulation;
            simulation.set_effect(sample::shared(effect));
            for (int i = 0; i < 59; ++i) {
                simulation.step();
            }
            const SmokeVolume& volume = volume_of(simulation);
            Given sum;
            const SmokeSize& size = volume.size();
            for (int z = 0; z < size.z; ++z) {
                for (int y = 0; y < size.y; ++y) {
                    for (int x = 0; x < size.x; ++x) {
                        const SmokeCell& cell = volume.cells()[size.packed(x, y, z)];
                        sum.density += double(cell.density);
                        sum.heat += double(cell.heat);
                        sum.speed_x += double(cell.density * volume.flow(x, y, z).x);
                    }
                }
            }
            sum.speed_x /= std::max(sum.density, 1e-9);
            return sum;
        };
        const Curve even = {{{0, 1}, {1, 1}}}, none = {{{0, 0}, {1, 0}}}, burning_out = {{{0, 1}, {1, 0}}};
        const Given all = given(even, even, 0), sparks = given(even, burning_out, 0),
                    cold = given(none, even, 0), moving = given(even, even, 1);
        QVERIFY2(std::fabs(all.heat - 500) < 25, qPrintable(QString::number(all.heat)));
        QVERIFY2(std::fabs(sparks.heat / all.heat - 0.5) < 0.03,
                 qPrintable(QString::number(sparks.heat / all.heat)));
        QVERIFY(std::fabs(sparks.density / all.density - 1) < 0.02);
        QCOMPARE(cold.density, 0.0);
        QVERIFY(cold.heat > 0);
        QVERIFY(std::fabs(all.speed_x) < 0.02);
        QVERIFY2(moving.speed_x > 0.1, qPrintable(QString::number(moving.speed_x)));
    }

    void a_volume_without_gas_costs_nothing() {
        Effect effect = steam();
        add_hand(effect);
        effect.elements[1].muted = true; // the source
        Simulation simulation;
        simulation.set_effect(std::make_shared<const Effect>(effect));
        const auto is_idle = [&] {
            const ElementMeter& meter = simulation.meters().elements[0];
            return meter.ms == 0 && meter.smoke.active_cells == 0 && meter.smoke.pressure_rounds == 0;
        };
        for (int i = 0; i < 30; ++i) {
            simulation.step();
            QVERIFY(is_idle());
        }
        // Gas comes, and goes again.
        effect.elements[1].muted = false;
        simulation.set_effect(std::make_shared<const Effect>(effect));
        simulation.step();
        simulation.step();
        QVERIFY(!is_idle());
        QVERIFY(volume_of(simulation).mass() > 0);
        effect.elements[1].muted = true;
        std::get<Smoke>(effect.elements[0].body).fade = 20;
        std::get<Smoke>(effect.elements[0].body).cooling = 20;
        simulation.set_effect(std::make_shared<const Effect>(effect));
        for (int i = 0; i < 120; ++i) {
            simulation.step();
        }
        QVERIFY(is_idle());
        // Where air carries particles, a hand moves it all the same.
        effect.elements.push_back({.id = "flow", .name = "Flow", .body = GridFlow{.grid = FlowGrid::smoke}});
        simulation.set_effect(std::make_shared<const Effect>(effect));
        for (int i = 0; i < 10; ++i) {
            simulation.step();
        }
        QVERIFY(!is_idle());
    }

    void between_two_moves_it_stays_as_it_is() {
        Simulation simulation = sample::run(steam(3), 0.5);
        int moved = 0;
        for (int i = 0; i < 12; ++i) {
            const SmokeCells before = volume_of(simulation).cells();
            simulation.step();
            moved += same_cells(volume_of(simulation), before) ? 0 : 1;
        }
        QCOMPARE(moved, 4);
    }

    void frames_share_what_has_not_moved_on() {
        Effect effect = steam(3);
        Simulation simulation = sample::run(effect, 0.5);
        Frame frames[12];
        std::set<const FrameSmoke*> written;
        for (Frame& frame : frames) {
            simulation.step();
            simulation.write_frame(frame);
            written.insert(frame.smokes.at(0).get());
        }
        QVERIFY(written.size() >= 4 && written.size() <= 5);
        QVERIFY(frames[0].smokes[0]->density != frames[11].smokes[0]->density);
        // What the picture needs anew does not wait for the next move.
        QVERIFY(frames[11].smokes[0]->heat.empty());
        std::get<Smoke>(effect.elements[0].body).glow = 1;
        simulation.set_effect(sample::shared(effect));
        Frame glowing;
        simulation.write_frame(glowing);
        QVERIFY(!glowing.smokes.at(0)->heat.empty());
    }

    void rare_moves_make_the_same_smoke() {
        const double often = volume_of(sample::run(steam(1), 1)).mass();
        QVERIFY(often > 100);
        for (const int every : {2, 4}) {
            const double rarely = volume_of(sample::run(steam(every), 1)).mass();
            QVERIFY2(std::fabs(rarely / often - 1) < 0.03, qPrintable(QString::number(rarely / often)));
        }
    }

    // A hand that is followed from move to move has the speed that it has, not that of one step.
    void rare_moves_feel_a_hand_as_fast_as_it_is() {
        double drifts[2];
        for (const int every : {1, 2}) {
            Effect effect = steam(every);
            std::get<SmokeSource>(effect.elements[1].body).heat = 0;
            add_hand(effect);
            drifts[every - 1] = drift(volume_of(sample::run(effect, 0.8)));
        }
        QVERIFY(drifts[0] > 0.02);
        QVERIFY2(std::fabs(drifts[1] / drifts[0] - 1) < 0.15,
                 qPrintable(QString::number(drifts[1] / drifts[0])));
    }

    void steps_between_have_their_share_in_the_cost() {
        Simulation simulation = sample::run(steam(2), 0.1);
        for (int i = 0; i < 4; ++i) {
            simulation.step();
            QVERIFY(simulation.meters().smoke_ms > 0);
            QCOMPARE(simulation.meters().elements[0].ms, simulation.meters().smoke_ms);
        }
    }

    void a_falling_slab_pushes_gas_out_at_the_rate_of_its_volume() {
        Effect effect = steam();
        Smoke& smoke = std::get<Smoke>(effect.elements[0].body);
        smoke.position = {0, 1, 0};
        smoke.size = {2, 2, 2};
        smoke.resolution = 32;
        smoke.sides = SmokeSides::ground;
        SmokeSource& source = std::get<SmokeSource>(effect.elements[1].body);
        source.shape = FeedShape::box;
        source.position = {0, 1, 0};
        source.size = {3, 3, 3};
        source.way = FeedWay::keep;
        source.heat = 0;
        Breakable slab;
        slab.position = {0, 2.6f, 0};
        slab.size = {1, 0.5f, 1};
        slab.pieces = 6;
        slab.strength = 1e5f;
        effect.elements.push_back({.id = "slab", .name = "Slab", .body = slab});
        effect.elements.push_back(
            {.id = "fall", .name = "Fall", .body = Gravity{.strength = 9.81f}, .links = {{"slab", 1}}});
        Simulation simulation;
        simulation.set_effect(sample::shared(effect), AssetLibrary().load(effect, ".").assets);
        for (int i = 0; i < 22; ++i) { // its lower half has come into the volume
            simulation.step();
        }
        const SmokeVolume& volume = volume_of(simulation);
        const SmokeSize& size = volume.size();
        double out = 0;
        int covered = 0;
        const auto leave = [&](int axis, int x, int y, int z, int inner_x, int inner_y, int inner_z,
                               int way) {
            if (!volume.is_solid(inner_x, inner_y, inner_z)) {
                out += double(way) * double(volume.faces(axis)[size.at(x, y, z)] * size.cell * size.cell);
            }
        };
        for (int a = 0; a < size.x; ++a) {
            for (int b = 0; b < size.x; ++b) {
                leave(0, 0, a, b, 0, a, b, -1);
                leave(0, size.x, a, b, size.x - 1, a, b, 1);
                leave(2, a, b, 0, a, b, 0, -1);
                leave(2, a, b, size.z, a, b, size.z - 1, 1);
                leave(1, a, size.y, b, a, size.y - 1, b, 1);
                covered += volume.is_solid(a, size.y - 1, b) ? 1 : 0;
            }
        }
        QCOMPARE(size.x, size.y);
        const double covered_m2 = covered * double(size.cell * size.cell);
        QVERIFY(std::abs(covered_m2 - 1) < 0.15);
        const double rate = -double(simulation.bodies("slab").at(0).velocity.y) * covered_m2;
        QVERIFY(rate > 2);
        QVERIFY2(std::abs(out - rate) < 0.1 * rate, qPrintable(QString("%1 of %2 m^3/s").arg(out).arg(rate)));
    }

    void an_edit_goes_on_with_the_smoke_that_is_there() {
        Effect effect = steam(2);
        Simulation simulation = sample::run(effect, 0.5);
        const double before = volume_of(simulation).mass();
        std::get<SmokeSource>(effect.elements[1].body).density = 0;
        effect.elements.insert(effect.elements.begin(), {.id = "new", .name = "New", .body = Push()});
        simulation.set_effect(sample::shared(effect));
        for (int i = 0; i < 10; ++i) {
            simulation.step();
        }
        const double after = volume_of(simulation).mass();
        QVERIFY2(std::fabs(after / before - 1) < 0.05, qPrintable(QString::number(after / before)));
    }

    void what_is_muted_has_no_smoke() {
        Effect effect = steam();
        Simulation simulation = sample::run(effect, 0.1);
        QVERIFY(simulation.find_smoke(smoke_id) != nullptr);
        effect.elements[0].muted = true;
        simulation.set_effect(sample::shared(effect));
        simulation.step();
        QVERIFY(simulation.find_smoke(smoke_id) == nullptr);
        QCOMPARE(simulation.meters().smoke_ms, 0.0);
    }

    void each_volume_has_what_reaches_it() {
        Effect effect = steam();
        Smoke beside = std::get<Smoke>(effect.elements[0].body);
        beside.position = {3, 0.5f, 0};
        effect.elements.push_back({.id = "beside", .name = "Beside", .body = beside});
        const Simulation simulation = sample::run(effect, 0.5);
        QVERIFY(volume_of(simulation).mass() > 10);
        QCOMPARE(volume_of(simulation, "beside").mass(), 0.0);
    }
};

QTEST_APPLESS_MAIN(TestSmokeEffect)
#include "tst_smoke_effect.moc"
