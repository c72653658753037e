// A simulation that is restored goes on as it would have without: every demo effect, at times that are drawn.
#include "demos.h"
#include "sample_effects.h"
#include "state_bytes.h"

#include "core/scene/input_log.h"

#include <oneapi/tbb/global_control.h>

#include <QtTest>

#include <random>

using namespace ember;
using namespace ember::sample;

namespace {

void step_to(Simulation& simulation, uint64_t step) {
    while (simulation.steps() < step) {
        simulation.step(people_at(simulation.steps()));
    }
}

template <class Value>
QByteArray bytes_of(const std::vector<Value>& values) {
    return {reinterpret_cast<const char*>(values.data()), qsizetype(values.size() * sizeof(Value))};
}

} // namespace

class TestSnapshot : public QObject {
    Q_OBJECT

  private slots:
    void demos_go_on_to_the_byte_data() { add_demo_rows(); }

    // Snapshots are taken of one run on its way; each is restored, in a fresh simulation or in one that has
    // run elsewhere since, and is as the run was 2 s later.
    void demos_go_on_to_the_byte() {
        QFETCH(const QString, name);
        const Effect effect = demo_effect(name);
        const Assets assets = demo_assets(effect);
        const std::vector<std::string> ids = ids_of(effect);
        constexpr uint64_t end = 9 * 60, later = 2 * 60;
        constexpr int most = 8;

        std::mt19937 draw(7 + uint32_t(name.size()));
        std::set<uint64_t> at;
        while (at.size() < most) {
            at.insert(draw() % end);
        }
        std::map<uint64_t, std::shared_ptr<const Simulation::Snapshot>> kept;
        std::map<uint64_t, QByteArray> went_on;
        Simulation run;
        run.set_effect(shared(effect), assets);
        for (uint64_t step = 0; step <= end + later; ++step) {
            step_to(run, step);
            if (at.contains(step)) {
                kept[step] = run.snapshot();
            }
            if (step >= later && at.contains(step - later)) {
                went_on[step - later] = state_bytes(run, ids);
            }
        }
        Simulation other;
        int turn = 0;
        size_t bytes = 0;
        std::vector<uint64_t> order(at.begin(), at.end());
        std::shuffle(order.begin(), order.end(), draw);
        for (const uint64_t step : order) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism,
                                            size_t(turn % 2 + 1));
            Simulation fresh;
            Simulation& one = ++turn % 3 == 0 ? fresh : other;
            one.restore(*kept[step]);
            QCOMPARE(one.steps(), step);
            step_to(one, step + later);
            QVERIFY2(state_bytes(one, ids) == went_on[step],
                     qPrintable(QStringLiteral("kept at step %1").arg(step)));
            bytes = std::max(bytes, Simulation::bytes(*kept[step]));
        }
        qInfo("%.2f MB at most", double(bytes) / 1e6);
        QVERIFY(bytes > 10'000 && bytes < 16'000'000);
    }

    // Two bodies of several parts each, that touch in many places: as many points of contact are kept.
    void bodies_of_several_parts_that_lie_on_one_another_go_on_to_the_byte() {
        Effect effect;
        for (const char* id : {"lower", "upper"}) {
            Breakable block;
            block.position = {id[0] == 'l' ? 0.0f : 0.2f, id[0] == 'l' ? 0.5f : 1.55f, 0.1f};
            block.stands = id[0] == 'l';
            block.strength = 1e5f;
            block.pieces = 12;
            effect.elements.push_back({.id = id, .name = id, .body = block});
        }
        Dropper dropper;
        dropper.position = {0.2f, 1.55f, 0.1f};
        dropper.drops = "upper";
        dropper.first = 0;
        dropper.every = 0;
        effect.elements.push_back({.id = "dropper", .name = "Dropper", .body = dropper});
        const std::vector<Link> both = {{"lower", 1}, {"upper", 1}};
        effect.elements.push_back(
            {.id = "fall", .name = "Fall", .body = Gravity{.strength = 9.81f}, .links = both});
        effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{}, .links = both});
        const Assets assets = AssetLibrary().load(effect, ".").assets;
        const std::vector<std::string> ids = ids_of(effect);
        Simulation run;
        run.set_effect(shared(effect), assets);
        std::map<uint64_t, std::shared_ptr<const Simulation::Snapshot>> kept;
        std::map<uint64_t, QByteArray> at;
        for (uint64_t step = 0; step <= 180; step += 15) {
            step_to(run, step);
            kept[step] = run.snapshot();
            at[step] = state_bytes(run, ids);
        }
        QCOMPARE(run.bodies("upper").size(), size_t(1)); // whole
        for (uint64_t step = 0; step + 45 <= 180; step += 15) {
            Simulation other;
            other.restore(*kept[step]);
            step_to(other, step + 45);
            QVERIFY2(state_bytes(other, ids) == at[step + 45], qPrintable(QString::number(step)));
        }
    }

    // Right after it is restored, too, all is as it was when it was kept, lenses included.
    void it_is_as_it_was_at_once() {
        const Effect effect = demo_effect("pan-steam.ember.json");
        Simulation run, other;
        run.set_effect(shared(effect));
        step_to(run, 200);
        FieldOrder order;
        for (int i = 0; i < 50; ++i) {
            order.places.push_back({-1.2f + 0.05f * float(i), 0.3f, 0.1f});
        }
        const QByteArray before = state_bytes(run, ids_of(effect));
        other.restore(*run.snapshot());
        QVERIFY(state_bytes(other, ids_of(effect)) == before);
        for (const auto aspect : {std::optional<SmokeAspect>(), std::optional(SmokeAspect::flow),
                                  std::optional(SmokeAspect::remains), std::optional(SmokeAspect::density)}) {
            order.smoke = aspect;
            const FieldReading one = run.read_field(order), two = other.read_field(order);
            QVERIFY(bytes_of(one.vectors) == bytes_of(two.vectors));
            QVERIFY(bytes_of(one.amounts) == bytes_of(two.amounts));
        }
    }

    // Snapshots do not change what they were taken of, and stay as they are while it goes on.
    void a_snapshot_stands_still() {
        const Effect effect = demo_effect("salt-stack.ember.json");
        const Assets assets = demo_assets(effect);
        const std::vector<std::string> ids = ids_of(effect);
        Simulation watched, unwatched;
        watched.set_effect(shared(effect), assets);
        unwatched.set_effect(shared(effect), assets);
        std::vector<std::shared_ptr<const Simulation::Snapshot>> kept;
        for (int i = 0; i < 240; ++i) {
            step_to(watched, uint64_t(i));
            kept.push_back(watched.snapshot());
        }
        step_to(watched, 240);
        step_to(unwatched, 240);
        QVERIFY(state_bytes(watched, ids) == state_bytes(unwatched, ids));
        watched.restore(*kept[120]);
        const QByteArray first = state_bytes(watched, ids);
        step_to(watched, 200);
        watched.restore(*kept[120]);
        QVERIFY(state_bytes(watched, ids) == first);
    }

    // People are logged, and the run is made again from the log as it was written and read.
    void a_log_of_inputs_makes_the_run_again() {
        const Effect effect = demo_effect("sluice-spray.ember.json");
        const Assets assets = demo_assets(effect);
        const std::vector<std::string> ids = ids_of(effect);
        Simulation live, again;
        live.set_effect(shared(effect), assets);
        again.set_effect(shared(effect), assets);
        InputLog log(live.step_s());
        for (int i = 0; i < 600; ++i) {
            StepInputs inputs = people_at(live.steps());
            inputs.cleans = i / 100 % 2 == 0;
            log.add(live.steps(), inputs);
            live.step(inputs);
        }
        QCOMPARE(log.end(), uint64_t(600));
        const std::string bytes = log.bytes();
        QVERIFY2(bytes.size() < 600 * 30, qPrintable(QString::number(bytes.size())));
        Problems problems;
        const auto known = InputLog::read(bytes, "run.inputs", problems);
        QVERIFY(known && *known == log && problems.empty());
        for (uint64_t step = 0; step < known->end(); ++step) {
            again.step(known->at(step));
        }
        QVERIFY(state_bytes(again, ids) == state_bytes(live, ids));
    }

    void a_log_forgets_what_is_made_anew() {
        InputLog log;
        StepInputs click;
        click.clicks = 2;
        for (uint64_t step = 0; step < 10; ++step) {
            log.add(step, step == 3 || step == 7 ? click : StepInputs());
        }
        QCOMPARE(log.at(7).clicks, 2);
        log.add(5, click);
        QCOMPARE(log.end(), uint64_t(6));
        QCOMPARE(log.at(3).clicks, 2);
        QCOMPARE(log.at(4).clicks, 0);
        QCOMPARE(log.at(5).clicks, 2);
        log.add(6, {});
        log.add(7, {});
        QCOMPARE(log.at(7).clicks, 0);
    }

    // Every log that is cut short anywhere, or has a byte changed, is refused with a reason or read as a
    // sound one.
    void damaged_logs_are_refused() {
        InputLog log;
        for (uint64_t step = 0; step < 60; ++step) {
            log.add(step, people_at(step * 13));
        }
        const std::string bytes = log.bytes();
        for (size_t size = 0; size < bytes.size(); ++size) {
            Problems problems;
            const auto known = InputLog::read(std::string_view(bytes).substr(0, size), "cut", problems);
            QVERIFY(known.has_value() == problems.empty());
        }
        std::mt19937 draw(3);
        for (int i = 0; i < 3000; ++i) {
            std::string damaged = bytes;
            damaged[draw() % damaged.size()] = char(draw());
            Problems problems;
            const auto known = InputLog::read(damaged, "damaged", problems);
            QVERIFY(known.has_value() == problems.empty());
            if (known) {
                QVERIFY(InputLog::read(known->bytes(), "again", problems)->bytes() == known->bytes());
            }
        }
        std::string newer = bytes;
        newer[8] = 9;
        Problems problems;
        QVERIFY(!InputLog::read(newer, "newer", problems));
        QVERIFY2(problems.front().text().find("newer program") != std::string::npos,
                 problems.front().text().c_str());
    }
};

QTEST_GUILESS_MAIN(TestSnapshot)
#include "tst_snapshot.moc"
