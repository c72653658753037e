// Forces that can be checked on paper.
#include "sample_effects.h"

#include "core/scene/program.h"

#include <QtTest>

#include <numbers>

using namespace ember;
using namespace ember::sample;

namespace {

constexpr double two_pi = 2 * std::numbers::pi;

double error(double found, double expected) {
    return std::abs(found - expected) / std::abs(expected);
}

// One particle that starts at a place with a velocity and is never replaced.
Emitter thrown(Vec3 position, Vec3 velocity) {
    Emitter emitter = single_particle(position);
    emitter.direction = velocity;
    emitter.speed = {length(velocity), length(velocity)};
    return emitter;
}

// Many particles that start alike.
Emitter crowd(int count, Vec3 position) {
    Emitter emitter = single_particle(position);
    emitter.rate = 0;
    emitter.burst_count = count;
    emitter.capacity = count;
    return emitter;
}

// The acceleration that a force gives to a particle at rest.
Vec3 push_of(const ElementBody& body, Vec3 place) {
    Effect effect = effect_of(single_particle(place), {body});
    Simulation simulation;
    simulation.set_effect(shared(effect));
    simulation.step();
    simulation.step();
    const auto p = particles(simulation).at(0);
    return p.velocity * 60.0f;
}

} // namespace

class TestForces : public QObject {
    Q_OBJECT

  private slots:
    void orbit_under_an_inverse_square_pull_keeps_its_radius_for_twenty_turns() {
        const float core = 0.001f, strength = 4;
        Pull pull;
        pull.strength = strength;
        pull.core = core;
        const double speed = std::sqrt(double(strength)); // at 1 m
        const double turn_s = two_pi / speed;
        Simulation simulation = run(effect_of(thrown({1, 0, 0}, {0, 0, float(speed)}), {pull}), 1.0 / 60);
        float low = 1, high = 1;
        for (int i = 0; i < int(20 * turn_s * 60); ++i) {
            simulation.step();
            const float radius = length(particles(simulation).at(0).position);
            low = std::min(low, radius);
            high = std::max(high, radius);
        }
        QVERIFY2(low > 0.99f && high < 1.01f, qPrintable(QStringLiteral("%1 %2").arg(low).arg(high)));
    }

    void pull_is_finite_at_its_centre_and_follows_its_law_data() {
        QTest::addColumn<int>("law");
        QTest::addColumn<double>("near");
        QTest::addColumn<double>("far");
        QTest::newRow("constant") << int(PullLaw::constant) << 5.0 << 5.0;
        QTest::newRow("linear") << int(PullLaw::linear) << 2.5 << 20.0;
        QTest::newRow("inverse square") << int(PullLaw::inverse_square) << 20.0 << 0.3125;
    }
    void pull_is_finite_at_its_centre_and_follows_its_law() {
        QFETCH(int, law);
        QFETCH(double, near);
        QFETCH(double, far);
        Pull pull;
        pull.law = PullLaw(law);
        pull.strength = 5;
        pull.core = 0.001f;
        QVERIFY(error(-double(push_of(pull, {0.5f, 0, 0}).x), near) < 0.01);
        QVERIFY(error(-double(push_of(pull, {0, 0, 4}).z), far) < 0.01);
        QVERIFY(length(push_of(pull, {0, 0, 0})) < 1e-3f);
    }

    void vortex_turns_tight_followers_at_the_angular_velocity_it_states() {
        Vortex vortex;
        vortex.spin = 90;
        vortex.core = 2;
        vortex.grip = 400;
        const Simulation simulation = run(effect_of(single_particle({1, 0, 0}), {vortex}), 1 + 1.0 / 60);
        const auto p = particles(simulation).at(0);
        // Right-handed about y: from x towards -z.
        const double angle = std::atan2(-double(p.position.z), double(p.position.x));
        QVERIFY2(error(angle, std::numbers::pi / 2) < 0.01, qPrintable(QString::number(angle)));
    }

    void vortex_slows_down_with_the_distance_outside_of_its_core() {
        Vortex vortex;
        vortex.spin = 90;
        vortex.core = 0.5f;
        vortex.grip = 400;
        const Simulation simulation = run(effect_of(single_particle({2, 0, 0}), {vortex}), 2);
        // Speed of the core's edge times core over distance.
        const double expected = std::numbers::pi / 2 * 0.5 * 0.5 / 2;
        QVERIFY(error(double(length(particles(simulation).at(0).velocity)), expected) < 0.02);
    }

    void inflow_brings_a_spiral_in_at_its_rate() {
        Vortex vortex;
        vortex.spin = 360;
        vortex.core = 5;
        vortex.inflow = 0.25f;
        vortex.grip = 900;
        const Simulation simulation = run(effect_of(single_particle({1.5f, 0, 0}), {vortex}), 3 + 1.0 / 60);
        const double radius = double(length(particles(simulation).at(0).position));
        // Followers that lag are thrown outwards by w^2 r / grip: r' = -inflow + k r.
        const double k = two_pi * two_pi / 900;
        const double expected = (1.5 - 0.25 / k) * std::exp(3 * k) + 0.25 / k;
        QVERIFY2(error(radius, expected) < 0.015, qPrintable(QString::number(radius / expected)));
        vortex.spin = 0;
        const Simulation still = run(effect_of(single_particle({1.5f, 0, 0}), {vortex}), 3 + 1.0 / 60);
        QVERIFY(error(double(length(particles(still).at(0).position)), 0.75) < 0.01);
    }

    void vortex_in_a_plane_flattens_and_about_a_point_fades_upwards() {
        Vortex vortex;
        vortex.about = VortexAbout::plane;
        vortex.lift = 1;
        vortex.spin = 0;
        vortex.grip = 50;
        const Simulation flat = run(effect_of(single_particle({0.5f, 1, 0}), {vortex}), 4);
        QVERIFY(std::abs(particles(flat).at(0).position.y) < 0.05f);
        vortex.about = VortexAbout::point;
        vortex.core = 0.5f;
        vortex.spin = 90;
        vortex.lift = 0;
        const auto speed_at = [&](float height) {
            return length(
                particles(run(effect_of(single_particle({0.3f, height, 0}), {vortex}), 0.3)).at(0).velocity);
        };
        QVERIFY(speed_at(3) < 0.1f * speed_at(0));
    }

    void spring_swings_at_its_frequency_data() {
        QTest::addColumn<double>("frequency");
        QTest::newRow("slow") << 0.5;
        QTest::newRow("medium") << 3.0;
        QTest::newRow("eight steps a swing") << 7.5;
    }
    void spring_swings_at_its_frequency() {
        QFETCH(double, frequency);
        Spring spring;
        spring.frequency = float(frequency);
        spring.damping = 0;
        Simulation simulation = run(effect_of(single_particle({1, 0, 0}), {spring}), 1.0 / 60);
        // From the zero crossings of ten seconds.
        std::vector<double> crossings;
        float before = particles(simulation).at(0).position.x;
        for (int i = 1; i <= 600; ++i) {
            simulation.step();
            const float now = particles(simulation).at(0).position.x;
            if (before > 0 && now <= 0) {
                crossings.push_back(i - 1 + double(before / (before - now)));
            }
            before = now;
        }
        const double swings_per_s =
            double(crossings.size() - 1) / (crossings.back() - crossings.front()) * 60;
        QVERIFY2(error(swings_per_s, frequency) < 0.005, qPrintable(QString::number(swings_per_s)));
    }

    void spring_to_a_plane_holds_one_axis_and_leaves_the_others_free() {
        Spring spring;
        spring.to = SpringTo::plane;
        spring.frequency = 2;
        spring.damping = 1;
        const Simulation simulation = run(effect_of(thrown({0, 1, 0}, {1, 0, 0}), {spring}), 3 + 1.0 / 60);
        const auto p = particles(simulation).at(0);
        QVERIFY(std::abs(p.position.y) < 0.01f);
        QVERIFY(error(double(p.position.x), 3) < 0.001);
    }

    void terminal_velocity_under_wind_and_drag() {
        const Wind wind{.direction = {1, 0, 0}, .speed = 6, .grip = 2, .gusts = 0};
        const Simulation simulation = run(effect_of(single_particle({}), {wind, Drag{.linear = 1}}), 8);
        QVERIFY(error(double(particles(simulation).at(0).velocity.x), 2.0 * 6 / 3) < 0.001);
        // Falling against quadratic drag: v^2 = g / k.
        const Simulation falling =
            run(effect_of(single_particle({}), {Gravity{}, Drag{.linear = 0, .quadratic = 0.5f}}), 8);
        QVERIFY(error(-double(particles(falling).at(0).velocity.y), std::sqrt(9.81 / 0.5)) < 0.01);
    }

    void brake_brings_particles_to_a_full_stop() {
        const Simulation simulation =
            run(effect_of(thrown({}, {2, 0, 0}), {Drag{.linear = 0, .brake = 4}}), 1);
        const auto p = particles(simulation).at(0);
        QVERIFY(length(p.velocity) < 1e-3f);
        QVERIFY2(error(double(p.position.x), 0.5) < 0.04, qPrintable(QString::number(double(p.position.x))));
    }

    void waves_displace_and_leave_velocities_alone() {
        Waves waves;
        waves.speed = 1;
        const Simulation simulation = run(effect_of(thrown({}, {1, 0, 0}), {waves}), 2);
        const auto p = particles(simulation).at(0);
        QCOMPARE(p.velocity, Vec3(1, 0, 0));
        QVERIFY(length(p.position - Vec3{p.age, 0, 0}) > 0.05f);
    }

    void path_flow_keeps_a_particle_at_a_helix_for_ten_turns() {
        PathFlow flow;
        flow.turns = 12;
        flow.height = 6;
        flow.radius = flow.end_radius = 1;
        flow.speed = 3;
        flow.pull = 8;
        flow.grip = 60;
        const double ten_turns_m = 10 * std::sqrt(two_pi * two_pi + 0.25);
        Simulation simulation = run(effect_of(single_particle({1, 0, 0}), {flow}), 1.0 / 60);
        float farthest = 0;
        for (int i = 0; i < int(ten_turns_m / 3 * 60); ++i) {
            simulation.step();
            const Vec3 p = particles(simulation).at(0).position;
            // The helix at the particle's height.
            const double angle = two_pi * double(p.y) / 0.5;
            const Vec3 at = {float(std::cos(angle)), p.y, float(std::sin(angle))};
            farthest = std::max(farthest, length(p - at));
        }
        // Centrifugal drift is v^2 / (r grip pull) = 0.02 m.
        QVERIFY2(farthest < 0.06f, qPrintable(QString::number(double(farthest))));
        QVERIFY(error(double(particles(simulation).at(0).position.y), 5) < 0.03);
    }

    void a_path_flow_ends_as_it_says() {
        PathFlow flow;
        flow.path = PathKind::points;
        flow.points = {{0, 0, 0}, {1, 0, 0}, {2, 0, 0}, {3, 0, 0}};
        const auto after = [&](FlowEnd end, double seconds) {
            flow.flow_end = end;
            return particles(run(effect_of(single_particle({0.1f, 0, 0}), {flow}), seconds));
        };
        const auto stopped = after(FlowEnd::stop, 6).at(0);
        QVERIFY2(std::abs(stopped.position.x - 3) < 0.1f && length(stopped.velocity) < 0.05f,
                 qPrintable(QString::number(stopped.position.x)));
        const auto gone = after(FlowEnd::go_on, 4).at(0);
        QVERIFY(gone.position.x > 6 && std::abs(gone.velocity.x - 2) < 0.1f);
        QVERIFY(after(FlowEnd::die, 4).empty() || after(FlowEnd::die, 4).at(0).age < 2.5f);
        // Round and round: a square.
        flow.points = {{0, 0, 0}, {2, 0, 0}, {2, 0, 2}, {0, 0, 2}};
        flow.flow_end = FlowEnd::loop;
        Simulation simulation = run(effect_of(single_particle({0.5f, 0, 0}), {flow}), 0);
        int rounds = 0;
        float before = 0;
        for (int i = 0; i < 60 * 13; ++i) {
            simulation.step();
            const Vec3 p = particles(simulation).at(0).position;
            QVERIFY(p.x > -1 && p.x < 3 && p.z > -1 && p.z < 3);
            rounds += before < 1 && p.x >= 1 && p.z < 1 ? 1 : 0;
            before = p.z < 1 ? p.x : 2;
        }
        QVERIFY2(rounds >= 2, qPrintable(QString::number(rounds)));
    }

    void a_tube_keeps_a_stream_thick() {
        PathFlow flow;
        flow.path = PathKind::points;
        flow.points = {{0, 0, 0}, {10, 0, 0}, {20, 0, 0}, {40, 0, 0}};
        const auto widths = [&](float tube) {
            flow.tube = tube;
            Emitter emitter = crowd(400, {1, 0, 0});
            emitter.shape = BirthShape::ball;
            emitter.size = {1, 1, 1};
            float most = 0;
            double mean = 0;
            for (const auto& p : particles(run(effect_of(emitter, {flow}), 4))) {
                const float aside = std::hypot(p.position.y, p.position.z);
                most = std::max(most, aside);
                mean += double(aside) / 400;
            }
            return std::pair(most, mean);
        };
        QVERIFY(widths(0).first < 0.02f); // a wire
        QVERIFY(widths(0.3f).first < 0.32f && widths(0.3f).second > 0.15);
    }

    void jitter_and_drag_do_not_depend_on_the_step() {
        const auto spread = [](double step_s) {
            const Effect effect = effect_of(crowd(60000, {}), {Jitter{.strength = 2}, Drag{.linear = 0.7f}});
            const Simulation simulation = run(effect, 2, best_isa(), step_s);
            double square = 0, speed = 0;
            for (const auto& p : particles(simulation)) {
                square += double(dot(p.position, p.position)) / 60000;
                speed += double(dot(p.velocity, p.velocity)) / 60000;
            }
            return std::pair(square, speed);
        };
        const auto [square, speed] = spread(1.0 / 60);
        const auto [half_square, half_speed] = spread(1.0 / 120);
        QVERIFY2(error(half_square, square) < 0.02, qPrintable(QString::number(half_square / square)));
        QVERIFY2(error(half_speed, speed) < 0.02, qPrintable(QString::number(half_speed / speed)));
        // Ornstein-Uhlenbeck: <v^2> = 3 s^2 / (2 k) (1 - e^(-2 k t)).
        const double expected = 3 * 4 / 1.4 * (1 - std::exp(-2 * 0.7 * (2 - 1.0 / 60)));
        QVERIFY2(error(speed, expected) < 0.02, qPrintable(QString::number(speed / expected)));
    }

    void reach_fades_as_stated_data() {
        QTest::addColumn<int>("shape");
        QTest::addColumn<int>("side");
        for (const auto shape : {ReachShape::ball, ReachShape::box, ReachShape::slab}) {
            for (const auto side : {ReachSide::inside, ReachSide::outside}) {
                QTest::addRow("%d %d", int(shape), int(side)) << int(shape) << int(side);
            }
        }
    }
    // Along y, where the surface of each shape is one metre from its middle.
    void reach_fades_as_stated() {
        QFETCH(int, shape);
        QFETCH(int, side);
        for (const Fade fade : {Fade::power, Fade::curve, Fade::stop}) {
            for (int i = 0; i < 10; ++i) {
                const float distance = 0.05f + 0.3f * float(i); // from the middle
                Gravity gravity{.strength = 60};
                gravity.reach = ReachShape(shape);
                gravity.side = ReachSide(side);
                gravity.reach_position = {1, 2, 3};
                gravity.reach_size = {2, 2, 2};
                gravity.fade_distance = 0.8f;
                gravity.fade = fade;
                gravity.fade_power = 2;
                gravity.fade_curve.points = {{0, 1}, {0.5f, 0.25f}, {1, 0}};
                const float out = (distance - 1) * (gravity.side == ReachSide::inside ? 1 : -1);
                const float u = std::clamp(out / 0.8f, 0.0f, 1.0f);
                float expected = fade == Fade::power   ? (1 - u) * (1 - u)
                                 : fade == Fade::curve ? gravity.fade_curve.at(u)
                                                       : (out > 0.8f ? 0.0f : 1.0f);
                const Vec3 push = push_of(gravity, {1, 2 + distance, 3});
                QVERIFY2(std::abs(-push.y / 60 - expected) < 0.01f,
                         qPrintable(QStringLiteral("fade %1 at %2: %3 for %4")
                                        .arg(int(fade))
                                        .arg(distance)
                                        .arg(-push.y / 60)
                                        .arg(expected)));
            }
        }
    }

    void heavy_particles_are_moved_less_by_all_but_gravity() {
        Emitter heavy = single_particle({});
        heavy.mass = {4, 4};
        const Wind wind{.direction = {1, 0, 0}, .speed = 10, .grip = 0.1f, .gusts = 0};
        const auto light = particles(run(effect_of(single_particle({}), {wind, Gravity{}}), 0.5)).at(0);
        const auto slow = particles(run(effect_of(heavy, {wind, Gravity{}}), 0.5)).at(0);
        QVERIFY(error(double(slow.velocity.x), double(light.velocity.x) / 4) < 0.02);
        QVERIFY(error(double(slow.velocity.y), double(light.velocity.y)) < 0.05);
    }

    void hold_and_speed_limit_follow_a_particles_life() {
        Emitter emitter = single_particle({});
        emitter.lifetime = {2, 2};
        emitter.hold_over_life.points = {{0, 1}, {0.499f, 1}, {0.5f, 0}, {1, 0}};
        const Wind wind{.direction = {1, 0, 0}, .speed = 10, .grip = 0.1f, .gusts = 0};
        const float at_one = particles(run(effect_of(emitter, {wind}), 1.05)).at(0).velocity.x;
        const float later = particles(run(effect_of(emitter, {wind}), 1.8)).at(0).velocity.x;
        QVERIFY(at_one > 0.9f);
        QVERIFY(std::abs(later - at_one) < 0.01f);
        Emitter limited = single_particle({});
        limited.speed_limit = 3;
        const auto fallen = particles(run(effect_of(limited, {Gravity{}}), 2)).at(0);
        QVERIFY(std::abs(length(fallen.velocity) - 3) < 1e-4f);
    }

    void flock_keeps_apart_aligns_and_flees() {
        Emitter emitter = crowd(400, {0, 0, 0});
        emitter.shape = BirthShape::ball;
        emitter.size = {1, 1, 1};
        emitter.spread = 180;
        emitter.speed = {0.5f, 1};
        Flock flock;
        flock.alignment = 4;
        const Simulation simulation = run(effect_of(emitter, {flock}), 6);
        // Everyone's heading is close to those of its neighbours.
        const auto shoal = particles(simulation);
        double agreement = 0;
        int pairs = 0;
        for (size_t i = 0; i < shoal.size(); ++i) {
            for (size_t j = 0; j < i; ++j) {
                if (length(shoal[i].position - shoal[j].position) < flock.view) {
                    agreement += double(dot(normalized(shoal[i].velocity), normalized(shoal[j].velocity)));
                    ++pairs;
                }
            }
            QVERIFY(error(double(length(shoal[i].velocity)), 1) < 0.6);
        }
        QVERIFY(pairs > 400);
        QVERIFY2(agreement / pairs > 0.9, qPrintable(QString::number(agreement / pairs)));

        flock.fears = "lamp";
        flock.cohesion = 0;
        flock.alignment = 0;
        Effect afraid = effect_of(emitter, {flock});
        afraid.elements.push_back({.id = "lamp", .name = "Lamp", .body = Orbit{{}, 0}});
        const Simulation fled = run(afraid, 2);
        for (const auto& p : particles(fled)) {
            QVERIFY(length(p.position) > 0.6f);
        }
    }

    void flock_is_as_if_everyone_looked_at_everyone() {
        Emitter emitter = crowd(300, {0, 0, 0});
        emitter.shape = BirthShape::box;
        emitter.size = {2, 2, 2};
        Flock flock;
        flock.separation = 2;
        flock.cohesion = 3;
        flock.cruise_grip = 0;
        flock.alignment = 0;
        Simulation simulation = run(effect_of(emitter, {flock}), 1.0 / 60);
        const auto before = particles(simulation);
        // The first step has already pushed the newborn; from rest the next one adds what this state asks
        // for.
        simulation.step();
        const auto after = particles(simulation);
        const float near = flock.view * flock.separation_share;
        for (size_t i = 0; i < before.size(); i += 7) {
            Vec3 push, middle;
            int seen = 0;
            for (size_t j = 0; j < before.size(); ++j) {
                const Vec3 way = before[j].position - before[i].position;
                const float distance = length(way);
                if (j == i || distance >= flock.view) {
                    continue;
                }
                ++seen;
                middle += way;
                if (distance < near) {
                    push -= way * ((1 - distance / near) / distance * flock.separation);
                }
            }
            if (seen > 0) {
                push += middle * (flock.cohesion / (float(seen) * flock.view));
            }
            const Vec3 found = (after[i].velocity - before[i].velocity) * 60.0f;
            QVERIFY2(length(found - push) < 1e-2f + 0.01f * length(push), qPrintable(QString::number(i)));
        }
    }
};

QTEST_APPLESS_MAIN(TestForces)
#include "tst_forces.moc"
