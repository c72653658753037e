// Physics that can be checked on paper.
#include "sample_effects.h"

#include <QtTest>

using namespace ember;
using namespace ember::sample;

namespace {

double error(double found, double expected) {
    return std::abs(found - expected) / std::abs(expected);
}

// The only particle of an effect after a time. It is born at the end of the first step, so it is one step
// younger.
ParticleState particle_after(const Effect& effect, double seconds) {
    return particles(run(effect, seconds)).at(0);
}

} // namespace

class TestPhysics : public QObject {
    Q_OBJECT

  private slots:
    void free_fall_follows_the_closed_form() {
        const auto fallen = particle_after(effect_of(single_particle({0, 100, 0}), {Gravity{}}), 2);
        const double t = fallen.age;
        QVERIFY(error(100 - fallen.position.y, 0.5 * 9.81 * t * t) < 0.01);
        QVERIFY(error(-fallen.velocity.y, 9.81 * t) < 0.01);
    }

    void free_fall_with_linear_drag_follows_the_closed_form_data() {
        QTest::addColumn<float>("drag");
        QTest::newRow("light") << 0.2f;
        QTest::newRow("medium") << 2.0f;
        QTest::newRow("stronger than the step") << 200.0f;
    }
    void free_fall_with_linear_drag_follows_the_closed_form() {
        QFETCH(float, drag);
        const auto fallen =
            particle_after(effect_of(single_particle({0, 100, 0}), {Gravity{}, Drag{.linear = drag}}), 3);
        const double k = drag, t = fallen.age, g = 9.81;
        QVERIFY(error(-fallen.velocity.y, g / k * (1 - std::exp(-k * t))) < 0.01);
        QVERIFY(error(100 - fallen.position.y, g / k * (t - (1 - std::exp(-k * t)) / k)) < 0.01);
    }

    void wind_brings_particles_to_its_own_speed() {
        const auto blown =
            particle_after(effect_of(single_particle({0, 0, 0}),
                                     {Wind{.direction = {0, 0, 2}, .speed = 5, .grip = 3, .gusts = 0}}),
                           5);
        QVERIFY(error(blown.velocity.z, 5) < 0.001);
        QVERIFY(std::abs(blown.velocity.x) < 1e-4f);
    }

    void gusts_stay_within_their_share() {
        float low = 1, high = -1;
        for (int i = 0; i < 10000; ++i) {
            const float value = gust(i * 0.01, 2, 7);
            low = std::min(low, value);
            high = std::max(high, value);
        }
        QVERIFY(low >= -1 && low < -0.8f);
        QVERIFY(high <= 1 && high > 0.8f);
    }

    void half_a_weight_is_half_a_force() {
        Effect effect = effect_of(single_particle({0, 0, 0}), {Gravity{.strength = 8}});
        effect.elements[1].links[0].weight = 0.5f;
        const auto fallen = particle_after(effect, 1);
        QVERIFY(error(-fallen.velocity.y, 4 * double(fallen.age)) < 0.001);
    }

    void ball_with_full_bounce_returns_to_its_height() {
        Simulation simulation =
            run(effect_of(single_particle({0, 2, 0}),
                          {Gravity{}, Plane{{.bounce = 1, .friction = 0, .roughness = 0}}}),
                0.1);
        float highest = 0;
        bool has_bounced = false;
        for (int step = 0; step < 60 * 60; ++step) {
            const float before = particles(simulation)[0].velocity.y;
            simulation.step();
            const auto ball = particles(simulation)[0];
            has_bounced = has_bounced || (before < 0 && ball.velocity.y > 0);
            highest = has_bounced ? std::max(highest, ball.position.y) : 0;
            if (has_bounced && before > 0 && ball.velocity.y <= 0) {
                QVERIFY2(error(highest, 2) < 0.02, qPrintable(QString::number(double(highest))));
                highest = 0;
                has_bounced = false;
            }
        }
    }

    void half_bounce_returns_to_a_quarter_of_the_height() {
        Simulation simulation =
            run(effect_of(single_particle({0, 2, 0}),
                          {Gravity{}, Plane{{.bounce = 0.5f, .friction = 0, .roughness = 0}}}),
                0.1);
        float highest = 0;
        for (int step = 0; step < 70; ++step) {
            simulation.step();
            const auto ball = particles(simulation)[0];
            if (ball.velocity.y > 0) {
                highest = std::max(highest, ball.position.y);
            }
        }
        QVERIFY2(error(highest, 0.5) < 0.03, qPrintable(QString::number(double(highest))));
    }

    void friction_brings_a_slider_to_rest_at_the_right_distance() {
        Emitter emitter = single_particle({0, 0.0005f, 0});
        emitter.speed = {3, 3};
        const float mu = 0.4f;
        const auto rest = particle_after(
            effect_of(emitter, {Gravity{}, Plane{{.bounce = 0.5f, .friction = mu, .roughness = 0}}}), 3);
        QVERIFY(length(rest.velocity) < 1e-3f);
        QVERIFY2(error(rest.position.x, 9.0 / (2 * double(mu) * 9.81)) < 0.02,
                 qPrintable(QString::number(double(rest.position.x))));
        QVERIFY(std::abs(rest.position.y - 0.0005f) < 1e-4f);
    }

    void particle_rests_on_a_turned_box() {
        const Box box{
            {.bounce = 0.2f, .friction = 1, .roughness = 0}, {{0, 1, 0}, {0, 30, 0}, {}}, {2, 0.2f, 2}};
        const auto rest = particle_after(effect_of(single_particle({0.3f, 3, -0.2f}), {Gravity{}, box}), 4);
        QVERIFY(std::abs(rest.position.y - 1.1005f) < 1e-3f);
        QVERIFY(length(rest.velocity) < 1e-2f);
    }

    void fast_droplets_do_not_pass_a_thin_wall() {
        Emitter emitter = single_particle({0, 0, 0});
        emitter.shape = BirthShape::box;
        emitter.size = {0, 2, 2};
        emitter.rate = 60 * 2000;
        emitter.capacity = 2000;
        emitter.speed = {40, 60};
        emitter.spread = 20;
        const Box wall{{.bounce = 0.5f}, {{3, 0, 0}, {0, 12, 7}, {}}, {0.01f, 40, 40}};
        const Simulation simulation = run(effect_of(emitter, {wall}), 1);
        const Axes axes = turned_axes(wall.turn);
        QCOMPARE(particles(simulation).size(), size_t(2000));
        for (const auto& p : particles(simulation)) {
            QVERIFY(dot(p.position - wall.position, axes.x) < 0);
        }
    }

    void what_starts_inside_a_box_is_put_out() {
        const Box box{{.bounce = 0}, {{0, 1, 0}, {}, {}}, {1, 1, 1}};
        const auto out = particle_after(effect_of(single_particle({0.1f, 1.4f, 0}), {box}), 0.1);
        QVERIFY(out.position.y >= 1.5f);
    }

    void collider_with_half_a_weight_stops_half_of_the_particles() {
        Emitter emitter = single_particle({0, 1, 0});
        emitter.rate = 60 * 4000;
        emitter.capacity = 4000;
        Effect effect = effect_of(emitter, {Gravity{}, Plane{{.bounce = 0}}});
        effect.elements[2].links[0].weight = 0.5f;
        int above = 0;
        const Simulation simulation = run(effect, 2);
        for (const auto& p : particles(simulation)) {
            above += p.position.y > -0.01f ? 1 : 0;
        }
        QVERIFY(std::abs(above - 2000) < 130); // four standard deviations
    }

    void rough_bounces_scatter_without_gaining_speed() {
        Emitter emitter = single_particle({0, 0.5f, 0});
        emitter.rate = 60 * 1000;
        emitter.capacity = 1000;
        emitter.direction = {0, -1, 0};
        emitter.speed = {4, 4};
        const Simulation simulation =
            run(effect_of(emitter, {Plane{{.bounce = 0.8f, .friction = 0, .roughness = 0.7f}}}), 0.5);
        float sideways = 0;
        for (const auto& p : particles(simulation)) {
            QVERIFY(length(p.velocity) < 3.3f);
            sideways += std::abs(p.velocity.x) / 1000;
        }
        QVERIFY(sideways > 0.5f);
    }
};

QTEST_APPLESS_MAIN(TestPhysics)
#include "tst_physics.moc"
