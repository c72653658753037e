#include "sample_effects.h"

#include <QtTest>

using namespace ember;
using namespace ember::sample;

namespace {

Emitter fountain(float rate, Range lifetime) {
    Emitter emitter;
    emitter.rate = rate;
    emitter.capacity = 1000000;
    emitter.lifetime = lifetime;
    emitter.look = "soft-dots";
    return emitter;
}

// Chi-square of counts that should be equal.
double chi_square(const std::vector<int>& counts) {
    double total = 0;
    for (const int count : counts) {
        total += count;
    }
    const double expected = total / double(counts.size());
    double sum = 0;
    for (const int count : counts) {
        sum += (count - expected) * (count - expected) / expected;
    }
    return sum;
}

} // namespace

class TestBirths : public QObject {
    Q_OBJECT

  private slots:
    void births_per_second_are_right_to_one_particle_over_a_minute() {
        for (const float rate : {0.7f, 59.9f, 60.0f, 333.3f, 7777.7f}) {
            const Simulation simulation = run(effect_of(fountain(rate, {0.5f, 0.5f})), 60);
            const auto born = double(simulation.find_pool("e")->born());
            QVERIFY2(std::abs(born - double(rate) * 60) <= 1,
                     qPrintable(QString("rate %1: %2").arg(double(rate)).arg(born)));
        }
    }

    void live_count_is_rate_times_mean_lifetime() {
        const Simulation simulation = run(effect_of(fountain(5000, {1, 2})), 10);
        QVERIFY(std::abs(double(simulation.meters().particles) - 7500) < 150);
    }

    void births_are_spread_over_the_step() {
        Emitter emitter = fountain(600, {5, 5});
        emitter.shape = BirthShape::point;
        emitter.spread = 0;
        emitter.speed = {6, 6};
        const Simulation simulation = run(effect_of(emitter), 1);
        const auto all = particles(simulation);
        for (size_t i = 1; i < all.size(); ++i) {
            // A jet without gaps: neighbours are 1/600 s apart, so 1 cm.
            QVERIFY(std::abs(length(all[i].position - all[i - 1].position) - 0.01f) < 2e-4f);
        }
    }

    // In the step in which it comes, whatever else is born.
    void a_burst_is_told_by_its_step() {
        Emitter emitter = fountain(600, {1, 1});
        emitter.burst_count = 3;
        emitter.burst_start = 0.105f;
        emitter.burst_every = 0.25f;
        emitter.burst_repeats = 3;
        Simulation simulation;
        simulation.set_effect(shared(effect_of(emitter)));
        std::vector<int> steps;
        for (int i = 0; i < 120; ++i) {
            simulation.step();
            for (uint32_t k = 0; k < simulation.meters().elements[0].bursts; ++k) {
                steps.push_back(i);
            }
        }
        QCOMPARE(steps, (std::vector<int>{6, 21, 36}));
    }

    void what_does_not_fit_the_capacity_is_counted() {
        Emitter emitter = fountain(600, {100, 100});
        emitter.capacity = 1000;
        const Simulation simulation = run(effect_of(emitter), 5);
        QCOMPARE(simulation.meters().particles, size_t(1000));
        QCOMPARE(simulation.meters().elements[0].refused, uint64_t(2000));
        QCOMPARE(simulation.meters().elements[0].born, uint64_t(1000));
    }

    void the_living_keep_their_order_through_all_deaths() {
        Simulation simulation = run(effect_of(fountain(20000, {0.05f, 2.5f})), 1);
        for (int i = 0; i < 200; ++i) {
            simulation.step();
            const auto all = particles(simulation);
            QCOMPARE(all.size(), simulation.meters().particles);
            for (size_t j = 1; j < all.size(); ++j) {
                QVERIFY(all[j].number > all[j - 1].number);
            }
            for (const auto& p : all) {
                QVERIFY(p.age < p.lifetime && p.age >= 0);
            }
        }
    }

    void blocks_stay_well_filled() {
        const Simulation simulation = run(effect_of(fountain(40000, {0.1f, 4})), 8);
        const ParticlePool& pool = *simulation.find_pool("e");
        const double fill = double(pool.live()) / double(pool.blocks().size() * block_size);
        QVERIFY2(fill > 0.75, qPrintable(QString::number(fill)));
    }

    void a_live_particle_takes_at_most_96_bytes_all_in() {
        const Simulation simulation = run(effect_of(fountain(40000, {0.1f, 4})), 8);
        Frame frame;
        simulation.write_frame(frame);
        const double bytes =
            double(simulation.meters().bytes + 3 * frame.bytes()) / double(simulation.meters().particles);
        qInfo("%f bytes for a live particle", bytes);
        QVERIFY(bytes <= 96);
    }

    void ranges_are_filled_evenly() {
        Emitter emitter = fountain(6e5f, {10, 20});
        emitter.particle_size = {0.1f, 0.3f};
        emitter.speed = {1, 5};
        std::vector<int> lifetimes(10), sizes(10), speeds(10);
        const auto bin = [](float value, float low, float high) {
            return size_t(std::clamp(int((value - low) / (high - low) * 10), 0, 9));
        };
        const Simulation simulation = run(effect_of(emitter), 1.0 / 60);
        for (const auto& p : particles(simulation)) {
            QVERIFY(p.lifetime >= 10 && p.lifetime <= 20);
            ++lifetimes[bin(p.lifetime, 10, 20)];
            ++sizes[bin(p.size, 0.1f, 0.3f)];
            ++speeds[bin(length(p.velocity), 1, 5)];
        }
        // 27.9 is the 99.9 % point for nine degrees of freedom.
        QVERIFY(chi_square(lifetimes) < 27.9);
        QVERIFY(chi_square(sizes) < 27.9);
        QVERIFY(chi_square(speeds) < 27.9);
    }

    void shapes_are_filled_evenly_data() {
        QTest::addColumn<int>("shape");
        for (const auto shape : {BirthShape::line, BirthShape::disc, BirthShape::box, BirthShape::ball}) {
            QTest::addRow("%d", int(shape)) << int(shape);
        }
    }
    void shapes_are_filled_evenly() {
        QFETCH(int, shape);
        Emitter emitter = fountain(1.2e6f, {10, 10});
        emitter.shape = BirthShape(shape);
        emitter.position = {1, 2, 3};
        emitter.size = {2, 2, 2};
        emitter.speed = {0, 0};
        // Bins of equal measure: length along a line, rings of equal area, layers of a box, shells of equal
        // volume.
        std::vector<int> bins(10);
        const Simulation simulation = run(effect_of(emitter), 1.0 / 60);
        for (const auto& p : particles(simulation)) {
            const Vec3 d = p.position - emitter.position;
            const float r = length(d);
            float share = (d.x + 1) / 2;
            if (emitter.shape == BirthShape::disc) {
                QVERIFY(std::abs(d.y) < 1e-5f);
                share = r * r;
            } else if (emitter.shape == BirthShape::ball) {
                share = r * r * r;
            } else if (emitter.shape == BirthShape::line) {
                QVERIFY(std::abs(d.y) < 1e-5f && std::abs(d.z) < 1e-5f);
            }
            QVERIFY(share > -1e-4f && share < 1.0001f);
            ++bins[size_t(std::clamp(int(share * 10), 0, 9))];
        }
        QVERIFY2(chi_square(bins) < 27.9, qPrintable(QString::number(chi_square(bins))));
    }

    void directions_fill_the_cone_evenly() {
        Emitter emitter = fountain(6e5f, {10, 10});
        emitter.direction = {1, 2, -0.5f};
        emitter.spread = 60;
        emitter.speed = {1, 1};
        std::vector<int> caps(10);
        const Vec3 axis = normalized(emitter.direction);
        const Simulation simulation = run(effect_of(emitter), 1.0 / 60);
        for (const auto& p : particles(simulation)) {
            // Caps of equal height have equal area.
            const float share = (1 - dot(p.velocity, axis)) / 0.5f;
            QVERIFY(share > -1e-3f && share < 1.001f);
            ++caps[size_t(std::clamp(int(share * 10), 0, 9))];
        }
        QVERIFY(chi_square(caps) < 27.9);
    }
};

QTEST_APPLESS_MAIN(TestBirths)
#include "tst_births.moc"
