// What parameters promise at both ends of their ranges: that the ends are taken, and that what a force does
// there is finite and sensible.
#include "sample_effects.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"

#include <QTemporaryDir>
#include <QtTest>

#include <functional>
#include <map>
#include <numbers>

using namespace ember;
using namespace ember::sample;

namespace {

constexpr double run_s = 2;

// A few particles about the middle, some at rest and some thrown.
Emitter few() {
    Emitter emitter = single_particle({});
    emitter.shape = BirthShape::ball;
    emitter.size = {4, 4, 4};
    emitter.rate = 0;
    emitter.burst_count = 64;
    emitter.capacity = 64;
    emitter.spread = 180;
    emitter.speed = {0, 3};
    return emitter;
}

// How much faster than the swing itself a particle may go from place to place of a swing of a few steps.
constexpr float steps_of_a_swing = 1.8f;

constexpr float thrown_at = 3;      // m/s
constexpr float farthest_place = 2; // m from the middle, at birth

struct Extremes {
    float speed = 0, distance = 0;
    bool is_finite = true;
};

Extremes extremes_of(const Emitter& emitter, const std::vector<ElementBody>& influences,
                     double step_s = 1.0 / 60) {
    Simulation simulation(best_isa(), step_s);
    simulation.set_effect(shared(effect_of(emitter, influences)));
    Extremes most;
    for (int i = 0; i < int(run_s / step_s); ++i) {
        simulation.step();
        for (const auto& p : particles(simulation)) {
            most.speed = std::max(most.speed, length(p.velocity));
            most.distance = std::max(most.distance, length(p.position));
            most.is_finite = most.is_finite && std::isfinite(length(p.velocity) + length(p.position));
        }
    }
    return most;
}

// Sensible: what each force can give a particle in the time of the run, from the formula in its help (m/s),
// beside the speed that it was thrown with. Where it flows, twice the speed of its flow: what is swept past a
// bend may overshoot.
// How far what a force has a place is from what it moves.
float distance_of(const Place& place) {
    return farthest_place + thrown_at * float(run_s) + length(place.position);
}

struct Sensible {
    float t;
    float operator()(const Gravity& g) const { return std::fabs(g.strength) * t; }
    float operator()(const Wind& w) const { return w.speed * (1 + w.gusts); }
    float operator()(const Drag&) const { return 0; }
    float operator()(const Turbulence& n) const { return 4 * n.strength * t; }
    float operator()(const Waves&) const { return 0; }
    float operator()(const Vortex& v) const {
        const float turning = std::fabs(v.spin) * std::numbers::pi_v<float> / 180 *
                              std::min(v.core, 50.0f); // no farther than it throws them
        return 2 * (turning + std::fabs(v.inflow) + std::fabs(v.lift));
    }
    float operator()(const Pull& p) const {
        if (p.law == PullLaw::inverse_square) {
            // Falling to the core, or what a step may give at the most: see add_pull().
            const float nearest = std::max(p.core, std::cbrt(std::fabs(p.strength) / 7200));
            return 2 * std::sqrt(2 * std::fabs(p.strength) / nearest);
        }
        if (p.law == PullLaw::constant) {
            return std::fabs(p.strength) * t;
        }
        return p.strength > 0
                   ? steps_of_a_swing * (std::sqrt(p.strength) * distance_of(p))
                   : distance_of(p) * std::sqrt(-p.strength) * std::exp(std::sqrt(-p.strength) * t);
    }
    float operator()(const Spring& s) const {
        return steps_of_a_swing * 2 * std::numbers::pi_v<float> * s.frequency * distance_of(s);
    }
    float operator()(const PathFlow& f) const {
        return 2 * (std::fabs(f.speed) + std::min(f.pull, 60.0f) * (distance_of(f) + f.radius + f.end_radius +
                                                                    std::fabs(f.height)));
    }
    float operator()(const GridFlow& g) const { return 4 * std::fabs(g.speed); }
    float operator()(const Jitter& j) const { return 8 * j.strength * std::sqrt(t); }
    float operator()(const Flock& f) const {
        return (64 * f.separation + f.cohesion + f.fear) * t + 2 * f.cruise + thrown_at;
    }
    float operator()(const auto&) const { return 0; }
};

float sensible_speed(const ElementBody& body) {
    return thrown_at * 1.01f + std::visit(Sensible{float(run_s)}, body);
}

// Both ends of a parameter, as values; none for what is no number.
std::vector<Value> ends_of(const Parameter& parameter) {
    const auto low = float(parameter.hard_low), high = float(parameter.hard_high);
    switch (parameter.kind) {
    case ParameterKind::number:
        return {low, high};
    case ParameterKind::count:
        return {int(parameter.hard_low), int(std::min(parameter.hard_high, 2e9))};
    case ParameterKind::vector:
        return {Vec3{low, low, low}, Vec3{high, high, high}};
    case ParameterKind::range:
        return {Range{low, low}, Range{high, high}, Range{low, high}};
    default:
        return {};
    }
}

} // namespace

class TestRanges : public QObject {
    Q_OBJECT

  private slots:
    void springs_are_stable_at_every_frequency_damping_and_step() {
        for (const auto to : {SpringTo::point, SpringTo::line, SpringTo::plane}) {
            for (const float frequency : {0.0f, 0.1f, 1.0f, 8.0f, 16.0f, 20.0f, 27.0f, 30.0f}) {
                for (const float damping : {0.0f, 0.05f, 0.7f, 1.0f, 3.0f, 10.0f}) {
                    for (const double step_s : {1.0 / 240, 1.0 / 60, 1.0 / 20}) {
                        Spring spring;
                        spring.to = to;
                        spring.frequency = frequency;
                        spring.damping = damping;
                        const Extremes most = extremes_of(single_particle({0, 1, 0}), {spring}, step_s);
                        const QString what = QString("to %1, %2 Hz, damping %3, step %4: %5 m/s, %6 m")
                                                 .arg(int(to))
                                                 .arg(frequency)
                                                 .arg(damping)
                                                 .arg(step_s)
                                                 .arg(most.speed)
                                                 .arg(most.distance);
                        const float fastest = 2 * std::numbers::pi_v<float> * frequency;
                        // What swings faster than steps can show goes as far as its first step flung it.
                        const float farthest = 1.01f * std::max(1.0f, fastest * float(step_s) / 2.2f);
                        QVERIFY2(most.is_finite && most.distance < farthest, qPrintable(what));
                        QVERIFY2(most.speed < fastest * steps_of_a_swing + 1e-3f, qPrintable(what));
                    }
                }
            }
        }
    }

    void a_spring_comes_to_rest_as_its_damping_says() {
        // Of x'' + 2 d w x' + w^2 x = 0 from rest at 1 m, after a quarter of a second.
        for (const double damping : {0.1, 0.5, 1.0, 2.0, 6.0}) {
            const double w = 2 * std::numbers::pi * 3, t = 0.25;
            Spring spring;
            spring.frequency = 3;
            spring.damping = float(damping);
            const float found = particles(run(effect_of(single_particle({1, 0, 0}), {spring}), t + 1.0 / 60))
                                    .at(0)
                                    .position.x;
            double expected = 0;
            if (damping < 1) {
                const double turn = w * std::sqrt(1 - damping * damping);
                expected = std::exp(-damping * w * t) *
                           (std::cos(turn * t) + damping * w / turn * std::sin(turn * t));
            } else if (damping > 1) {
                const double root = w * std::sqrt(damping * damping - 1);
                expected = std::exp(-damping * w * t) *
                           (std::cosh(root * t) + damping * w / root * std::sinh(root * t));
            } else {
                expected = std::exp(-w * t) * (1 + w * t);
            }
            QVERIFY2(std::abs(double(found) - expected) < 0.012,
                     qPrintable(QString("%1: %2 for %3").arg(damping).arg(found).arg(expected)));
        }
    }

    void springs_together_with_anything_stay_stable() {
        Spring fast;
        fast.frequency = 30;
        fast.damping = 0;
        Spring plane = fast;
        plane.to = SpringTo::plane;
        plane.turn = {30, 0, 20};
        plane.damping = 10;
        Emitter light = few();
        light.mass = {0.001f, 0.001f};
        for (const Emitter& emitter : {few(), light}) {
            for (const float drag : {0.0f, 1.0f, 60.0f, 1000.0f}) {
                const Extremes most = extremes_of(emitter, {fast, fast, plane, Drag{.linear = drag}, Pull{}});
                QVERIFY2(most.is_finite && most.distance < 8,
                         qPrintable(QString("drag %1: %2 m").arg(drag).arg(most.distance)));
            }
        }
    }

    void a_spring_holds_a_weight_where_statics_says() {
        Spring spring;
        spring.frequency = 2;
        spring.damping = 1;
        for (const float drag : {0.0f, 5.0f, 600.0f}) {
            const Simulation simulation =
                run(effect_of(single_particle({}), {spring, Gravity{}, Drag{.linear = drag}}),
                    drag > 100 ? 60 : 6);
            const double stiffness = std::pow(2 * std::numbers::pi * 2, 2);
            const double sag = -double(particles(simulation).at(0).position.y);
            QVERIFY2(std::abs(sag / (9.81 / stiffness) - 1) < 0.03, qPrintable(QString::number(sag)));
        }
    }

    void every_number_of_every_force_is_sensible_at_both_ends() {
        QStringList beyond;
        for (const ElementType& type : element_types()) {
            if (family_of(type.prototype) != Family::force) {
                continue;
            }
            for (const Parameter& parameter : type.parameters) {
                for (const Value& end : ends_of(parameter)) {
                    for (int law = 0; law < 3; ++law) {
                        ElementBody body = type.prototype;
                        std::visit(
                            [&](auto& b) {
                                using Body = std::remove_cvref_t<decltype(b)>;
                                if constexpr (std::is_same_v<Body, Pull>) {
                                    b.law = PullLaw(law);
                                } else if constexpr (std::is_same_v<Body, Vortex>) {
                                    b.about = VortexAbout(law);
                                } else if constexpr (std::is_same_v<Body, Spring>) {
                                    b.to = SpringTo(law);
                                }
                                parameter.set(&b, end);
                            },
                            body);
                        const Extremes most = extremes_of(few(), {body});
                        const float sensible = std::min(sensible_speed(body), 1.8e5f);
                        const QString what =
                            QString("%1.%2, end %3, variant %4: %5 m/s (sensible %6), %7 m")
                                .arg(QString::fromUtf8(type.key.data(), int(type.key.size())))
                                .arg(QString::fromUtf8(parameter.key.data(), int(parameter.key.size())))
                                .arg(end.index())
                                .arg(law)
                                .arg(most.speed)
                                .arg(sensible)
                                .arg(most.distance);
                        if (!most.is_finite || most.speed > sensible) {
                            beyond << what;
                        }
                    }
                }
            }
        }
        QVERIFY2(beyond.isEmpty(), qPrintable(beyond.join("\n")));
    }

    void a_pull_holds_its_law_outside_of_its_core_and_eases_evenly_inside() {
        const auto push_at = [](PullLaw law, float distance) {
            Pull pull;
            pull.law = law;
            pull.strength = 5;
            pull.core = 0.5f;
            Simulation simulation = run(effect_of(single_particle({distance, 0, 0}), {pull}), 1.0 / 60);
            const float before = particles(simulation).at(0).velocity.x;
            simulation.step();
            return -(particles(simulation).at(0).velocity.x - before) * 60;
        };
        const auto is_near = [](float found, float expected) {
            return std::abs(found / expected - 1) < 0.02f;
        };
        for (const float distance : {0.5f, 1.0f, 3.0f}) {
            QVERIFY(is_near(push_at(PullLaw::constant, distance), 5));
            QVERIFY(is_near(push_at(PullLaw::linear, distance), 5 * distance));
            QVERIFY(is_near(push_at(PullLaw::inverse_square, distance), 5 / (distance * distance)));
        }
        for (const PullLaw law : {PullLaw::constant, PullLaw::linear, PullLaw::inverse_square}) {
            QVERIFY(is_near(push_at(law, 0.25f), push_at(law, 0.5f) / 2));
        }
    }

    // Particles share registers with others, and with what is left of the dead: none of that may reach them,
    // to the last digit. Those who are there in both crowds have the same numbers.
    void nobody_is_changed_by_who_is_beside_it() {
        const auto crowd_of = [](int count, const ElementBody& body, bool rides) {
            Emitter emitter = few();
            emitter.burst_count = emitter.capacity = count;
            emitter.speed = {0, 6};
            Effect effect = effect_of(emitter, {body});
            if (rides) {
                Orbit orbit;
                orbit.radius = 0.3f;
                orbit.period = 0.7f;
                effect.elements.push_back({.id = "m", .name = "m", .body = orbit});
                std::visit(
                    [](auto& b) {
                        if constexpr (requires { b.rides_on; }) {
                            b.rides_on = "m";
                        }
                    },
                    effect.elements[1].body);
            }
            return particles(run(effect, 1));
        };
        int compared = 0;
        for (const ElementType& type : element_types()) {
            const bool meets_others = type.key == "flock" || type.key == "contacts";
            const Family family = family_of(type.prototype);
            if ((family != Family::force && family != Family::collider) || meets_others) {
                continue;
            }
            for (const bool rides : {false, true}) {
                const auto many = crowd_of(256, type.prototype, rides);
                for (const int count : {1, 3, 61, 250}) {
                    const auto fewer = crowd_of(count, type.prototype, rides);
                    for (const ParticleState& one : fewer) {
                        const auto same = std::find_if(many.begin(), many.end(), [&](const auto& other) {
                            return other.number == one.number;
                        });
                        QVERIFY2(same != many.end() && same->position == one.position &&
                                     same->velocity == one.velocity,
                                 std::string(type.key).c_str());
                        ++compared;
                    }
                }
            }
        }
        QVERIFY(compared > 5000);
    }

    void both_ends_of_every_parameter_are_taken() {
        QTemporaryDir folder;
        const auto check = [&](const Holder& holder,
                               const std::function<Effect(const Parameter&, const Value&)>& with) {
            for (const Parameter& parameter : holder.parameters) {
                for (const Value& end : ends_of(parameter)) {
                    const std::string key(parameter.key);
                    const auto refusal = refusal_of(parameter, end);
                    QVERIFY2(!refusal, (holder.name + "." + key + ": " + refusal.value_or("")).c_str());
                    // And when they are read back from a file.
                    const std::string file = folder.filePath("ends.ember.json").toStdString();
                    const Effect effect = with(parameter, end);
                    if (whole_refusal(effect)) {
                        continue; // too much in all
                    }
                    QVERIFY(!save_effect(effect, file));
                    const ReadResult read = read_effect(file);
                    QVERIFY2(read.is_sound(), (holder.name + "." + key + ": " +
                                               (read.problems.empty() ? "" : read.problems.front().text()))
                                                  .c_str());
                }
            }
        };
        for (const ElementType& type : element_types()) {
            Effect effect = starter_effect();
            std::string id;
            effect = with_new_element(effect, type, id);
            check(*find_holder(effect, id), [&](const Parameter& parameter, const Value& end) {
                return with_value(effect, id, parameter, end);
            });
        }
        const Effect effect = starter_effect();
        for (const std::string& id :
             {effect.looks.front().id, std::string(stage_id), std::string(budget_id)}) {
            check(*find_holder(effect, id), [&](const Parameter& parameter, const Value& end) {
                return with_value(effect, id, parameter, end);
            });
        }
    }
};

QTEST_APPLESS_MAIN(TestRanges)
#include "tst_ranges.moc"
