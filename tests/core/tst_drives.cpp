// Modulators and what they drive.
#include "sample_effects.h"

#include "core/effect/drive.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/runtime/effect_now.h"

#include <QtTest>

#include <cmath>
#include <numbers>
#include <set>

using namespace ember;
using namespace ember::sample;

namespace {

constexpr double step_s = 1.0 / 60;

// A modulator "m" that drives a parameter of the emitter "e".
Effect driven_effect(const ElementBody& modulator, const char* parameter, float low, float high,
                     int part = 0) {
    Emitter emitter;
    emitter.capacity = 100000;
    emitter.lifetime = {1000, 1000};
    emitter.look = "soft-dots";
    Effect effect = effect_of(emitter);
    effect.elements.push_back({.id = "m", .name = "Modulator", .body = modulator});
    effect.drives = {{"e", parameter, part, "m", low, high, {}}};
    return effect;
}

// The modulator's value in each step of so many seconds.
std::vector<double> values_of(const Effect& effect, double seconds) {
    Simulation simulation;
    simulation.set_effect(shared(effect));
    std::vector<double> values;
    Frame frame;
    while (simulation.time_s() < seconds - step_s / 2) {
        simulation.step();
        simulation.write_frame(frame);
        values.push_back(double(frame.modulators.at(0).value));
    }
    return values;
}

std::vector<double> values_of(const ElementBody& modulator, double seconds) {
    return values_of(driven_effect(modulator, "rate", 0, 1), seconds);
}

} // namespace

class TestDrives : public QObject {
    Q_OBJECT

  private slots:
    void cycles_have_their_wave_period_and_phase() {
        for (const float phase : {0.0f, 0.3f}) {
            const auto at = [phase](size_t step) {
                const double turns = double(step) * step_s / 1.5 + double(phase);
                return turns - std::floor(turns);
            };
            const auto sine = values_of(Cycle{{}, Wave::sine, 1.5f, phase}, 4);
            const auto triangle = values_of(Cycle{{}, Wave::triangle, 1.5f, phase}, 4);
            const auto saw = values_of(Cycle{{}, Wave::saw, 1.5f, phase}, 4);
            const auto pulse = values_of(Cycle{{}, Wave::pulse, 1.5f, phase, 0.25f}, 4);
            for (size_t i = 0; i < sine.size(); ++i) {
                QVERIFY(std::abs(sine[i] - (0.5 - 0.5 * std::cos(2 * std::numbers::pi * at(i)))) < 1e-5);
                QVERIFY(std::abs(triangle[i] - (at(i) < 0.5 ? 2 * at(i) : 2 - 2 * at(i))) < 1e-5);
                QVERIFY(std::abs(saw[i] - at(i)) < 1e-5 || at(i) > 1 - 1e-5);
                if (std::abs(at(i) - 0.25) > 1e-4) {
                    QCOMPARE(pulse[i], at(i) < 0.25 ? 1.0 : 0.0);
                }
            }
        }
    }

    void what_is_driven_is_found_once_and_nothing_else_is_touched() {
        Effect effect = driven_effect(Cycle{}, "rate", 100, 200);
        effect.drives.push_back({"soft-dots", "glow", 0, "m", 1, 3, {}});
        effect.elements.push_back({.id = "g", .name = "Gravity", .body = Gravity{}});
        EffectNow now;
        const EffectPtr own = shared(effect);
        now.set(own);
        QCOMPARE(now.changing(), std::vector<size_t>{0});
        const auto rate = [](const EffectPtr& each) {
            return std::get<Emitter>(each->elements[0].body).rate;
        };
        const auto glow = [](const EffectPtr& each) { return find_look(*each, "soft-dots")->glow; };
        // What a frame holds stays as it was; what nobody holds is used again.
        const EffectPtr held = now.at({}, {{"m", 0}}, {}, {});
        std::set<const Effect*> copies;
        for (int i = 1; i <= 100; ++i) {
            const EffectPtr next = now.at({}, {{"m", float(i) / 100}}, {}, {});
            QCOMPARE(rate(next), 100 + float(i));
            QVERIFY(std::abs(glow(next) - (1 + 0.02f * float(i))) < 1e-5f);
            copies.insert(next.get());
        }
        QCOMPARE(copies.size(), size_t(1));
        QVERIFY(!copies.contains(held.get()));
        QCOMPARE(rate(held), 100.0f);
        QCOMPARE(rate(now.at({}, {}, {}, {})),
                 std::get<Emitter>(own->elements[0].body).rate); // nothing drives it
        effect.drives.clear();
        const EffectPtr still = shared(effect);
        now.set(still);
        QVERIFY(now.at({}, {{"m", 0.5f}}, {}, {}) == still); // nothing is copied
    }

    void an_end_of_a_range_that_gives_way_comes_back() {
        Effect effect = driven_effect(Cycle{}, "speed", 1, 9, 0); // the low end of 2 to 3
        EffectNow now;
        now.set(shared(effect));
        const auto speed = [&](float value) {
            return std::get<Emitter>(now.at({}, {{"m", value}}, {}, {})->elements[0].body).speed;
        };
        QCOMPARE(speed(1), (Range{9, 9}));
        QCOMPARE(speed(0), (Range{1, 3}));
    }

    void growth_stays_goes_on_or_begins_again() {
        const auto after = [](GrowthEnd end) { return values_of(Growth{{}, 1, 2, end}, 6).back(); };
        const double share = (6 - step_s - 1) / 2;
        QCOMPARE(after(GrowthEnd::stay), 1.0);
        QVERIFY(std::abs(after(GrowthEnd::go_on) - share) < 1e-4);
        QVERIFY(std::abs(after(GrowthEnd::again) - (share - 2)) < 1e-4);
        QCOMPARE(values_of(Growth{{}, 1, 2}, 0.9).back(), 0.0);
    }

    void time_curve_follows_its_curve() {
        TimeCurve curve{{}, {{{0, 0.2f}, {0.5f, 1.4f}, {1, 0}}}, 0.5f, 2, true};
        const auto values = values_of(curve, 5);
        for (size_t i = 0; i < values.size(); ++i) {
            const double share = std::max(double(i) * step_s - 0.5, 0.0) / 2;
            QVERIFY(std::abs(values[i] - double(curve.curve.at(float(share - std::floor(share))))) < 0.03);
        }
    }

    void sway_is_smooth_stays_within_and_moves() {
        const auto values = values_of(Sway{{}, 1, 1}, 20);
        double least = 1, most = 0;
        for (size_t i = 1; i < values.size(); ++i) {
            QVERIFY(std::abs(values[i] - values[i - 1]) < 0.12);
            least = std::min(least, values[i]);
            most = std::max(most, values[i]);
        }
        QVERIFY(least >= -0.001 && most <= 1.001);
        QVERIFY(most - least > 0.5);
    }

    void steps_stand_on_even_levels() {
        const auto up = values_of(Steps{{}, 5, 0.5f, 0, StepOrder::up}, 4.9);
        for (size_t i = 0; i < up.size(); ++i) {
            const double at = double(i) * step_s / 0.5;
            if (std::abs(at - std::round(at)) > 1e-6) {
                QCOMPARE(float(up[i]), float(int(at) % 5) / 4);
            }
        }
        std::set<float> levels;
        for (const double value : values_of(Steps{{}, 5, 0.1f, 0, StepOrder::shuffled}, 20)) {
            levels.insert(float(value));
        }
        QCOMPARE(levels, (std::set<float>{0, 0.25f, 0.5f, 0.75f, 1}));
    }

    // The births of a rate that swings between 200 and 600, over whole periods.
    void a_driven_rate_gives_as_many_births_as_its_mean() {
        const Simulation simulation = run(driven_effect(Cycle{{}, Wave::sine, 2}, "rate", 200, 600), 10);
        QVERIFY(std::abs(double(simulation.meters().elements[0].born) - 4000) < 20);
    }

    void one_modulator_drives_many_parameters_and_parts() {
        Effect effect = driven_effect(Growth{{}, 0, 1}, "rate", 100, 300);
        effect.drives.push_back({"e", "position", 1, "m", 2, 5, {}});
        effect.drives.push_back({"e", "speed", 1, "m", 1, 7, {}});
        effect.drives.push_back({"soft-dots", "glow", 0, "m", 0, 8, {}});
        effect.drives.push_back({"stage", "exposure", 0, "m", -1, 1, {}});
        const Effect there = driven(effect, {{"m", 0.5f}});
        const auto& emitter = std::get<Emitter>(there.elements[0].body);
        QCOMPARE(emitter.rate, 200.0f);
        QCOMPARE(emitter.position.y, 3.5f);
        QCOMPARE(emitter.speed.high, 4.0f);
        QCOMPARE(there.looks[0].glow, 4.0f);
        QCOMPARE(there.stage.exposure, 0.0f);
    }

    void what_is_driven_stays_within_what_it_can_be() {
        const Effect effect = driven_effect(Growth{{}, 0, 1, GrowthEnd::go_on}, "spread", 0, 100);
        const Effect there = driven(effect, {{"m", 50}});
        QCOMPARE(std::get<Emitter>(there.elements[0].body).spread, 180.0f);
        // A range is never upside down.
        const Effect range = driven(driven_effect(Growth{}, "speed", -5, 900, 0), {{"m", 1}});
        const Range speed = std::get<Emitter>(range.elements[0].body).speed;
        QVERIFY(speed.low <= speed.high);
    }

    void a_muted_modulator_leaves_parameters_alone() {
        Effect effect = driven_effect(Cycle{}, "rate", 0, 0);
        effect.elements[1].muted = true;
        QVERIFY(run(effect, 1).meters().elements[0].born > 300);
        effect.elements[1].muted = false;
        QCOMPARE(run(effect, 1).meters().elements[0].born, uint64_t(0));
    }

    void counts_are_read_from_the_source() {
        Effect effect = driven_effect(CountReading{{}, "e", {0, 1000}}, "speed", 1, 2);
        std::get<Emitter>(effect.elements[0].body).rate = 600;
        const double value = values_of(effect, 1).back();
        QVERIFY(std::abs(value - 0.6) < 0.03);
    }

    void movers_are_read_by_distance_and_speed() {
        Effect effect =
            driven_effect(MoverReading{{}, "o", MoverFigure::distance, {3, 0, 0}, {0, 10}}, "rate", 0, 1);
        effect.elements.push_back({.id = "o", .name = "Orbit", .body = Orbit{{}, 2, 4}});
        const auto distances = values_of(effect, 4);
        QVERIFY(std::abs(*std::min_element(distances.begin(), distances.end()) - 0.1) < 0.005);
        QVERIFY(std::abs(*std::max_element(distances.begin(), distances.end()) - 0.5) < 0.005);
        std::get<MoverReading>(effect.elements[1].body).figure = MoverFigure::speed;
        for (const double speed : values_of(effect, 1)) {
            QVERIFY(std::abs(speed * 10 - 2 * std::numbers::pi * 2 / 4) < 0.01);
        }
    }

    void drives_are_saved_and_read() {
        Effect effect = driven_effect(Cycle{{}, Wave::saw, 3}, "speed", 0.5f, 2.25f, 1);
        effect.drives.push_back({"stage", "sun_strength", 0, "m", 4, 1, R"({"note":"dusk"})"});
        const std::string text = effect_text(effect);
        const ReadResult read = parse_effect(text, "x");
        QVERIFY(read.problems.empty());
        QCOMPARE(read.effect->drives, effect.drives);
        QCOMPARE(effect_text(*read.effect), text);
    }

    void drives_that_cannot_be_are_refused_with_their_place() {
        const std::string text = effect_text(driven_effect(Cycle{}, "rate", 10, 20));
        const auto with = [&](const std::string& from, const std::string& to) {
            std::string changed = text;
            const size_t at = changed.find(from, changed.find("\"drives\""));
            changed.replace(at, from.size(), to);
            return parse_effect(changed, "x");
        };
        for (const auto& [from, to] : std::vector<std::pair<std::string, std::string>>{
                 {"\"of\": \"e\"", "\"of\": \"nobody\""},
                 {"\"rate\"", "\"look\""},
                 {"\"rate\"", "\"capacity\""},
                 {"\"by\": \"m\"", "\"by\": \"e\""},
                 {"[10, 20]", "[10]"},
                 {"[10, 20]", "[10, -20]"},
                 {"[10, 20]", "[1e39, 20]"},
                 {"\"rate\"", "\"speed\", \"part\": \"middle\""}}) {
            const ReadResult read = with(from, to);
            QVERIFY2(read.problems.size() == 1, to.c_str());
            QVERIFY(QString::fromStdString(read.problems[0].text()).contains("/drives/0"));
            QVERIFY(read.effect->drives.empty());
        }
        QCOMPARE(with("[10, 20]", "[10, 20], \"x\": 1").problems.size(), size_t(0));
    }

    void drives_go_and_come_with_elements() {
        Effect effect = driven_effect(Cycle{}, "rate", 10, 20);
        std::string id;
        const Effect two = with_duplicate(effect, "e", id);
        QCOMPARE(two.drives.size(), size_t(2));
        QCOMPARE(two.drives[1].holder, id);
        QVERIFY(without_element(two, "m").drives.empty());
        QCOMPARE(without_element(two, "e").drives.size(), size_t(1));
        QVERIFY(without_drive(effect, "e", "rate", 0).drives.empty());
        QCOMPARE(with_drive(effect, {"e", "rate", 0, "m", 1, 2, {}}).drives.size(), size_t(1));
    }

    void the_same_seed_gives_the_same_sway() {
        QCOMPARE(values_of(Sway{}, 3), values_of(Sway{}, 3));
        Effect other = driven_effect(Sway{}, "rate", 0, 1);
        other.seed = 99;
        QVERIFY(values_of(other, 3) != values_of(Sway{}, 3));
    }
};

QTEST_APPLESS_MAIN(TestDrives)
#include "tst_drives.moc"
