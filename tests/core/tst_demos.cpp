// The Saltworks: every demo effect is sound, repeats to the byte and stays within its budget of particles.
#include "demos.h"
#include "sample_effects.h"
#include "state_bytes.h"

#include "core/smoke/volume.h"

#include "core/budget/expected.h"

#include <oneapi/tbb/global_control.h>

#include <QtTest>

#include <cstring>

using namespace ember;
using namespace ember::sample;

namespace {

bool has_smoke(const Effect& effect) {
    return std::any_of(effect.elements.begin(), effect.elements.end(),
                       [](const Element& each) { return std::holds_alternative<Smoke>(each.body); });
}

QByteArray bytes_after(const Effect& effect, const Assets& assets, double seconds, int threads) {
    const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, size_t(threads));
    Simulation simulation;
    simulation.set_effect(sample::shared(effect), assets);
    while (simulation.is_warming_up()) {
        simulation.step();
    }
    for (int i = 0; i < int(seconds * 60); ++i) {
        simulation.step();
    }
    return sample::state_bytes(simulation, sample::ids_of(effect));
}

bool has_pieces(const Effect& effect) {
    return std::any_of(effect.elements.begin(), effect.elements.end(),
                       [](const Element& each) { return std::holds_alternative<Breakable>(each.body); });
}

} // namespace

class TestDemos : public QObject {
    Q_OBJECT

  private slots:
    void is_sound_with_all_its_files_and_room_for_what_is_expected_data() { add_demo_rows(); }
    void is_sound_with_all_its_files_and_room_for_what_is_expected() {
        QFETCH(QString, name);
        const ReadResult read = read_demo(name);
        QVERIFY2(read.is_sound(), read.problems.empty() ? "" : read.problems[0].text().c_str());
        QFile file(demo_folder + "/" + name);
        QVERIFY(file.open(QIODevice::ReadOnly));
        QCOMPARE(effect_text(*read.effect), file.readAll().toStdString());
        const LoadResult loaded = AssetLibrary().load(*read.effect, demo_folder.toStdString());
        QVERIFY(loaded.missing.empty() && loaded.notes.empty());
        double all = 0;
        const auto expected = expected_counts(*read.effect);
        for (size_t i = 0; i < expected.size(); ++i) {
            const auto excess = expected_excess(*read.effect, i, expected[i]);
            QVERIFY2(!excess, excess ? excess->c_str() : "");
            all += expected[i].live;
        }
        QVERIFY(all < read.effect->budget.particles);
    }

    void one_thread_and_two_threads_give_the_same_bytes_data() { add_demo_rows(); }
    void one_thread_and_two_threads_give_the_same_bytes() {
        QFETCH(QString, name);
        const Effect effect = *read_demo(name).effect;
        const Assets assets = demo_assets(effect);
        const double seconds = has_smoke(effect) ? 3 : 30;
        const QByteArray one = bytes_after(effect, assets, seconds, 1);
        QVERIFY(one.size() > (has_pieces(effect) ? 5000 : 50000));
        QVERIFY(one == bytes_after(effect, assets, seconds, 2));
    }
};

QTEST_APPLESS_MAIN(TestDemos)
#include "tst_demos.moc"
