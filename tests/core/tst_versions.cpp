// Effect files of older versions mean what they meant, and time zero ends the warm-up.
#include "demos.h"
#include "sample_effects.h"

#include "core/base/file.h"
#include "core/runtime/simulation.h"
#include "core/scene/placements.h"

#include <QtTest>

#include <QRegularExpression>

using namespace ember;
using namespace ember::sample;

namespace {

QString older_demo(int version, const QString& name) {
    QFile file(QStringLiteral(EMBER_SOURCE_DIR "/tests/files/version-%1/").arg(version) + name);
    return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
}

Effect effect_from(const QString& text) {
    ReadResult result = parse_effect(text.toStdString(), "older");
    return result.problems.empty() && result.effect ? *result.effect : Effect();
}

Simulation after_steps(const Effect& effect, uint64_t steps) {
    Simulation simulation;
    simulation.set_effect(shared(effect), demo_assets(effect));
    for (uint64_t step = 0; step < steps; ++step) {
        simulation.step(people_at(step));
    }
    return simulation;
}

// The file of an effect that warms up for 3 s, with one element, as version 1 has it.
QString older_text(const ElementBody& body) {
    Effect effect;
    effect.stage.warm_up = 3;
    effect.elements.push_back({.id = "it", .name = "It", .body = body});
    return QString::fromStdString(effect_text(effect)).replace("\"version\": 3", "\"version\": 1");
}

template <class Body>
Body brought_up_to_date(const Body& body) {
    return std::get<Body>(effect_from(older_text(body)).elements.at(0).body);
}

} // namespace

class TestVersions : public QObject {
    Q_OBJECT

  private slots:
    void colliders_of_version_2_hold_smoke() {
        const QString text = older_demo(2, "pan-steam.ember.json");
        QVERIFY(text.contains("\"version\": 2"));
        const Effect effect = effect_from(text);
        int colliders = 0;
        for (const Element& element : effect.elements) {
            const Link* link = find_link(element, "steam");
            if (surface_of(element.body) != nullptr) {
                QVERIFY(link != nullptr && link->weight == 1);
                ++colliders;
            } else {
                QVERIFY(link == nullptr);
            }
        }
        QCOMPARE(colliders, 15);
        // Saved, it says so itself.
        QVERIFY(effect_from(QString::fromStdString(effect_text(effect))) == effect);
    }

    void a_demo_of_version_1_runs_as_it_did_data() { add_demo_rows(); }

    // Version 1 counted from the beginning of the warm-up: as a file without one that is played for longer.
    void a_demo_of_version_1_runs_as_it_did() {
        QFETCH(QString, name);
        const QString text = older_demo(1, name);
        QVERIFY(text.contains("\"version\": 1"));
        const Effect effect = effect_from(text);
        QVERIFY(!effect.elements.empty());
        const Effect unwarmed =
            effect_from(QString(text).replace(QRegularExpression("\"warm_up\": [0-9.]+"), "\"warm_up\": 0"));
        QCOMPARE(unwarmed.stage.warm_up, 0.0f);
        const auto steps = uint64_t((effect.stage.warm_up + 1.5f) * 60);
        const Simulation now = after_steps(effect, steps), then = after_steps(unwarmed, steps);
        QVERIFY(std::abs(now.time_s() - 1.5) < 1e-6);
        QCOMPARE(now.meters().particles, then.meters().particles);
        QCOMPARE(now.meters().debris.pieces, then.meters().debris.pieces);
        Frame of_now, of_then;
        now.write_frame(of_now);
        then.write_frame(of_then);
        for (size_t i = 0; i < of_now.placements.size(); ++i) {
            const float apart = length(of_now.placements[i].position - of_then.placements[i].position);
            QVERIFY2(apart < 1e-3f, effect.elements[i].id.c_str());
        }
        // Where everything is, soon after the beginning: what swarms makes much of the last digit of a phase.
        const Simulation soon = after_steps(effect, 45), soon_then = after_steps(unwarmed, 45);
        for (const Element& source : effect.elements) {
            const auto a = particles(soon, source.id), b = particles(soon_then, source.id);
            QCOMPARE(a.size(), b.size());
            size_t others = 0;
            for (size_t i = 0; i < a.size(); ++i) {
                others += length(a[i].position - b[i].position) > 0.02f ? 1 : 0;
            }
            QVERIFY2(others * 50 <= a.size(), qPrintable(QString("%1 of %2").arg(others).arg(a.size())));
        }
    }

    void moments_of_version_1_count_from_the_end_of_the_warm_up() {
        Emitter emitter;
        QVERIFY(brought_up_to_date(emitter).begins == Begin::at_once);
        emitter.start = 4;
        emitter.order = BirthOrder::travelling;
        emitter.travel = 0.25f;
        QVERIFY(brought_up_to_date(emitter).begins == Begin::at_time);
        QCOMPARE(brought_up_to_date(emitter).start, 1.0f);
        QCOMPARE(brought_up_to_date(emitter).birth_place, 0.75f);
        Growth growth;
        growth.start = 1;
        QCOMPARE(brought_up_to_date(growth).start, -2.0f);
        TimeCurve curve;
        curve.start = 5;
        QCOMPARE(brought_up_to_date(curve).start, 2.0f);
        Cycle cycle;
        cycle.period = 4;
        QCOMPARE(brought_up_to_date(cycle).phase, 0.75f);
        Orbit orbit;
        orbit.period = -4;
        QCOMPARE(brought_up_to_date(orbit).phase, 0.25f);
        Swing swing;
        swing.period = 2;
        QCOMPARE(brought_up_to_date(swing).phase, 0.5f);
        PathMover path;
        path.period = 2;
        for (const auto& [end, phase] :
             {std::pair(PathEnd::loop, 0.5f), {PathEnd::return_back, 1.5f}, {PathEnd::stay, 1.0f}}) {
            path.at_end = end;
            QCOMPARE(brought_up_to_date(path).phase, phase);
        }
        QCOMPARE(brought_up_to_date(KeyedMover()).start, -3.0f);
        Blast blast;
        blast.first = 1;
        QCOMPARE(brought_up_to_date(blast).first, -2.0f);
        Dropper dropper;
        dropper.first = 5;
        QCOMPARE(brought_up_to_date(dropper).first, 2.0f);
        Trigger trigger;
        trigger.when = TriggerWhen::at_time;
        trigger.time = 5;
        const QString at_five = "\"time\": 5";
        QString text = older_text(trigger);
        text.replace(QRegularExpression("\"at\": [0-9.]+"), at_five); // as version 1 wrote it
        QVERIFY(text.contains(at_five));
        QCOMPARE(std::get<Trigger>(effect_from(text).elements.at(0).body).at, 2.0f);
    }

    // What begins at once has gone on through the warm-up; what has a moment has it in the artist's time.
    void time_zero_ends_the_warm_up() {
        for (const float warm_up : {0.0f, 0.4f, 2.0f}) {
            Emitter steady = still(60, 100);
            Emitter burst = still(0, 100);
            burst.begins = Begin::at_time;
            burst.burst_count = 7;
            Emitter early = burst;
            early.start = -0.5f;
            Trigger trigger;
            trigger.when = TriggerWhen::at_time;
            trigger.at = 0.5f;
            trigger.what = "idle";
            trigger.births = 11;
            Trigger again = trigger;
            again.when = TriggerWhen::every;
            again.time = 0.3f;
            again.what = "beats";
            again.births = 1;
            Growth growth;
            growth.start = 0.25f;
            growth.duration = 1;
            Effect effect = effect_of(steady);
            for (const auto& [id, body] :
                 std::vector<std::pair<std::string, ElementBody>>{{"burst", burst},
                                                                  {"early", early},
                                                                  {"idle", still(0, 100)},
                                                                  {"beats", still(0, 100)},
                                                                  {"once", trigger},
                                                                  {"again", again},
                                                                  {"growth", growth}}) {
                effect.elements.push_back({.id = id, .name = id, .body = body});
            }
            effect.stage.warm_up = warm_up;
            Simulation simulation;
            simulation.set_effect(shared(effect));
            const auto alive = [&](const char* id) {
                const ParticlePool* pool = simulation.find_pool(id);
                return pool != nullptr ? int(pool->live()) : 0;
            };
            while (simulation.is_warming_up()) {
                simulation.step();
            }
            QCOMPARE(alive("e"), int(std::lround(warm_up * 60)));
            QCOMPARE(alive("burst"), 0);
            QCOMPARE(alive("early"), warm_up > 0.5f ? 7 : 0);
            QCOMPARE(alive("idle"), 0);
            QCOMPARE(alive("beats"), int(std::ceil(double(warm_up) / 0.3 - 1e-6)) - (warm_up > 0 ? 1 : 0));
            const int beats = alive("beats");
            simulation.step();
            QCOMPARE(alive("burst"), 7);
            QCOMPARE(alive("beats"),
                     beats + (warm_up > 0 ? 1 : 0)); // at time zero, unless nothing was before
            while (simulation.time_s() < 1) {
                simulation.step();
            }
            QCOMPARE(alive("idle"), 11);
            QCOMPARE(alive("burst"), 7);
            Frame frame;
            simulation.write_frame(frame);
            QVERIFY(!frame.modulators.empty());
            QVERIFY2(std::abs(double(frame.modulators[0].value) - 0.75) < 0.04,
                     qPrintable(QString::number(double(frame.modulators[0].value))));
        }
    }
};

QTEST_APPLESS_MAIN(TestVersions)
#include "tst_versions.moc"
