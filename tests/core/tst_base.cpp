// The small parts that everything stands on.
#include "core/assets/image.h"
#include "core/base/file.h"
#include "core/base/hash.h"
#include "core/base/octave_table.h"
#include "core/base/triple_buffer.h"
#include "core/particles/pool.h"
#include "core/runtime/report.h"
#include "sample_effects.h"

#include <QTemporaryDir>
#include <QtTest>

#include <bit>
#include <set>
#include <sstream>
#include <thread>

using namespace ember;

class TestBase : public QObject {
    Q_OBJECT

  private slots:
    void triple_buffer_hands_over_the_newest_value_and_never_goes_back() {
        TripleBuffer<std::pair<int, int>> buffer;
        constexpr int last = 200000;
        std::thread writer([&buffer] {
            for (int i = 1; i <= last; ++i) {
                buffer.back() = {i, -i};
                buffer.publish();
            }
        });
        int seen = 0;
        bool whole = true, forward = true;
        while (seen < last) {
            if (buffer.take()) {
                const auto [value, mirrored] = buffer.front();
                whole = whole && value == -mirrored;
                forward = forward && value > seen;
                seen = value;
            }
        }
        writer.join();
        QVERIFY(whole);
        QVERIFY(forward);
        QVERIFY(!buffer.take());
    }

    void seeds_of_neighbours_have_nothing_in_common() {
        std::set<uint32_t> seeds;
        double bits_changed = 0;
        for (uint32_t i = 0; i < 1000; ++i) {
            seeds.insert(mixed_seed(41, i));
            bits_changed += std::popcount(mixed_seed(41, i) ^ mixed_seed(41, i + 1)) / 1000.0;
        }
        QCOMPARE(seeds.size(), size_t(1000));
        QVERIFY(std::abs(bits_changed - 16) < 0.5);
        QVERIFY(hash_of("gravity") != hash_of("gravity-2"));
    }

    void problem_says_what_where_and_what_to_do() {
        const Problem problem = {"a.json", 3, "/seed", "-1", "a whole number"};
        QCOMPARE(problem.text(), std::string("a.json:3: /seed: found -1, expected a whole number"));
        const Problem bare = {"", 0, "", "nothing", "something"};
        QCOMPARE(bare.text(), std::string("found nothing, expected something"));
    }

    void tables_by_octaves_are_as_the_function_is() {
        for (const auto& [table, function] :
             {std::pair(&quick_srgb(), &srgb_of), {&quick_light(), &light_of}}) {
            for (int i = 0; i <= 100000; ++i) {
                const float x = float(i) / 100000;
                QVERIFY2(std::abs(table->at(x) - function(x)) < 0.15f / 65535,
                         qPrintable(QString::number(x)));
            }
            QCOMPARE(table->at(-1), 0.0f);
            QCOMPARE(table->at(7), 1.0f);
            QCOMPARE(table->at(INFINITY), 1.0f);
            QCOMPARE(table->at(NAN), 1.0f);
        }
    }

    void file_that_is_too_large_is_not_read() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("large").toStdString();
        QVERIFY(!write_file(path, [](std::ostream& stream) { stream << std::string(1001, 'x'); }));
        Problems problems;
        QVERIFY(!read_file(path, 1000, problems));
        QVERIFY(problems.front().found.find("1001 bytes") != std::string::npos);
        QCOMPARE(read_file(path, 1001, problems)->size(), size_t(1001));
    }

    void full_disk_is_said_and_leaves_nothing_behind() {
        // The device that is always full stands for the disk.
        const auto problem = write_file("/dev/full/x", [](std::ostream& stream) { stream << "x"; });
        QVERIFY(problem && problem->expected.find("with room left") != std::string::npos);
    }

    void burying_keeps_the_living_in_order_data() {
        QTest::addColumn<int>("every");
        QTest::newRow("all die") << 1;
        QTest::newRow("every second dies") << 2;
        QTest::newRow("few die") << 97;
        QTest::newRow("none dies") << 100000;
    }
    void burying_keeps_the_living_in_order() {
        QFETCH(int, every);
        ParticleBlock block;
        block.count = block_size;
        int expected = 0;
        for (int i = 0; i < block_size; ++i) {
            const bool dies = i % every == every - 1;
            block.number[i] = uint32_t(i);
            block.x[i] = float(i);
            block.age[i] = 1;
            block.lifetime[i] = dies ? 0.5f : 2;
            expected += dies ? 0 : 1;
        }
        ParticlePool::bury(block);
        QCOMPARE(block.count, expected);
        for (int i = 0; i < block.count; ++i) {
            QCOMPARE(block.x[i], float(block.number[i]));
            QVERIFY(block.number[i] % uint32_t(every) != uint32_t(every - 1));
            QVERIFY(i == 0 || block.number[i] > block.number[i - 1]);
        }
    }

    void report_counts_steps_and_says_what_is_over_budget() {
        Effect effect = sample::effect_of(Emitter{.rate = 6000, .capacity = 50, .look = "soft-dots"});
        effect.budget.particles = 40;
        Simulation simulation;
        simulation.set_effect(sample::shared(effect));
        Report report(effect);
        QVERIFY(!report.is_over_budget());
        for (int i = 0; i < 30; ++i) {
            simulation.step();
            report.add(simulation);
        }
        QVERIFY(report.is_over_budget());
        std::ostringstream summary;
        report.write_summary(summary);
        QVERIFY(summary.str().find("30 steps") != std::string::npos);
        QVERIFY(summary.str().find("over budget: particles 50, limit 40") != std::string::npos);
        QVERIFY(summary.str().find("births refused by capacity") != std::string::npos);
    }

    void muted_source_is_as_if_it_were_not_there() {
        Effect effect = sample::effect_of(Emitter{.look = "soft-dots"});
        Simulation simulation = sample::run(effect, 0.5);
        QVERIFY(simulation.meters().particles > 100);
        effect.elements[0].muted = true;
        simulation.set_effect(sample::shared(effect));
        simulation.step();
        QCOMPARE(simulation.meters().particles, size_t(0));
        QCOMPARE(simulation.meters().bytes, size_t(0));
    }

    void meters_follow_their_elements_when_the_board_is_reordered() {
        Effect effect = sample::effect_of(Emitter{.look = "soft-dots"}, {Gravity{}, Turbulence{}});
        Simulation simulation = sample::run(effect, 0.5);
        const double turbulence_ms = simulation.meters().elements[2].ms;
        std::swap(effect.elements[1], effect.elements[2]);
        effect.elements.pop_back();
        simulation.set_effect(sample::shared(effect));
        QCOMPARE(simulation.meters().elements.size(), size_t(2));
        QCOMPARE(simulation.meters().elements[1].ms, turbulence_ms);
    }

    void rate_changed_in_flight_keeps_the_births_right() {
        Effect effect = sample::effect_of(
            Emitter{.rate = 100.5f, .capacity = 100000, .lifetime = {100, 100}, .look = "soft-dots"});
        Simulation simulation = sample::run(effect, 10);
        std::get<Emitter>(effect.elements[0].body).rate = 777.25f;
        simulation.set_effect(sample::shared(effect));
        for (int i = 0; i < 600; ++i) {
            simulation.step();
        }
        QVERIFY(std::abs(double(simulation.meters().particles) - 10 * (100.5 + 777.25)) <= 1);
    }

    void an_effect_without_elements_runs() {
        Effect effect = starter_effect();
        effect.elements.clear();
        Simulation simulation = sample::run(effect, 0.1);
        Frame frame;
        simulation.write_frame(frame);
        QCOMPARE(frame.particle_count(), size_t(0));
        QCOMPARE(frame.step, uint64_t(6));
    }
};

QTEST_APPLESS_MAIN(TestBase)
#include "tst_base.moc"
