// Trails: what the frame says of where particles have been.
#include "sample_effects.h"

#include <QtTest>

#include <cmath>
#include <map>

using namespace ember;
using namespace ember::sample;

namespace {

Effect with_trails(const Emitter& emitter, float length_s, const std::vector<ElementBody>& influences = {}) {
    Effect effect = effect_of(emitter, influences);
    effect.looks[0].drawn_as = Drawing::trails;
    effect.looks[0].trail = length_s;
    return effect;
}

Emitter thrown() {
    Emitter emitter = single_particle({0, 1, 0});
    emitter.speed = {6, 6};
    return emitter;
}

} // namespace

class TestTrails : public QObject {
    Q_OBJECT

  private slots:
    void trail_passes_through_where_the_particle_was() {
        constexpr float length_s = 0.5f;
        Vortex whirl;
        whirl.grip = 8;
        Simulation simulation;
        simulation.set_effect(shared(with_trails(thrown(), length_s, {Gravity{}, whirl})));
        std::vector<Vec3> places; // after each step
        Frame frame;
        for (int step = 1; step <= 90; ++step) {
            simulation.step();
            places.push_back(particles(simulation)[0].position);
            simulation.write_frame(frame);
            if (step < 3) {
                continue;
            }
            const FrameSource& source = frame.sources[0];
            QCOMPARE(source.trails.size(), size_t(1));
            const FrameTrail& trail = source.trails[0];
            QCOMPARE(source.trail_points[trail.first].place, places.back());
            float before = -1;
            for (uint32_t i = 0; i < trail.count; ++i) {
                const FrameTrailPoint& point = source.trail_points[trail.first + i];
                QVERIFY(point.share > before && point.share <= 1 + 1e-5f);
                before = point.share;
                const double steps_back = double(point.share * length_s) * 60;
                const auto whole = size_t(std::lround(steps_back));
                const bool is_end = i + 1 == trail.count && step > 29;
                if (!is_end) {
                    QVERIFY(std::abs(steps_back - double(whole)) < 1e-3);
                    QCOMPARE(point.place, places[places.size() - 1 - whole]);
                }
            }
            // As long as it may be, or since its birth.
            const double longest = std::min(double(length_s), (step - 1) / 60.0);
            QVERIFY(std::abs(double(before * length_s) - longest) < 3.1 / 60);
            QVERIFY(step <= 32 || std::abs(before - 1) < 1e-4f);
        }
    }

    void what_has_died_leaves_its_trail_until_it_has_run_out() {
        Emitter emitter = thrown();
        emitter.lifetime = {0.5f, 0.5f};
        emitter.duration = 0.02f;
        Simulation simulation;
        simulation.set_effect(shared(with_trails(emitter, 0.4f)));
        Frame frame;
        std::map<int, size_t> count;
        for (int step = 1; step <= 70; ++step) {
            simulation.step();
            simulation.write_frame(frame);
            count[step] = frame.sources[0].trails.empty() ? 0 : frame.sources[0].trails[0].count;
        }
        QVERIFY(count[20] > 6);
        QVERIFY(particles(simulation).empty());
        QVERIFY(count[36] > 4 && count[45] > 1 && count[45] < count[36]);
        QCOMPARE(count[65], size_t(0));
    }

    void trails_belong_to_their_particles_whoever_else_is_born_or_dies() {
        Emitter emitter;
        emitter.look = "soft-dots";
        emitter.rate = 900;
        emitter.capacity = 4000;
        emitter.lifetime = {0.1f, 1.5f};
        emitter.spread = 180;
        emitter.speed = {1, 3};
        Simulation simulation;
        simulation.set_effect(shared(with_trails(emitter, 0.6f)));
        for (int i = 0; i < 100; ++i) {
            simulation.step();
        }
        Frame frame;
        simulation.write_frame(frame);
        const FrameSource& source = frame.sources[0];
        // No forces: all that is alive has come in a straight line, each with its own speed.
        QVERIFY(source.trails.size() >= particles(simulation).size() - 15);
        for (const FrameTrail& trail : source.trails) {
            const auto point = [&](uint32_t i) { return source.trail_points[trail.first + i].place; };
            const Vec3 way = normalized(point(trail.count - 1) - point(0));
            for (uint32_t i = 1; i + 1 < trail.count; ++i) {
                QVERIFY(length(cross(point(i) - point(0), way)) < 1e-3f);
            }
        }
    }

    void trails_start_anew_when_time_does_and_are_off_for_dots() {
        Simulation simulation;
        simulation.set_effect(shared(with_trails(thrown(), 1)));
        Frame frame;
        for (int i = 0; i < 40; ++i) {
            simulation.step();
        }
        simulation.rewind();
        simulation.step();
        simulation.step();
        simulation.write_frame(frame);
        QVERIFY(frame.sources[0].trails.empty() || frame.sources[0].trails[0].count < 4);
        Effect dots = with_trails(thrown(), 1);
        dots.looks[0].drawn_as = Drawing::dots;
        simulation.set_effect(shared(dots));
        simulation.step();
        simulation.write_frame(frame);
        QVERIFY(frame.sources[0].trails.empty() && frame.sources[0].motions.empty());
        dots.looks[0].drawn_as = Drawing::streaks;
        simulation.set_effect(shared(dots));
        simulation.step();
        simulation.write_frame(frame);
        const Vec3 velocity = frame.sources[0].motions[0].velocity(frame.sources[0].fastest);
        QVERIFY(length(velocity - particles(simulation)[0].velocity) < 0.01f);
    }
};

QTEST_APPLESS_MAIN(TestTrails)
#include "tst_trails.moc"
