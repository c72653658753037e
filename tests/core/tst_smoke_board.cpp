// Forces of the board on smoke: on paper, beside a particle that feels the same, and as a source among
// others.
#include "core/effect/edit.h"
#include "core/smoke/volume.h"
#include "sample_effects.h"

#include <oneapi/tbb/global_control.h>

#include <QtTest>

#include <cmath>
#include <cstring>
#include <map>
#include <numbers>
#include <optional>

using namespace ember;

namespace {

constexpr const char* smoke_id = "smoke";
constexpr double frame_s = 1.0 / 60;

// A box of 2 m, full of gas that does nothing by itself; a particle that is not there for long; and forces,
// linked to both.
Effect full_of_gas(const std::vector<ElementBody>& forces, float density = 1, int resolution = 32) {
    Effect effect = sample::effect_of(sample::still(1, 0.01f), forces);
    Smoke smoke;
    smoke.position = {0, 1, 0};
    smoke.size = {2, 2, 2};
    smoke.resolution = resolution;
    smoke.sides = SmokeSides::open;
    smoke.fade = smoke.settling = smoke.cooling = smoke.lift = smoke.curl = 0;
    smoke.fine_swirl = smoke.broad_swirl = 0;
    SmokeSource source;
    source.position = {0, 1, 0};
    source.shape = FeedShape::box;
    source.size = {2.2f, 2.2f, 2.2f};
    source.way = FeedWay::keep;
    source.density = density;
    source.heat = 0;
    source.ragged = source.soft = 0;
    for (size_t i = 1; i < effect.elements.size(); ++i) {
        effect.elements[i].links.push_back({smoke_id, 1});
    }
    effect.elements.push_back({.id = smoke_id, .name = "Smoke", .body = smoke});
    effect.elements.push_back({.id = "source", .name = "Source", .body = source});
    return effect;
}

Smoke& smoke_in(Effect& effect) {
    return std::get<Smoke>(const_cast<Element*>(find_element(effect, smoke_id))->body);
}

const SmokeVolume& volume_of(const Simulation& simulation) {
    return *simulation.find_smoke(smoke_id);
}

template <class Visit>
void each_cell(const SmokeVolume& volume, Visit visit) {
    const SmokeSize& size = volume.size();
    for (int z = 0; z < size.z; ++z) {
        for (int y = 0; y < size.y; ++y) {
            for (int x = 0; x < size.x; ++x) {
                visit(size.middle(x, y, z), volume.flow(x, y, z));
            }
        }
    }
}

Vortex upright_vortex() {
    Vortex vortex;
    vortex.position = {0, 1, 0};
    vortex.core = 0.6f;
    vortex.spin = 120;
    vortex.grip = 8;
    return vortex;
}

// What a particle at rest feels of the sum of all forces.
std::vector<Vec3> felt(const Simulation& simulation, const std::vector<Vec3>& places) {
    FieldOrder order;
    order.source = "e";
    order.places = places;
    return simulation.read_field(order).vectors;
}

} // namespace

class TestSmokeBoard : public QObject {
    Q_OBJECT

  private slots:
    void a_vortex_turns_the_gas_as_fast_as_it_says() {
        Vortex vortex = upright_vortex();
        vortex.grip = 20;
        const Simulation simulation = sample::run(full_of_gas({vortex}), 1.5);
        const double wanted = 120 * std::numbers::pi / 180;
        int seen = 0;
        each_cell(volume_of(simulation), [&](const Vec3& place, const Vec3& flow) {
            const double square = double(place.x * place.x + place.z * place.z), radius = std::sqrt(square);
            if (radius > 0.15 && radius < 0.5 && std::fabs(place.y - 1) < 0.5f) {
                const double turns = double(place.z * flow.x - place.x * flow.z) / square;
                QVERIFY2(std::fabs(turns - wanted) < 0.03 * wanted, qPrintable(QString::number(turns)));
                ++seen;
            }
        });
        QVERIFY(seen > 1000);
    }

    void a_grip_has_the_gas_by_its_law() {
        Vortex vortex = upright_vortex();
        vortex.grip = 3;
        const double after_s = 0.4;
        const Simulation simulation = sample::run(full_of_gas({vortex}), after_s);
        const double wanted = 120 * std::numbers::pi / 180 * (1 - std::exp(-3 * after_s));
        each_cell(volume_of(simulation), [&](const Vec3& place, const Vec3& flow) {
            const double square = double(place.x * place.x + place.z * place.z), radius = std::sqrt(square);
            if (radius > 0.2 && radius < 0.4 && std::fabs(place.y - 1) < 0.3f) {
                const double turns = double(place.z * flow.x - place.x * flow.z) / square;
                QVERIFY2(std::fabs(turns - wanted) < 0.03 * wanted, qPrintable(QString::number(turns)));
            }
        });
    }

    void wind_reaches_its_speed() {
        // Still air comes in from outside and is taken along on its way to the middle.
        Wind wind;
        wind.speed = 2;
        wind.grip = 60;
        wind.gusts = 0;
        const double wanted = 2, after_s = 1;
        const Simulation simulation = sample::run(full_of_gas({wind}), after_s);
        const SmokeSize& size = volume_of(simulation).size();
        const Vec3 flow = volume_of(simulation).flow(size.x / 2, size.y / 2, size.z / 2);
        QVERIFY2(std::fabs(double(flow.x) - wanted) < 0.03 * wanted, qPrintable(QString::number(flow.x)));
        QVERIFY(std::fabs(flow.y) < 0.03f && std::fabs(flow.z) < 0.03f);
    }

    void gravity_pulls_gas_by_its_density_data() {
        QTest::addColumn<float>("up");
        QTest::addColumn<float>("density");
        QTest::newRow("dense gas sinks") << -1.0f << 1.0f;
        QTest::newRow("turned round it lifts") << 1.0f << 1.0f;
        QTest::newRow("thin gas sinks less") << -1.0f << 0.25f;
    }
    void gravity_pulls_gas_by_its_density() {
        QFETCH(float, up);
        QFETCH(float, density);
        // A ball of gas in clear air, pulled by half of a gravity, and by a weight of its own that is the
        // same.
        const auto falling = [&](bool is_linked) {
            Gravity gravity;
            gravity.direction = {0, up, 0};
            gravity.strength = 4;
            Effect effect = full_of_gas({gravity}, density);
            effect.elements[1].links = {{smoke_id, is_linked ? 0.5f : 0.0f}};
            smoke_in(effect).weight = is_linked ? 0 : -2 * up;
            SmokeSource& source = std::get<SmokeSource>(effect.elements.back().body);
            source.shape = FeedShape::ball;
            source.size = {0.8f, 0.8f, 0.8f};
            return sample::run(effect, 0.4);
        };
        const Simulation linked = falling(true), weighed = falling(false);
        const SmokeSize& size = volume_of(linked).size();
        const float now = volume_of(linked).flow(size.x / 2, size.y / 2, size.z / 2).y;
        const float wanted = volume_of(weighed).flow(size.x / 2, size.y / 2, size.z / 2).y;
        QVERIFY(wanted * up > 0.1f * density);
        QVERIFY2(std::fabs(now - wanted) < 0.03f * std::fabs(wanted), qPrintable(QString::number(now)));
    }

    void reach_fades_for_gas_as_it_does_for_particles() {
        // A vortex that fades along its radius moves gas in circles whatever the fade: the pressure lets it
        // be.
        Vortex vortex = upright_vortex();
        vortex.core = 3;
        vortex.reach = ReachShape::ball;
        vortex.reach_position = {0, 1, 0};
        vortex.reach_size = {0.4f, 0.4f, 0.4f};
        vortex.fade_distance = 0.7f;
        const Simulation simulation = sample::run(full_of_gas({vortex}, 1, 64), frame_s);
        const SmokeVolume& volume = volume_of(simulation);
        const SmokeSize& size = volume.size();
        // A vortex has the gas by its grip, exactly for the length of the step.
        const double taken_s = (1 - std::exp(-8 * frame_s)) / 8;
        for (int i = 0; i < 10; ++i) {
            const int x = size.x / 2 + 5 + 2 * i;
            const Vec3 place = size.middle(x, size.y / 2, size.z / 2);
            const double force = double(felt(simulation, {place})[0].z) * taken_s;
            const double flow = double(volume.flow(x, size.y / 2, size.z / 2).z);
            QVERIFY(std::fabs(force) > 1e-3);
            QVERIFY2(std::fabs(flow - force) < 0.05 * std::fabs(force),
                     qPrintable(QString("%1 m: %2 of %3").arg(place.x).arg(flow).arg(force)));
        }
        QVERIFY(std::fabs(volume.flow(size.x - 2, size.y / 2, size.z / 2).z) < 1e-3f);
    }

    void turbulence_stirs_gas_as_it_does_particles_data() {
        QTest::addColumn<int>("octaves");
        QTest::addColumn<double>("most_apart");
        QTest::newRow("one octave") << 1 << 0.05;
        QTest::newRow("three octaves, the finest hardly wider than cells") << 3 << 0.14;
    }
    void turbulence_stirs_gas_as_it_does_particles() {
        QFETCH(int, octaves);
        QFETCH(double, most_apart);
        Turbulence turbulence;
        turbulence.eddy_size = 0.9f;
        turbulence.octaves = octaves;
        const Simulation simulation = sample::run(full_of_gas({turbulence}, 1, 64), frame_s);
        std::vector<Vec3> places, flows;
        each_cell(volume_of(simulation), [&](const Vec3& place, const Vec3& flow) {
            if (length(place - Vec3{0, 1, 0}) < 0.7f) {
                places.push_back(place);
                flows.push_back(flow);
            }
        });
        const std::vector<Vec3> forces = felt(simulation, places);
        double difference = 0, sum = 0;
        for (size_t i = 0; i < places.size(); ++i) {
            const Vec3 wanted = forces[i] * float(frame_s);
            difference += double(dot(flows[i] - wanted, flows[i] - wanted));
            sum += double(dot(wanted, wanted));
        }
        QVERIFY2(std::sqrt(difference / sum) < most_apart,
                 qPrintable(QString::number(std::sqrt(difference / sum))));
    }

    void flows_move_clear_air_and_pulls_do_not() {
        Wind wind;
        wind.reach = ReachShape::ball;
        wind.reach_position = {0.6f, 1, 0};
        wind.reach_size = {0.4f, 0.4f, 0.4f};
        wind.fade_distance = 0.2f;
        wind.grip = 10;
        Pull pull;
        pull.position = {-0.6f, 1, 0.6f};
        const auto speed_beside_gas = [](const ElementBody& force, const Vec3& place) {
            Effect effect = full_of_gas({force}, 1, 48);
            SmokeSource& source = std::get<SmokeSource>(effect.elements.back().body);
            source.position = {-0.6f, 0.4f, -0.6f};
            source.size = {0.2f, 0.2f, 0.2f};
            const Simulation simulation = sample::run(effect, 0.1);
            const SmokeSize& size = volume_of(simulation).size();
            const Vec3 at = (place - size.low) / size.cell;
            return length(volume_of(simulation).flow(int(at.x), int(at.y), int(at.z)));
        };
        QVERIFY(speed_beside_gas(wind, {0.6f, 1, 0}) > 0.5f);
        QVERIFY(speed_beside_gas(pull, {-0.6f, 1, 0.6f}) < 0.02f);
    }

    void whatever_acts_no_gas_piles_up() {
        Pull pull;
        pull.position = {0.3f, 1, 0};
        Spring spring;
        spring.position = {0, 1.2f, 0};
        PathFlow path;
        const Simulation simulation = sample::run(
            full_of_gas({upright_vortex(), pull, spring, path, Wind(), Turbulence(), Drag(), Gravity()}),
            0.5);
        const SmokeVolume& volume = volume_of(simulation);
        const SmokeSize& size = volume.size();
        double most = 0, fastest = 0;
        for (int z = 0; z < size.z; ++z) {
            for (int y = 0; y < size.y; ++y) {
                for (int x = 0; x < size.x; ++x) {
                    most = std::max(most, std::fabs(double(volume.outflow(x, y, z))));
                    fastest = std::max(fastest, double(length(volume.flow(x, y, z))));
                }
            }
        }
        QVERIFY(fastest > 0.3);
        QVERIFY2(most < 0.02 * fastest, qPrintable(QString("%1 of %2 m/s").arg(most).arg(fastest)));
    }

    // A wall across a wind: tight it lets nothing through, porous less the tighter it is, unlinked it is not
    // there.
    void colliders_hold_gas_as_tightly_as_they_are_linked() {
        const auto through = [](std::optional<float> weight) {
            Wind wind;
            wind.grip = 4;
            wind.gusts = 0;
            Effect effect = full_of_gas({wind});
            Box wall;
            wall.position = {0, 1, 0};
            wall.size = {0.3f, 4, 4};
            Element element = {.id = "wall", .name = "Wall", .body = wall};
            if (weight) {
                element.links = {{smoke_id, *weight}};
            }
            effect.elements.push_back(element);
            const Simulation simulation = sample::run(effect, 0.3);
            const SmokeSize& size = volume_of(simulation).size();
            return volume_of(simulation).flow(size.x / 2, size.y / 2, size.z / 2).x;
        };
        const float free = through({}), none = through(0), slow = through(0.2f), slower = through(0.6f);
        QVERIFY(free > 1);
        QCOMPARE(none, free);
        QVERIFY2(slow < 0.95f * free && slower < 0.75f * slow && slower > 0.01f,
                 qPrintable(QString("%1, %2, %3").arg(free).arg(slow).arg(slower)));
        QVERIFY(std::fabs(through(1)) < 1e-3f);
    }

    void absurd_forces_are_contained() {
        Vortex vortex = upright_vortex();
        vortex.spin = 1e5f;
        vortex.grip = 1e4f;
        Gravity gravity;
        gravity.strength = 1000;
        Pull pull;
        pull.strength = 1e5f;
        pull.law = PullLaw::linear;
        const Simulation simulation = sample::run(full_of_gas({vortex, gravity, pull}, 900), 0.5);
        each_cell(volume_of(simulation),
                  [](const Vec3&, const Vec3& flow) { QVERIFY(std::isfinite(dot(flow, flow))); });
        QVERIFY(std::isfinite(volume_of(simulation).mass()));
    }

    void threads_and_snapshots_go_on_to_the_byte_data() {
        QTest::addColumn<bool>("all");
        QTest::newRow("forces of all kinds") << true;
        QTest::newRow("turbulence alone") << false;
    }
    void threads_and_snapshots_go_on_to_the_byte() {
        QFETCH(bool, all);
        Effect effect =
            all ? full_of_gas({upright_vortex(), Turbulence(), Gravity()}) : full_of_gas({Turbulence()});
        SmokeSource& source = std::get<SmokeSource>(effect.elements.back().body);
        source.shape = FeedShape::ball;
        source.size = {0.6f, 0.6f, 0.6f};
        const auto cells_after = [&](size_t threads, bool is_kept) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
            Simulation played = sample::run(effect, 0.5), restored;
            restored.set_effect(sample::shared(effect));
            restored.restore(*played.snapshot());
            Simulation& goes_on = is_kept ? restored : played;
            for (int i = 0; i < 30; ++i) {
                goes_on.step();
            }
            return volume_of(goes_on).cells();
        };
        const SmokeCells wanted = cells_after(1, false);
        for (const SmokeCells& found : {cells_after(2, false), cells_after(2, true)}) {
            QVERIFY(std::memcmp(found.data(), wanted.data(), wanted.size() * sizeof(SmokeCell)) == 0);
        }
    }

    void what_a_force_takes_is_its_own_cost() {
        Effect effect = full_of_gas({upright_vortex(), Turbulence()});
        smoke_in(effect).moves_every = 2;
        const Simulation simulation = sample::run(effect, 0.2);
        QVERIFY(simulation.meters().elements[1].ms > 0 && simulation.meters().elements[2].ms > 0);
        double sum = 0;
        for (const ElementMeter& meter : simulation.meters().elements) {
            sum += meter.ms;
        }
        QVERIFY(sum <= simulation.meters().step_ms * 1.01);
        effect.elements[1].muted = true;
        QVERIFY(sample::run(effect, 0.2).meters().elements[1].ms == 0);
    }

    void smoke_is_soloed_and_linked_like_other_sources() {
        Effect effect = full_of_gas({Wind()});
        effect.elements[0].solo = true; // the emitter
        QVERIFY(sample::run(effect, 0.1).find_smoke(smoke_id) == nullptr);
        effect.elements[0].solo = false;
        const_cast<Element*>(find_element(effect, smoke_id))->solo = true;
        const Simulation simulation = sample::run(effect, 0.1);
        QVERIFY(simulation.find_smoke(smoke_id) != nullptr);
        QCOMPARE(simulation.meters().particles, size_t(0));

        // New forces take hold of smoke but for weight and drag; what needs single parts never does.
        for (const auto& [type, links] : std::map<const char*, bool>{{"vortex", true},
                                                                     {"wind", true},
                                                                     {"gravity", false},
                                                                     {"drag", false},
                                                                     {"jitter", false},
                                                                     {"waves", false},
                                                                     {"flock", false},
                                                                     {"plane", true}}) {
            std::string id;
            const ElementType* found = find_type(type);
            if (found == nullptr) {
                QFAIL(type);
            }
            const Effect more = with_new_element(effect, *found, id);
            QVERIFY2((find_link(*find_element(more, id), smoke_id) != nullptr) == links, type);
        }
        const Element& smoke = *find_element(effect, smoke_id);
        QVERIFY(can_link({.body = Gravity()}, smoke) && can_link({.body = Drag()}, smoke));
        QVERIFY(std::string(link_refusal({.body = Jitter()}, smoke)).find("single parts") !=
                std::string::npos);
        QVERIFY(can_link({.body = Plane()}, smoke) && !can_link({.body = Contacts()}, smoke));
        QVERIFY(can_link({.body = GridFlow()}, smoke) &&
                !can_link({.body = GridFlow{.grid = FlowGrid::smoke}}, smoke));
        // A copy of a volume is held by what held the first.
        std::string copy;
        const Effect twice = with_duplicate(effect, smoke_id, copy);
        QVERIFY(find_link(twice.elements[1], copy) != nullptr);
    }

    void a_lens_sees_what_acts_on_smoke() {
        Effect effect = full_of_gas({upright_vortex()});
        effect.elements[1].links = {{smoke_id, 0.5f}};
        const Simulation simulation = sample::run(effect, 0.1);
        FieldOrder order;
        order.source = smoke_id;
        order.places = {{0.3f, 1, 0}};
        const Vec3 vector = simulation.read_field(order).vectors[0];
        // Half of the grip, to the air's speed there.
        const double wanted = 0.3 * 120 * std::numbers::pi / 180 * 8 * 0.5;
        QVERIFY2(std::fabs(double(length(vector)) - wanted) < 0.01 * wanted,
                 qPrintable(QString::number(length(vector))));
        order.source.clear();
        order.influence = "i1";
        QCOMPARE(simulation.read_field(order).vectors.size(), size_t(1));
    }
};

QTEST_APPLESS_MAIN(TestSmokeBoard)
#include "tst_smoke_board.moc"
