// Parameters keyed over time.
#include "sample_effects.h"
#include "state_bytes.h"

#include "core/effect/alike.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/paste.h"
#include "core/effect/track.h"
#include "core/runtime/past.h"

#include <QtTest>

#include <cmath>

using namespace ember;
using namespace ember::sample;

namespace {

constexpr double step_s = 1.0 / 60;

Effect base() {
    Emitter emitter = still(600, 1000);
    Effect effect = effect_of(emitter, {Gravity{}});
    return effect;
}

const Parameter& parameter_of(const Effect& effect, const char* holder, const char* key) {
    return *find_holder(effect, holder)->find(key);
}

// A value of a parameter in the effect of each of so many steps.
std::vector<Value> values_of(const Effect& effect, const char* holder, const char* key, int steps) {
    Simulation simulation;
    simulation.set_effect(shared(effect));
    std::vector<Value> values;
    Frame frame;
    for (int i = 0; i < steps; ++i) {
        simulation.step();
        simulation.write_frame(frame);
        values.push_back(parameter_of(*frame.now, holder, key).get(find_holder(*frame.now, holder)->object));
    }
    return values;
}

} // namespace

class TestTracks : public QObject {
    Q_OBJECT

  private slots:
    // Before a key that differs, curves bend by its neighbours; what comes later changes nothing earlier.
    void what_differs_later_is_alike_until_then() {
        const auto keyed = [](std::initializer_list<Curve::Point> keys) {
            return with_track(base(), {"e", "rate", {Curve{keys}}, {}});
        };
        const Effect four = keyed({{0, 100}, {1, 700}, {2, 50}, {4, 300}});
        QCOMPARE(alike_until_s(four, four), HUGE_VAL);
        QCOMPARE(alike_until_s(four, keyed({{0, 100}, {1, 700}, {2, 50}, {3, 300}})), 1.0);
        QCOMPARE(alike_until_s(keyed({{0, 100}, {1, 700}, {2, 50}}), four), 1.0);
        QCOMPARE(alike_until_s(four, keyed({{0, 100}, {1, 300}})), 0.0);
        QCOMPARE(alike_until_s(four, keyed({{0, 200}, {1, 700}, {2, 50}, {4, 300}})), -HUGE_VAL);
        QCOMPARE(alike_until_s(four, base()), -HUGE_VAL);
        const Effect switched =
            with_track(base(), {"e", "capacity", {Curve{{{0, 10}, {2, 20}, {3, 30}}}}, {}});
        const Effect sooner =
            with_track(base(), {"e", "capacity", {Curve{{{0, 10}, {2, 20}, {2.5f, 30}}}}, {}});
        QCOMPARE(alike_until_s(switched, sooner), 2.5);
        // Curves are the same to the bit until there, and soon not.
        const Curve& a = four.tracks[0].curves[0];
        const Curve b{{{0, 100}, {1, 700}, {2, 50}, {3, 300}}};
        for (int i = 0; i <= 100; ++i) {
            QCOMPARE(a.at(0.01f * float(i)), b.at(0.01f * float(i)));
        }
        QVERIFY(a.at(2.5f) != b.at(2.5f));

        const auto edited = [](auto edit) {
            Effect effect = base();
            Element late = effect.elements.front();
            late.id = "late";
            auto& emitter = std::get<Emitter>(late.body);
            emitter.begins = Begin::at_time;
            emitter.start = 2;
            effect.elements.push_back(late);
            effect.elements.push_back({"t",
                                       "T",
                                       Trigger{.when = TriggerWhen::at_time, .at = 3, .what = "e"},
                                       false,
                                       false,
                                       {},
                                       {},
                                       {},
                                       {}});
            edit(effect);
            return effect;
        };
        const Effect plain = edited([](Effect&) {});
        const auto late = [](Effect& effect) -> Emitter& {
            return std::get<Emitter>(effect.elements[2].body);
        };
        QCOMPARE(alike_until_s(plain, edited([&](Effect& e) { late(e).rate = 7; })), 2.0);
        QCOMPARE(alike_until_s(plain, edited([&](Effect& e) { late(e).start = 1.5f; })), 1.5);
        QCOMPARE(alike_until_s(plain,
                               edited([&](Effect& e) { std::get<Trigger>(e.elements[3].body).births = 7; })),
                 3.0);
        QCOMPARE(alike_until_s(plain, edited([&](Effect& e) { e.elements[2].muted = true; })), -HUGE_VAL);
        QCOMPARE(alike_until_s(plain, edited([&](Effect& e) { e.elements.pop_back(); })), -HUGE_VAL);
        QCOMPARE(alike_until_s(plain, edited([&](Effect& e) { e.seed = 9; })), -HUGE_VAL);
        QCOMPARE(alike_until_s(plain, edited([&](Effect& e) { e.stage.exposure = 2; })), HUGE_VAL);
        // What a trigger acts on, or a modulator drives, may do something sooner.
        const auto told = [&](float rate) {
            return edited([&](Effect& e) {
                std::get<Trigger>(e.elements[3].body).what = "late";
                late(e).rate = rate;
            });
        };
        QCOMPARE(alike_until_s(told(1), told(2)), -HUGE_VAL);
    }

    void numbers_run_along_their_curve() {
        Track track = {"e", "rate", {Curve{{{0, 100}, {0.5f, 700}, {1.5f, 50}}}}, {}};
        track.curves[0].points[1].bend = Curve::Bend::handles;
        track.curves[0].points[1].in_time = -0.2f;
        track.curves[0].points[1].out_time = 0.4f;
        track.curves[0].points[1].out_value = 90;
        const Effect effect = with_track(base(), track);
        QVERIFY(!refusal_of(effect, track));
        const auto values = values_of(effect, "e", "rate", 120);
        for (size_t i = 0; i < values.size(); ++i) {
            const double middle = (double(i) + 0.5) * step_s;
            const float wanted = track.curves[0].at(float(middle));
            QVERIFY2(std::abs(std::get<float>(values[i]) - wanted) < 1e-5f * std::max(wanted, 1.0f),
                     qPrintable(QString::number(i)));
        }
        const Parameter& rate = parameter_of(effect, "e", "rate");
        QCOMPARE(std::get<float>(value_at(track, rate, 0)), 100.0f);
        QCOMPARE(std::get<float>(value_at(track, rate, 0.5)), 700.0f);
        QCOMPARE(std::get<float>(value_at(track, rate, 99)), 50.0f);
        QCOMPARE(std::get<float>(value_at(track, rate, -5)), 100.0f);
    }

    void what_overshoots_is_held_to_the_limits() {
        Track track = {"e", "spread", {Curve{{{0, 170}, {1, 175}}}}, {}};
        for (Curve::Point& point : track.curves[0].points) {
            point.bend = Curve::Bend::slopes;
            point.in_value = point.out_value = 4000;
        }
        const Effect effect = with_track(base(), track);
        const Parameter& spread = parameter_of(effect, "e", "spread");
        QVERIFY(track.curves[0].at(0.2f) > float(spread.hard_high));
        for (const Value& value : values_of(effect, "e", "spread", 60)) {
            QVERIFY(!refusal_of(spread, value));
        }
    }

    void vectors_ranges_and_colours_have_a_curve_for_each_part() {
        Effect effect = base();
        effect = with_key(effect, "e", "position", 0, Vec3{0, 1, 0});
        effect = with_key(effect, "e", "position", 1, Vec3{2, 1, -4});
        effect = with_key(effect, "e", "speed", 0, Range{1, 2});
        effect = with_key(effect, "e", "speed", 1, Range{3, 9});
        effect = with_key(effect, "stage", "sun_colour", 0, Colour{1, 0, 0, 1});
        effect = with_key(effect, "stage", "sun_colour", 1, Colour{0, 0, 5, 1});
        QCOMPARE(effect.tracks.size(), size_t(3));
        const auto near = [](float a, float b) { return std::abs(a - b) < 1e-4f; };
        const auto at = [&](const char* holder, const char* key) {
            return value_at(*find_track(effect, holder, key), parameter_of(effect, holder, key), 0.5);
        };
        const auto position = std::get<Vec3>(at("e", "position"));
        QVERIFY(near(position.x, 1) && near(position.y, 1) && near(position.z, -2));
        const auto speed = std::get<Range>(at("e", "speed"));
        QVERIFY(near(speed.low, 2) && near(speed.high, 5.5f));
        const auto sun = std::get<Colour>(at("stage", "sun_colour"));
        QVERIFY(near(sun.red, 0.5f) && near(sun.blue, 2.5f) && sun.alpha == 1);
        // The stage is keyed in what a picture is drawn from.
        const auto suns = values_of(effect, "stage", "sun_colour", 60);
        QVERIFY(std::get<Colour>(suns.front()).red > 0.98f && std::get<Colour>(suns.back()).red < 0.02f);
    }

    void choices_toggles_and_counts_switch_in_the_step_of_their_key() {
        Effect effect = base();
        const float key_s = float(30 * step_s);
        effect = with_key(effect, "e", "shape", 0, Value(int(BirthShape::point)));
        effect = with_key(effect, "e", "shape", double(key_s), Value(int(BirthShape::box)));
        const auto shapes = values_of(effect, "e", "shape", 60);
        for (size_t i = 0; i < shapes.size(); ++i) {
            QCOMPARE(std::get<int>(shapes[i]), int(i < 30 ? BirthShape::point : BirthShape::box));
        }
        // Between two steps: with the next that begins.
        effect = with_moved_key(effect, "e", "shape", double(key_s), double(key_s) + 0.4 * step_s);
        QCOMPARE(std::get<int>(values_of(effect, "e", "shape", 31)[30]), int(BirthShape::point));
        QCOMPARE(std::get<int>(values_of(effect, "e", "shape", 32)[31]), int(BirthShape::box));
    }

    void a_keyed_rate_bears_the_area_under_its_curve() {
        Effect effect = base();
        effect = with_key(effect, "e", "rate", 0, 0.0f);
        effect = with_key(effect, "e", "rate", 1, 900.0f);
        effect = with_key(effect, "e", "rate", 2, 100.0f);
        const Curve& curve = find_track(effect, "e", "rate")->curves[0];
        double area = 0;
        constexpr int parts = 20000;
        for (int i = 0; i < parts; ++i) {
            area += double(curve.at(float(2.0 * (i + 0.5) / parts))) * 2 / parts;
        }
        Simulation simulation;
        simulation.set_effect(shared(effect));
        for (int i = 0; i < 120; ++i) {
            simulation.step();
        }
        QVERIFY2(std::abs(double(simulation.meters().elements[0].born) - area) <= 1,
                 qPrintable(QStringLiteral("%1 %2").arg(simulation.meters().elements[0].born).arg(area)));
    }

    // Own value, then track, then drive, then trigger.
    void a_drive_acts_on_what_is_keyed() {
        Effect effect = base();
        effect = with_key(effect, "e", "speed", 0, Range{1, 2});
        effect = with_key(effect, "e", "speed", 0.5, Range{3, 4});
        effect.elements.push_back({.id = "m", .name = "m", .body = Cycle{}});
        effect = with_drive(effect, {"e", "speed", 1, "m", 7, 7, {}});
        for (const Value& value : values_of(effect, "e", "speed", 20)) {
            QCOMPARE(std::get<Range>(value).high, 7.0f);
            QVERIFY(std::get<Range>(value).low >= 1 && std::get<Range>(value).low < 3.1f);
        }
        // Without the track it is its own again.
        effect = without_track(effect, "e", "speed");
        QCOMPARE(std::get<Range>(values_of(effect, "e", "speed", 5).back()).low, 0.0f);
    }

    void keys_are_put_moved_stretched_and_taken_away() {
        Effect effect = base();
        effect = with_key(effect, "e", "rate", 1, 10.0f);
        effect = with_key(effect, "e", "rate", 0.5, 20.0f);
        effect = with_key(effect, "e", "rate", 1.0005, 30.0f); // the same moment
        const auto keys = [&] { return find_track(effect, "e", "rate")->curves[0].points; };
        QCOMPARE(keys().size(), size_t(2));
        QCOMPARE(keys()[1].value, 30.0f);
        effect = with_moved_key(effect, "e", "rate", 0.5, 2);
        QCOMPARE(keys()[1].time, 2.0f);
        QCOMPARE(keys()[1].value, 20.0f);
        // A copy is as its original, which stays; where a key is, it takes its place.
        effect.tracks[0].curves[0].points[1].bend = Curve::Bend::smooth;
        effect = with_copied_key(effect, "e", "rate", 2, 3);
        QCOMPARE(keys().size(), size_t(3));
        QVERIFY(keys()[2].time == 3 && keys()[2].value == 20 && keys()[2].bend == Curve::Bend::smooth);
        QVERIFY(keys()[1].time == 2 && keys()[1].value == 20);
        QVERIFY(with_copied_key(effect, "e", "rate", 2, 3) == effect);
        QVERIFY(with_copied_key(effect, "e", "rate", 2.5, 7) == effect); // nothing there
        effect = without_key(effect, "e", "rate", 3);
        effect = with_stretched_track(effect, "e", "rate", {1, 2}, {4, 8});
        QVERIFY(std::abs(keys()[0].time - 4) < 0.01f && std::abs(keys()[1].time - 8) < 0.01f);
        effect = without_key(effect, "e", "rate", double(keys()[0].time));
        QCOMPARE(keys().size(), size_t(1));
        effect = without_key(effect, "e", "rate", 8);
        QVERIFY(effect.tracks.empty());
    }

    void they_are_kept_in_the_file() {
        Effect effect = base();
        effect = with_key(effect, "e", "rate", 0, 100.0f);
        effect = with_key(effect, "e", "rate", 2.5, 300.0f);
        effect = with_key(effect, "e", "position", 1, Vec3{1, 2, 3});
        effect = with_key(effect, "e", "shape", 0, Value(int(BirthShape::line)));
        effect = with_key(effect, "e", "shape", 1, Value(int(BirthShape::box)));
        effect = with_key(effect, "stage", "sun_colour", 1, Colour{0.5f, 2, 0, 1});
        effect.tracks[0].unknown = "{\"mood\":3}";
        const ReadResult read = parse_effect(effect_text(effect), "x");
        QVERIFY2(read.is_sound() && read.notes.empty(),
                 read.problems.empty() ? "" : read.problems[0].text().c_str());
        QVERIFY(*read.effect == effect);
        QVERIFY(effect_text(effect).find("\"box\"") != std::string::npos); // choices in words
    }

    void what_cannot_be_keyed_is_refused_with_its_place_data() {
        QTest::addColumn<QByteArray>("track");
        QTest::newRow("nothing there")
            << QByteArray(R"({"of":"nobody","parameter":"rate","curves":[[[0,1]]]})");
        QTest::newRow("no such parameter")
            << QByteArray(R"({"of":"e","parameter":"colour_of_music","curves":[[[0,1]]]})");
        QTest::newRow("budget") << QByteArray(R"({"of":"budget","parameter":"frame_ms","curves":[[[0,1]]]})");
        QTest::newRow("fixed") << QByteArray(R"({"of":"e","parameter":"nothing","keys":[[0,10]]})");
        QTest::newRow("no keys") << QByteArray(R"({"of":"e","parameter":"rate","curves":[[]]})");
        QTest::newRow("no curves") << QByteArray(R"({"of":"e","parameter":"rate"})");
        QTest::newRow("too few parts")
            << QByteArray(R"({"of":"e","parameter":"position","curves":[[[0,1]],[[0,1]]]})");
        QTest::newRow("out of order")
            << QByteArray(R"({"of":"e","parameter":"rate","curves":[[[1,1],[0,2]]]})");
        QTest::newRow("two at once") << QByteArray(
            R"({"of":"e","parameter":"rate","curves":[[[1,1],[1,2]]]})");
        QTest::newRow("out of range") << QByteArray(R"({"of":"e","parameter":"rate","curves":[[[0,-1]]]})");
        QTest::newRow("huge time") << QByteArray(R"({"of":"e","parameter":"rate","curves":[[[1e30,1]]]})");
        QTest::newRow("huge value") << QByteArray(R"({"of":"e","parameter":"rate","curves":[[[0,1e300]]]})");
        QTest::newRow("no such choice")
            << QByteArray(R"({"of":"e","parameter":"shape","keys":[[0,"heap"]]})");
        QTest::newRow("words for numbers")
            << QByteArray(R"({"of":"e","parameter":"rate","curves":[[[0,"many"]]]})");
        QTest::newRow("no object") << QByteArray("7");
    }
    void what_cannot_be_keyed_is_refused_with_its_place() {
        QFETCH(const QByteArray, track);
        std::string text = effect_text(base());
        text.insert(text.find("\"stage\""), "\"tracks\": [" + track.toStdString() + "],\n  ");
        const ReadResult read = parse_effect(text, "x");
        QVERIFY(!read.is_sound());
        QVERIFY2(read.problems[0].place.starts_with("/tracks/0"), read.problems[0].text().c_str());
        // What is sound is there all the same.
        QVERIFY(read.effect && read.effect->tracks.empty());
    }

    void one_parameter_has_one_track() {
        std::string text = effect_text(with_key(base(), "e", "rate", 0, 5.0f));
        const auto from = text.find("\"tracks\": [") + 11;
        const std::string track = R"({"of":"e","parameter":"rate","curves":[[[0,7]]]},)";
        text.insert(from, track);
        const ReadResult read = parse_effect(text, "x");
        QVERIFY(!read.is_sound());
        QCOMPARE(read.effect->tracks.size(), size_t(1));
    }

    void they_go_with_their_element() {
        Effect effect = with_key(base(), "e", "rate", 1, 5.0f);
        std::string copy;
        const Effect twice = with_duplicate(effect, "e", copy);
        QVERIFY(find_track(twice, copy, "rate") != nullptr);
        QVERIFY(without_element(twice, copy).tracks == effect.tracks);
        std::vector<std::string> ids;
        const auto pasted = with_pasted(starter_effect(), copied_text(effect, {"e"}), ids);
        QVERIFY(pasted && find_track(*pasted, ids[0], "rate") != nullptr);
    }

    void going_back_finds_what_is_keyed_as_it_was() {
        Effect effect = base();
        effect = with_key(effect, "e", "rate", 0, 0.0f);
        effect = with_key(effect, "e", "rate", 2, 3000.0f);
        effect = with_key(effect, "i1", "strength", 0, 0.0f);
        effect = with_key(effect, "i1", "strength", 2, 30.0f);
        const std::vector<std::string> ids = {"e", "i1"};
        Simulation simulation;
        Past past;
        simulation.set_effect(shared(effect));
        std::vector<QByteArray> seen;
        for (int i = 0; i < 120; ++i) {
            seen.push_back(state_bytes(simulation, ids));
            past.note(simulation, {});
            simulation.step();
        }
        for (const uint64_t step : {7u, 100u, 33u, 61u, 0u, 119u}) {
            QVERIFY(past.go_to(simulation, step, [] { return true; }));
            QVERIFY(state_bytes(simulation, ids) == seen[step]);
        }
    }
};

QTEST_GUILESS_MAIN(TestTracks)
#include "tst_tracks.moc"
