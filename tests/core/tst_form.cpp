// How particles that are not round lie in space: facing, tilt, spin and stretch.
#include "sample_effects.h"

#include <QtTest>

#include <cmath>

using namespace ember;
using namespace ember::sample;

namespace {

Emitter stretched(float rate = 60) {
    Emitter emitter = single_particle({0, 1, 0});
    emitter.rate = rate;
    emitter.capacity = 4000;
    emitter.form = Form::stretched;
    emitter.stretch_y = {1, 1};
    emitter.facing = Facing::fixed;
    return emitter;
}

FrameSource drawn_after(const Effect& effect, double seconds, Isa isa = best_isa()) {
    Simulation simulation(isa);
    simulation.set_effect(shared(effect));
    for (int i = 0; i < int(seconds * 60 + 0.5); ++i) {
        simulation.step();
    }
    Frame frame;
    simulation.write_frame(frame);
    return frame.sources.at(0);
}

float degrees_between(const Vec3& a, const Vec3& b) {
    return std::acos(std::clamp(dot(normalized(a), normalized(b)), -1.0f, 1.0f)) / radians_per_degree;
}

// Flakes of 0.1 m that spin fall on something that holds them.
Effect falling_flakes(const ElementBody& onto, bool flat) {
    Emitter flakes = stretched(200);
    flakes.shape = BirthShape::box;
    flakes.size = {1.2f, 0.1f, 1.2f};
    flakes.position = {0, 1.4f, 0};
    flakes.speed = {0.5f, 0.5f};
    flakes.direction = {0, -1, 0};
    flakes.facing = Facing::any;
    flakes.spin = {200, 400};
    flakes.for_ever = true;
    flakes.duration = 0.4f;
    flakes.stretch_z = {0.1f, 0.2f};
    flakes.lies_flat = flat;
    return effect_of(flakes, {Gravity{}, onto});
}

} // namespace

class TestForm : public QObject {
    Q_OBJECT

  private slots:
    void packing_keeps_turns_and_stretch() {
        for (int i = 0; i < 500; ++i) {
            const Vec3 angles = {float(i * 37 % 360) - 180, float(i * 73 % 360) - 180, float(i * 11 % 360)};
            const Vec3 stretch = {0.05f + float(i % 7), 1, 40.0f / float(1 + i % 9)};
            const FrameForm form = FrameForm::of(Quaternion::turned(angles), stretch);
            const Axes wanted = turned_axes(angles);
            const Axes got = form.axes();
            QVERIFY(degrees_between(got.x, wanted.x) < 0.3f);
            QVERIFY(degrees_between(got.y, wanted.y) < 0.3f);
            QVERIFY(degrees_between(got.z, wanted.z) < 0.3f);
            QVERIFY(std::abs(form.stretch().x / stretch.x - 1) < 0.01f);
            QVERIFY(std::abs(form.stretch().z / stretch.z - 1) < 0.01f);
        }
        QCOMPARE(FrameForm::of({}, {0, 1, 1}).stretch().x, 0.0f);
    }

    void round_particles_carry_no_form() {
        Emitter emitter = stretched();
        emitter.form = Form::round;
        QVERIFY(drawn_after(effect_of(emitter), 1).forms.empty());
        QCOMPARE(drawn_after(effect_of(stretched()), 1).forms.size(), size_t(60));
    }

    void y_points_along_the_motion() {
        Emitter emitter = stretched(2000);
        emitter.facing = Facing::motion;
        emitter.spread = 180;
        emitter.speed = {1, 3};
        const Effect effect = effect_of(emitter);
        const FrameSource source = drawn_after(effect, 1);
        Simulation simulation = run(effect, 1);
        const auto moving = particles(simulation);
        QCOMPARE(source.forms.size(), moving.size());
        for (size_t i = 0; i < moving.size(); ++i) {
            QVERIFY(degrees_between(source.forms[i].axes().y, moving[i].velocity) < 0.5f);
        }
    }

    void what_rests_stands_upright() {
        Emitter emitter = stretched();
        emitter.facing = Facing::motion;
        for (const FrameForm& form : drawn_after(effect_of(emitter), 0.5).forms) {
            QVERIFY(degrees_between(form.axes().y, {0, 1, 0}) < 0.5f);
        }
    }

    void fixed_ones_are_turned_as_stated() {
        Emitter emitter = stretched();
        emitter.facing_turn = {30, -70, 110};
        const Axes wanted = turned_axes(emitter.facing_turn);
        for (const FrameForm& form : drawn_after(effect_of(emitter), 0.5).forms) {
            QVERIFY(degrees_between(form.axes().x, wanted.x) < 0.4f);
            QVERIFY(degrees_between(form.axes().y, wanted.y) < 0.4f);
        }
    }

    // About their own y: as far as it says, either way, evenly.
    void fixed_ones_head_their_own_way() {
        for (const float most : {60.0f, 180.0f}) {
            Emitter emitter = stretched(2000);
            emitter.facing_turn = {0, 0, 30};
            emitter.facing_heading = most;
            const Axes upright = turned_axes(emitter.facing_turn);
            int quarters[4] = {};
            for (const FrameForm& form : drawn_after(effect_of(emitter), 1).forms) {
                const Axes axes = form.axes();
                QVERIFY(degrees_between(axes.y, upright.y) < 0.5f);
                const float heading =
                    std::atan2(dot(axes.z, upright.x), dot(axes.z, upright.z)) / radians_per_degree;
                QVERIFY(std::abs(heading) < most + 0.5f);
                ++quarters[std::clamp(int((heading / most + 1) * 2), 0, 3)];
            }
            const int all = quarters[0] + quarters[1] + quarters[2] + quarters[3];
            QVERIFY(all > 500);
            for (const int quarter : quarters) {
                QVERIFY2(std::abs(quarter - all / 4) < all / 16, qPrintable(QString::number(quarter)));
            }
        }
    }

    // Of uniform turns each axis is as often in one eighth of the sphere as in another.
    void any_way_is_uniform() {
        Emitter emitter = stretched(4000);
        emitter.facing = Facing::any;
        emitter.burst_count = 4000;
        const FrameSource source = drawn_after(effect_of(emitter), 0.2);
        QCOMPARE(source.forms.size(), size_t(4000));
        for (const auto axis : {&Axes::x, &Axes::y, &Axes::z}) {
            double counts[8] = {};
            for (const FrameForm& form : source.forms) {
                const Vec3 a = form.axes().*axis;
                ++counts[(a.x > 0 ? 1 : 0) + (a.y > 0 ? 2 : 0) + (a.z > 0 ? 4 : 0)];
            }
            double chi_square = 0;
            for (const double count : counts) {
                chi_square += (count - 500) * (count - 500) / 500;
            }
            QVERIFY2(chi_square < 24.3, qPrintable(QString::number(chi_square))); // 7 degrees, 0.1 %
        }
    }

    void tilt_stays_within_its_limit_and_uses_it() {
        Emitter emitter = stretched(2000);
        emitter.facing_spread = 25;
        float most = 0;
        for (const FrameForm& form : drawn_after(effect_of(emitter), 1).forms) {
            most = std::max(most, degrees_between(form.axes().y, {0, 1, 0}));
        }
        QVERIFY(most <= 25.5f);
        QVERIFY(most > 20);
    }

    // The particle is born in the first step; half a step of doubt about its age.
    void spin_turns_as_often_as_it_says() {
        Emitter emitter = single_particle({0, 1, 0});
        emitter.form = Form::stretched;
        emitter.facing = Facing::fixed;
        emitter.spin = {15, 15};
        emitter.spin_axis = SpinAxis::z;
        const Effect effect = effect_of(emitter);
        const float age = particles(run(effect, 1)).at(0).age;
        const Vec3 x = drawn_after(effect, 1).forms.at(0).axes().x;
        const float angle = age * 15 / 60 * 360 * radians_per_degree;
        QVERIFY(degrees_between(x, {std::cos(angle), std::sin(angle), 0}) < 0.4f);
    }

    // A curve that falls evenly from 1 to 0 has turned half as far by the end, three quarters of that by
    // half.
    void spin_follows_its_curve() {
        Emitter emitter = single_particle({0, 1, 0});
        emitter.form = Form::stretched;
        emitter.facing = Facing::fixed;
        emitter.lifetime = {4, 4};
        emitter.spin = {30, 30};
        emitter.spin_axis = SpinAxis::y;
        emitter.spin_over_life.points = {{0, 1}, {1, 0}};
        const Effect effect = effect_of(emitter);
        const float share = particles(run(effect, 2)).at(0).age / 4;
        const float turns = 0.5f * 4 * (share - share * share / 2);
        const Vec3 x = drawn_after(effect, 2).forms.at(0).axes().x;
        const float angle = turns * 360 * radians_per_degree;
        QVERIFY(degrees_between(x, {std::cos(angle), 0, -std::sin(angle)}) < 1.5f);
    }

    void those_that_live_for_ever_spin_on() {
        Emitter emitter = single_particle({0, 1, 0});
        emitter.form = Form::stretched;
        emitter.facing = Facing::fixed;
        emitter.for_ever = true;
        emitter.spin = {-15, -15};
        emitter.spin_axis = SpinAxis::y;
        const Effect effect = effect_of(emitter);
        const float age = particles(run(effect, 3)).at(0).age;
        const float angle = -age * 0.25f * 360 * radians_per_degree;
        const Vec3 x = drawn_after(effect, 3).forms.at(0).axes().x;
        QVERIFY(degrees_between(x, {std::cos(angle), 0, -std::sin(angle)}) < 0.5f);
    }

    void stretch_is_drawn_at_birth_and_changes_over_life() {
        Emitter emitter = stretched(1000);
        emitter.lifetime = {2, 2};
        emitter.stretch_x = {2, 4};
        emitter.stretch_z_over_life.points = {{0, 0}, {1, 2}};
        const FrameSource source = drawn_after(effect_of(emitter), 2);
        double mean = 0;
        for (size_t i = 0; i < source.forms.size(); ++i) {
            const Vec3 stretch = source.forms[i].stretch();
            QVERIFY(stretch.x > 1.98f && stretch.x < 4.04f);
            QVERIFY(std::abs(stretch.y - 1) < 0.01f);
            const float age_share = float(source.particles[i].age_share) / 65535;
            if (age_share > 0.05f) {
                QVERIFY(std::abs(stretch.z / (2 * age_share) - 1) < 0.02f);
            }
            mean += double(stretch.x) / double(source.forms.size());
        }
        QVERIFY(std::abs(mean - 3) < 0.05);
    }

    void a_curve_below_zero_makes_it_vanish_and_no_more() {
        Emitter emitter = stretched();
        emitter.stretch_x_over_life.points = {{0, 0}};
        for (const FrameForm& form : drawn_after(effect_of(emitter), 0.5).forms) {
            QCOMPARE(form.stretch().x, 0.0f);
            QVERIFY(std::isfinite(form.axes().x.x));
        }
    }

    void all_instruction_sets_agree() {
        Emitter emitter = stretched(2000);
        emitter.facing = Facing::any;
        emitter.facing_spread = 90;
        emitter.spin = {-200, 200};
        const Effect effect = effect_of(emitter);
        const FrameSource scalar = drawn_after(effect, 1, Isa::scalar);
        const FrameSource best = drawn_after(effect, 1);
        QCOMPARE(scalar.forms.size(), best.forms.size());
        for (size_t i = 0; i < best.forms.size(); ++i) {
            QVERIFY(degrees_between(scalar.forms[i].axes().y, best.forms[i].axes().y) < 0.5f);
        }
    }

    void what_sticks_spins_no_more_and_stays_as_it_came() {
        const Plane floor{{.on_hit = OnHit::stick}};
        const FrameSource early = drawn_after(falling_flakes(floor, false), 2),
                          late = drawn_after(falling_flakes(floor, false), 3.3);
        QVERIFY(early.forms.size() > 60);
        QCOMPARE(early.forms.size(), late.forms.size());
        int leaning = 0;
        for (size_t i = 0; i < early.forms.size(); ++i) {
            QCOMPARE(early.forms[i].turn_bits, late.forms[i].turn_bits);
            leaning += degrees_between(early.forms[i].axes().z, {0, 1, 0}) > 20 ? 1 : 0;
        }
        QVERIFY(leaning > int(early.forms.size()) / 2);
        // While they fly they spin.
        QVERIFY(drawn_after(falling_flakes(floor, false), 0.2).forms[0].turn_bits !=
                drawn_after(falling_flakes(floor, false), 0.25).forms[0].turn_bits);
    }

    void what_lies_flat_has_its_shortest_axis_along_the_normal() {
        const Surface holds{.on_hit = OnHit::stick};
        const auto steepest_lean = [](const Effect& effect, auto normal_at) {
            const FrameSource source = drawn_after(effect, 2);
            float most = 0;
            for (size_t i = 0; i < source.forms.size(); ++i) {
                const Vec3 z = source.forms[i].axes().z, normal = normal_at(source.position(i));
                most = std::max(most, degrees_between(dot(z, normal) < 0 ? z * -1.0f : z, normal));
            }
            return source.forms.size() > 60 ? most : 999;
        };
        const Vec3 slope = normalized(Vec3{0.5f, 1, 0.2f});
        QVERIFY(steepest_lean(falling_flakes(Plane{holds, {}, slope}, true), [&](Vec3) { return slope; }) <
                0.5f);
        QVERIFY(steepest_lean(falling_flakes(Ball{holds, {}, 1}, true),
                              [](Vec3 at) { return normalized(at); }) < 1);
        QVERIFY(steepest_lean(falling_flakes(Ball{holds, {}, 1}, false),
                              [](Vec3 at) { return normalized(at); }) > 45);
        // Of x, if that is the shortest.
        Effect slats = falling_flakes(Plane{holds}, true);
        std::get<Emitter>(slats.elements[0].body).stretch_x = {0.02f, 0.02f};
        for (const FrameForm& form : drawn_after(slats, 2).forms) {
            QVERIFY(std::abs(form.axes().x.y) > 0.9999f);
        }
    }

    void what_sticks_turns_with_what_it_sticks_to_and_flies_on_when_let_go() {
        // A ball that turns once in four seconds.
        Effect effect = falling_flakes(Ball{{.on_hit = OnHit::stick}, {{}, {}, "m"}, 1}, true);
        effect.elements.push_back({.id = "m", .name = "Mover", .body = Orbit{{}, 0, 4}});
        for (const double seconds : {2.0, 3.0, 9.5}) {
            const FrameSource source = drawn_after(effect, seconds);
            QVERIFY(source.forms.size() > 60);
            for (size_t i = 0; i < source.forms.size(); ++i) {
                const Vec3 z = source.forms[i].axes().z;
                QVERIFY(std::abs(dot(z, normalized(source.position(i)))) >
                        std::cos(1.5f * radians_per_degree));
            }
        }
        Simulation simulation;
        simulation.set_effect(shared(effect));
        const auto forms = [&](int steps) {
            for (int i = 0; i < steps; ++i) {
                simulation.step();
            }
            Frame frame;
            simulation.write_frame(frame);
            return frame.sources.at(0).forms;
        };
        forms(180);
        effect.elements[2].muted = true;
        simulation.set_effect(shared(effect));
        QVERIFY(forms(2)[5].turn_bits != forms(1)[5].turn_bits);
        simulation.rewind();
        QVERIFY(simulation.find_pool("e") == nullptr || simulation.find_pool("e")->rests().empty());
    }
};

QTEST_APPLESS_MAIN(TestForm)
#include "tst_form.moc"
