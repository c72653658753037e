// A simulation that is restored goes on as it would have without: every demo effect, at times that are drawn.
#include "sample_effects.h"
#include "state_bytes.h"

#include "core/effect/effect_file.h"

#include <oneapi/tbb/global_control.h>

#include <QDir>
#include <QtTest>

#include <random>

using namespace ember;

namespace {

const QString folder = QStringLiteral(EMBER_SOURCE_DIR "/demo/saltworks");

// What people do, the same in each step of the same number: the pointer goes round, clicks and keys come.
StepInputs inputs_at(uint64_t step) {
    StepInputs inputs;
    const float turn = float(step) * 0.03f;
    if (step % 400 < 300) {
        inputs.pointer = {{std::cos(turn) * 0.5f, 1, 4}, {0, std::sin(turn) * 0.1f, -1}};
    }
    inputs.clicks = step % 97 == 0 ? 1 : 0;
    if (step % 143 == 0) {
        inputs.keys.push_back(1);
    }
    return inputs;
}

void step_to(Simulation& simulation, uint64_t step) {
    while (simulation.steps() < step) {
        simulation.step(inputs_at(simulation.steps()));
    }
}

} // namespace

class TestSnapshot : public QObject {
    Q_OBJECT

  private slots:
    void demos_go_on_to_the_byte_data() {
        QTest::addColumn<QString>("name");
        for (const QString& name : QDir(folder).entryList({"*.ember.json"})) {
            QTest::newRow(qPrintable(name.section('.', 0, 0))) << name;
        }
    }

    // Snapshots are taken of one run on its way; each is restored, in a fresh simulation or in one that has
    // run elsewhere since, and is as the run was 2 s later.
    void demos_go_on_to_the_byte() {
        QFETCH(const QString, name);
        const ReadResult read = read_effect((folder + "/" + name).toStdString());
        const Effect& effect = *read.effect;
        const Assets assets = AssetLibrary().load(effect, folder.toStdString()).assets;
        const std::vector<std::string> ids = sample::ids_of(effect);
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
        run.set_effect(sample::shared(effect), assets);
        for (uint64_t step = 0; step <= end + later; ++step) {
            step_to(run, step);
            if (at.contains(step)) {
                kept[step] = run.snapshot();
            }
            if (step >= later && at.contains(step - later)) {
                went_on[step - later] = sample::state_bytes(run, ids);
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
            QVERIFY2(sample::state_bytes(one, ids) == went_on[step],
                     qPrintable(QStringLiteral("kept at step %1").arg(step)));
            bytes = std::max(bytes, Simulation::bytes(*kept[step]));
        }
        qInfo("%.2f MB at most", double(bytes) / 1e6);
        QVERIFY(bytes > 10'000 && bytes < 16'000'000);
    }

    // Right after it is restored, too, all is as it was when it was kept, lenses included.
    void it_is_as_it_was_at_once() {
        const ReadResult read = read_effect((folder + "/pan-steam.ember.json").toStdString());
        Simulation run, other;
        run.set_effect(sample::shared(*read.effect));
        step_to(run, 200);
        FieldOrder order;
        for (int i = 0; i < 50; ++i) {
            order.places.push_back({-1.2f + 0.05f * float(i), 0.3f, 0.1f});
        }
        const QByteArray before = sample::state_bytes(run, sample::ids_of(*read.effect));
        other.restore(*run.snapshot());
        QVERIFY(sample::state_bytes(other, sample::ids_of(*read.effect)) == before);
        for (const auto aspect : {std::optional<SmokeAspect>(), std::optional(SmokeAspect::flow),
                                  std::optional(SmokeAspect::remains), std::optional(SmokeAspect::density)}) {
            order.smoke = aspect;
            const FieldReading one = run.read_field(order), two = other.read_field(order);
            QVERIFY(std::memcmp(one.vectors.data(), two.vectors.data(),
                                one.vectors.size() * sizeof(one.vectors[0])) == 0);
            QVERIFY(std::memcmp(one.amounts.data(), two.amounts.data(),
                                one.amounts.size() * sizeof(one.amounts[0])) == 0);
        }
    }

    // Snapshots do not change what they were taken of, and stay as they are while it goes on.
    void a_snapshot_stands_still() {
        const ReadResult read = read_effect((folder + "/salt-stack.ember.json").toStdString());
        const Assets assets = AssetLibrary().load(*read.effect, folder.toStdString()).assets;
        const std::vector<std::string> ids = sample::ids_of(*read.effect);
        Simulation watched, unwatched;
        watched.set_effect(sample::shared(*read.effect), assets);
        unwatched.set_effect(sample::shared(*read.effect), assets);
        std::vector<std::shared_ptr<const Simulation::Snapshot>> kept;
        for (int i = 0; i < 240; ++i) {
            step_to(watched, uint64_t(i));
            kept.push_back(watched.snapshot());
        }
        step_to(watched, 240);
        step_to(unwatched, 240);
        QVERIFY(sample::state_bytes(watched, ids) == sample::state_bytes(unwatched, ids));
        watched.restore(*kept[120]);
        const QByteArray first = sample::state_bytes(watched, ids);
        step_to(watched, 200);
        watched.restore(*kept[120]);
        QVERIFY(sample::state_bytes(watched, ids) == first);
    }
};

QTEST_GUILESS_MAIN(TestSnapshot)
#include "tst_snapshot.moc"
