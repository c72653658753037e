// What things cost and whether one sees them; values that fit a budget; what differs.
#include "core/budget/check.h"
#include "core/effect/differences.h"
#include "core/effect/edit.h"
#include "render/machine_probe.h"
#include "render/moment.h"
#include "render/renderer.h"

#include "../core/sample_effects.h"

#include <QtTest>

#include <sstream>

using namespace ember;

namespace {

void run_whole(Trial& trial) {
    run_together({&trial, 1});
}

Assets no_files(const Effect&) {
    return {};
}

DrawMoment small_pictures() {
    return moment_painter(240, 150);
}

Emitter puff(float rate, Vec3 position, const char* look) {
    Emitter emitter = sample::still(rate, 10);
    emitter.shape = BirthShape::ball;
    emitter.size = {1, 1, 1};
    emitter.position = position;
    emitter.particle_size = {0.06f, 0.06f};
    emitter.look = look;
    return emitter;
}

// Two sources of the same cost: one is seen, the other is behind a wall.
Effect with_a_hidden_source() {
    Effect effect = starter_effect();
    effect.elements.clear();
    effect.stage.camera_azimuth = 0;
    effect.stage.camera_height = 5;
    effect.stage.bloom = 0;
    effect.elements.push_back({.id = "seen", .name = "Seen", .body = puff(4000, {-1.2f, 1, 0}, "soft-dots")});
    effect.elements.push_back(
        {.id = "hidden", .name = "Hidden", .body = puff(4000, {1.2f, 1, -2}, "soft-dots")});
    Box wall;
    wall.position = {1.2f, 1, 0};
    wall.size = {3, 3, 0.2f};
    effect.elements.push_back({.id = "wall", .name = "Wall", .body = wall});
    return effect;
}

const Worth& row_of(const WorthTable& table, const std::string& holder) {
    static const Worth none;
    const auto found = std::find_if(table.rows.begin(), table.rows.end(),
                                    [&](const Worth& row) { return row.off.holder == holder; });
    return found == table.rows.end() ? none : *found;
}

WorthTable table_of(const Effect& effect, int rounds = 1) {
    int told = 0;
    double share = 0;
    const auto table = worths({sample::shared(effect), {}, {0, 1}, small_pictures, rounds}, run_together,
                              [&](const WorthTable& known) {
                                  ++told;
                                  share = known.share_done;
                              });
    return table && told > 0 && share == 1 ? *table : WorthTable();
}

} // namespace

class TestWorth : public QObject {
    Q_OBJECT

  private slots:
    void what_is_behind_a_wall_costs_and_is_not_seen() {
        const WorthTable table = table_of(with_a_hidden_source());
        const Worth &hidden = row_of(table, "hidden"), &seen = row_of(table, "seen");
        QCOMPARE(hidden.runs, 1);
        QCOMPARE(hidden.spread_ms, 0.0);
        QVERIFY(hidden.change < 0.005);
        QVERIFY2(seen.change > 0.9, qPrintable(QString::number(seen.change)));
        // Counts are exact.
        QCOMPARE(hidden.particles, 4000L);
        QCOMPARE(seen.particles, 4000L);
        QCOMPARE(table.whole.particles_most, size_t(8000));
        QVERIFY(hidden.cost_for_what_is_seen() > seen.cost_for_what_is_seen());
        QVERIFY(!hidden.with.pixels.empty() && hidden.with.pixels.size() == hidden.without.pixels.size());
        QVERIFY(seen.with.pixels != seen.without.pixels);
    }

    void nothing_of_two_runs_differs_without_a_difference() {
        const Effect effect = with_a_hidden_source();
        Trial a(sample::shared(effect), {}, {0, 0.5}, small_pictures());
        Trial b(sample::shared(effect), {}, {0, 0.5}, small_pictures());
        Trial empty(sample::shared(bare(effect)), {}, {0, 0.5}, small_pictures());
        run_whole(a);
        run_whole(b);
        run_whole(empty);
        QCOMPARE(a.seen().size(), size_t(6));
        QCOMPARE(change_of(a.seen(), b.seen(), empty.seen()), 0.0);
        QCOMPARE(change_of(a.seen(), empty.seen(), empty.seen()), 1.0);
        QCOMPARE(change_of(empty.seen(), empty.seen(), empty.seen()), 0.0);
    }

    void all_that_can_be_switched_off_is_listed_and_goes_off() {
        Effect effect = with_a_hidden_source();
        Turbulence eddies;
        eddies.octaves = 3;
        effect.elements.push_back({.id = "eddies", .name = "Eddies", .body = eddies, .links = {{"seen", 1}}});
        Element muted = effect.elements[0];
        muted.id = "muted";
        muted.muted = true;
        effect.elements.push_back(muted);
        effect.looks[0].copies = 3;
        effect.looks[0].drawn_as = Drawing::cards;
        effect.looks[0].layers[1].from = LayerFrom::edge;
        effect.stage.bloom = 0.3f;
        effect.stage.glare = 0.2f;
        effect.stage.aperture = 20;
        effect.stage.shutter = 0.01f;
        std::set<Switch::What> kinds;
        for (const Switch& off : switches_of(effect)) {
            QVERIFY(off.holder != "muted");
            const auto less = without(effect, off);
            QVERIFY(less && !(*less == effect));
            QCOMPARE(*without(*less, off), *less); // pressed twice it is off once
            QVERIFY(!words_of(effect, off).empty());
            // Once it is off it is listed no more, but for octaves, which go one by one.
            const std::vector<Switch> left = switches_of(*less);
            QVERIFY(off.what == Switch::What::octave ||
                    std::find(left.begin(), left.end(), off) == left.end());
            kinds.insert(off.what);
        }
        QCOMPARE(kinds.size(), size_t(8));
        QVERIFY(!without(effect, {Switch::What::element, "nobody", 0}));
        QVERIFY(!without(effect, {Switch::What::octave, "seen", 0}));
        QVERIFY(!without(effect, {Switch::What::copies, "nobody", 0}));
    }

    // So that what waits for its turn, or ends it, does not wait for long.
    void a_moment_is_drawn_part_by_part() {
        int calls = 0;
        const auto slow = [&](const Frame& frame) -> std::optional<SeenMoment> {
            ++calls;
            return calls % 4 != 0 ? std::nullopt : std::optional(SeenMoment{frame.time_s, {1, 2}, {}, {}});
        };
        Trial trial(sample::shared(with_a_hidden_source()), {}, {0, 0.5}, slow, 3);
        int parts = 0;
        for (uint64_t before = 0; trial.step(); before = trial.simulation().steps()) {
            parts += trial.simulation().steps() == before ? 1 : 0;
        }
        QCOMPARE(trial.seen().size(), size_t(3));
        QCOMPARE(calls, 12);
        QCOMPARE(parts, 9);
        QCOMPARE(trial.simulation().steps(), uint64_t(30));
        QCOMPARE(trial.figures().picture_ms, 3.0);
    }

    void a_table_that_is_ended_is_none() {
        int runs = 0;
        const auto ended = worths(
            {sample::shared(with_a_hidden_source()), {}, {0, 0.2}, small_pictures, 2},
            [&](std::span<Trial> trials) { return ++runs < 3 && run_together(trials); },
            [](const WorthTable&) {});
        QVERIFY(!ended);
        QCOMPARE(runs, 3);
    }

    // Where one spark flies and where another is not what is seen from afar.
    void another_seed_is_nearly_the_same_picture() {
        Effect effect = starter_effect();
        std::get<Emitter>(effect.elements[0].body).rate = 3000;
        effect.elements[0].links.clear();
        std::vector<Trial> runs;
        for (const uint32_t seed : {1u, 2u}) {
            effect.seed = seed;
            runs.emplace_back(sample::shared(effect), Assets(), Span{0, 2}, small_pictures());
        }
        runs.emplace_back(sample::shared(bare(effect)), Assets(), Span{0, 2}, small_pictures());
        run_together(runs);
        const double change = change_of(runs[0].seen(), runs[1].seen(), runs[2].seen());
        QVERIFY2(change > 0 && change < 0.15, qPrintable(QString::number(change)));
    }

    void what_costs_and_is_hardly_seen_is_offered_to_fit() {
        Effect effect = with_a_hidden_source();
        effect.stage.bloom = 0.5f;
        Turbulence eddies;
        eddies.octaves = 3;
        effect.elements.push_back({.id = "eddies", .name = "Eddies", .body = eddies, .links = {{"seen", 1}}});
        effect.looks[0].drawn_as = Drawing::cards;
        effect.looks[0].layers[1].from = LayerFrom::edge;
        effect.looks[0].layers[1].combine = Combine::add;
        const std::vector<FitNumber> numbers = numbers_to_fit(effect);
        for (const FitNumber& offered :
             {FitNumber{"eddies", "octaves", 1, 1}, FitNumber{effect.looks[0].id, "layer2_gain", 0, 1},
              FitNumber{std::string(stage_id), "bloom", 0, 1}}) {
            QCOMPARE(std::count(numbers.begin(), numbers.end(), offered), 1);
            QVERIFY(!refusal_of(effect, offered));
        }
    }

    // Bodies are cut anew for each number of pieces that is tried.
    void pieces_are_fitted_too() {
        Effect effect = starter_effect();
        std::string id;
        effect = with_new_element(effect, *find_type("breakable"), id);
        for (Element& element : effect.elements) {
            if (auto* breakable = std::get_if<Breakable>(&element.body)) {
                breakable->pieces = 60;
                breakable->strength = 0;
            }
        }
        effect.budget.frame_ms = 10000;
        effect.budget.pieces = 30;
        const FitOrder order{sample::shared(effect),
                             [](const Effect& version) { return AssetLibrary().load(version, {}).assets; },
                             {0, 0.5},
                             small_pictures,
                             {{id, "pieces", 8, 1}},
                             0};
        const auto result = fit(order, run_together, [](int, int) {});
        QVERIFY(result && result->holds);
        QVERIFY(result->before.pieces_most > 40);
        QVERIFY(result->after.pieces_most <= 30 && result->after.pieces_most > 8);
    }

    // A limit on counts, which no machine makes faster or slower.
    void values_are_found_that_fit_with_the_least_change() {
        Effect effect = with_a_hidden_source();
        effect.budget.frame_ms = 10000;
        effect.budget.particles = 5000;
        const FitOrder order{sample::shared(effect), no_files, {0, 1}, small_pictures,
                             numbers_to_fit(effect), 0.02};
        QCOMPARE(order.numbers.size(), size_t(2));
        const auto result = fit(order, run_together, [](int made, int most) { QVERIFY(made <= most); });
        QVERIFY(result && result->holds);
        QVERIFY(result->after.particles_most <= 4900 && result->after.particles_most > 4000);
        // Only what nobody sees gave way.
        QVERIFY(!result->changes.empty());
        for (const FitResult::Change& change : result->changes) {
            QCOMPARE(change.number.holder, std::string("hidden"));
        }
        QVERIFY(result->kept > 0.99);
        QCOMPARE(std::get<Emitter>(find_element(result->effect, "seen")->body).rate, 4000.0f);
        QVERIFY(QString::fromStdString(result->words).startsWith("It holds: Particles"));
    }

    void what_is_dear_is_touched_last() {
        Effect effect = with_a_hidden_source();
        effect.elements.pop_back(); // both are seen
        effect.budget.frame_ms = 10000;
        effect.budget.particles = 6000;
        for (const std::string dear : {"seen", "hidden"}) {
            FitOrder order{sample::shared(effect), no_files, {0, 1}, small_pictures,
                           numbers_to_fit(effect), 0.02,     false};
            for (FitNumber& number : order.numbers) {
                number.dearness = number.holder == dear ? 10 : 1;
            }
            const auto result = fit(order, run_together, [](int, int) {});
            QVERIFY(result && result->holds);
            QCOMPARE(result->changes.size(), size_t(1));
            QVERIFY(result->changes[0].number.holder != dear);
        }
    }

    // A third of the particles, three times as bright or large, is close to all of them.
    void what_is_left_makes_up_for_what_is_not() {
        for (const Blend blend : {Blend::add, Blend::over}) {
            Effect effect = with_a_hidden_source();
            effect.elements.resize(1);
            effect.budget.frame_ms = 10000;
            effect.budget.particles = 1300;
            for (Look& look : effect.looks) {
                look.blend = blend;
                look.opacity = look.glow = 0.2f;
            }
            FitOrder order{sample::shared(effect), no_files, {0, 1}, small_pictures,
                           numbers_to_fit(effect), 0.02,     false};
            const auto thinned = fit(order, run_together, [](int, int) {});
            order.makes_up = true;
            const auto result = fit(order, run_together, [](int made, int most) { QVERIFY(made <= most); });
            QVERIFY(thinned && thinned->holds && result && result->holds);
            QCOMPARE(thinned->changes.size(), size_t(1));
            QVERIFY(result->changes.size() >= 2);
            for (size_t i = 1; i < result->changes.size(); ++i) {
                const std::string& parameter = result->changes[i].number.parameter;
                QVERIFY(parameter == (blend == Blend::add ? "glow" : "opacity") ||
                        parameter == "particle_size");
                QVERIFY(result->changes[i].to > 1.2f * result->changes[i].from);
            }
            QVERIFY2(1 - result->kept < 0.5 * (1 - thinned->kept),
                     qPrintable(QString("%1 and %2").arg(result->kept).arg(thinned->kept)));
        }
    }

    void what_fits_already_stays_and_what_cannot_says_so() {
        Effect effect = with_a_hidden_source();
        effect.budget.frame_ms = 10000;
        FitOrder order{sample::shared(effect), no_files, {0, 0.5}, small_pictures, numbers_to_fit(effect), 0};
        auto result = fit(order, run_together, [](int, int) {});
        QVERIFY(result && result->holds && result->changes.empty() && result->effect == effect);
        effect.budget.particles = 10;
        order.effect = sample::shared(effect);
        result = fit(order, run_together, [](int, int) {});
        QVERIFY(result && !result->holds);
        QCOMPARE(result->changes.size(), size_t(2)); // the nearest there is
        QVERIFY(QString::fromStdString(result->words).contains("does not fit"));
        order.numbers.clear();
        result = fit(order, run_together, [](int, int) {});
        QVERIFY(result && !result->holds && result->changes.empty());
        QVERIFY(!fit(
            order, [](std::span<Trial>) { return false; }, [](int, int) {}));
        const float inf = std::numeric_limits<float>::infinity();
        for (const FitNumber& wrong : {FitNumber{"nobody", "rate", 1, 1}, FitNumber{"seen", "shape", 1, 1},
                                       FitNumber{"seen", "rate", inf, 1}, FitNumber{"seen", "rate", -1, 1},
                                       FitNumber{"seen", "rate", 1, 0}}) {
            QVERIFY(refusal_of(effect, wrong));
        }
    }

    void reports_say_the_same_in_every_form() {
        Effect effect = with_a_hidden_source();
        effect.name = "Salt & <stack>";
        effect.budget.frame_ms = 10000;
        effect.budget.particles = 3000;
        BudgetCheck check{"a \"b\".json", effect.name, {0, 0.5}, {}};
        for (int i = 0; i < 2; ++i) {
            effect.seed += 1;
            Trial trial(sample::shared(effect), {}, check.span);
            run_whole(trial);
            check.runs.push_back(checked(effect, trial));
        }
        QVERIFY(check.is_over());
        QCOMPARE(check.worst().size(), size_t(3));
        std::ostringstream json, csv, xml, page;
        write_json({check}, json);
        write_csv({check}, csv);
        write_xml({check}, xml);
        QTemporaryDir folder;
        const std::string path = folder.filePath("r.json").toStdString();
        QFile file(QString::fromStdString(path));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(json.str().c_str());
        file.close();
        Problems problems;
        const std::vector<BudgetCheck> read = read_checks(path, problems);
        QVERIFY(problems.empty() && read.size() == 1);
        QCOMPARE(read[0].runs.size(), size_t(2));
        QCOMPARE(read[0].runs[1].seed, check.runs[1].seed);
        QCOMPARE(read[0].worst()[1].measured, check.worst()[1].measured);
        QVERIFY(read[0].is_over());
        QCOMPARE(QString::fromStdString(csv.str()).count('\n'), 1 + 2 * 3);
        QXmlStreamReader reader(QString::fromStdString(xml.str()));
        int cases = 0, failures = 0;
        while (!reader.atEnd()) {
            reader.readNext();
            cases += reader.isStartElement() && reader.name() == QStringLiteral("testcase");
            failures += reader.isStartElement() && reader.name() == QStringLiteral("failure");
        }
        QVERIFY(!reader.hasError());
        QCOMPARE(cases, 3);
        QCOMPARE(failures, 1);
        // A page tells what has grown.
        BudgetCheck later = check;
        for (CheckedRun& run : later.runs) {
            run.elements[1].ms += 2;
        }
        QCOMPARE(cost_changes(check, later)[0].name, std::string("Hidden"));
        QVERIFY(std::abs(cost_changes(check, later)[0].now_ms - cost_changes(check, later)[0].before_ms - 2) <
                1e-9);
        write_page({later}, {check}, page);
        const QString text = QString::fromStdString(page.str());
        QVERIFY(text.contains("Salt &amp; &lt;stack&gt;") && text.contains("<svg") &&
                text.contains("grown by"));
        QVERIFY(!text.contains("http"));
    }

    void a_report_that_is_none_is_refused() {
        QTemporaryDir folder;
        const std::string path = folder.filePath("r.json").toStdString();
        for (const char* wrong :
             {"", "{", "[]", "{\"format\": \"other\"}",
              "{\"format\": \"crisp-ember budget check\", \"version\": 9}",
              "{\"format\": \"crisp-ember budget check\", \"version\": 1}",
              "{\"format\": \"crisp-ember budget check\", \"version\": 1, \"checks\": [{\"file\": 3}]}"}) {
            QFile file(QString::fromStdString(path));
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(wrong);
            file.close();
            Problems problems;
            QVERIFY(read_checks(path, problems).empty());
            QVERIFY2(!problems.empty(), wrong);
        }
    }

    // On a machine that takes twice as long for everything, and on one that only draws more slowly.
    void costs_are_predicted_for_another_machine() {
        MachineProfile here;
        here.name = "here";
        here.ms.fill(1);
        MachineProfile slow = here;
        slow.ms.fill(2);
        QVERIFY(ratio_of(here, here) == same_machine);
        Meters meters;
        meters.births_ms = 1;
        meters.forces_ms = 2;
        meters.smoke_ms = 3;
        meters.step_ms = 6.6; // with what is not told apart
        meters.particles = 77;
        meters.elements.resize(2);
        meters.elements[0].ms = 1.5;
        meters.elements[1].ms = 3;
        const auto kinds = [](const MachineRatio& ratio) {
            return std::vector<ElementRatio>{{Work::births, ratio[Work::births]},
                                             {Work::smoke, ratio[Work::smoke]}};
        };
        Meters there = predicted(meters, kinds(ratio_of(slow, here)), ratio_of(slow, here));
        QCOMPARE(there.step_ms, 13.2);
        QCOMPARE(there.elements[1].ms, 6.0);
        QCOMPARE(there.particles, size_t(77));
        MachineProfile hazy = here;
        hazy.ms[size_t(Work::smoke)] = 3;
        there = predicted(meters, kinds(ratio_of(hazy, here)), ratio_of(hazy, here));
        QCOMPARE(there.smoke_ms, 9.0);
        QCOMPARE(there.step_ms, 6.6 * 12 / 6);
        QCOMPARE(there.elements[0].ms, 1.5);
        QCOMPARE(there.elements[1].ms, 9.0);
        DrawMeters draw;
        draw.stage_ms = 1;
        draw.finishing_ms = 2;
        draw.total_ms = 7;
        draw.element_ms = {4};
        draw.element_readied_ms = {1};
        MachineProfile dim = here;
        dim.ms[size_t(Work::things)] = 5;
        const Effect effect = sample::effect_of(sample::still(1, 1));
        const DrawMeters drawn = predicted(draw, effect, ratio_of(dim, here));
        QCOMPARE(drawn.total_ms, 1 + 2 + 4 * 5.0);
        QCOMPARE(drawn.element_ms[0], 20.0);
        // A trial tells the same for the whole run.
        Trial as_here(sample::shared(effect), {}, {0, 0.5}, small_pictures());
        Trial as_there(sample::shared(effect), {}, {0, 0.5}, small_pictures());
        as_there.set_machine(ratio_of(
            MachineProfile{
                "", "", 1, {1000, 1000, 1000, 1000, 1000, 1000, 1000, 1000, 1000, 1000}, {}, {}, {}},
            here));
        std::vector<Trial> both;
        both.push_back(std::move(as_here));
        both.push_back(std::move(as_there));
        run_together(both);
        QVERIFY(both[1].figures().median_ms > 50 * both[0].figures().median_ms);
        QVERIFY(both[1].figures().picture_ms > 50 * both[0].figures().picture_ms);
        QCOMPARE(both[1].figures().particles_most, both[0].figures().particles_most);
    }

    // Two machines that differ in one force and in one way of drawing: what has neither costs the same.
    void single_forces_and_looks_are_predicted_by_themselves() {
        MachineProfile here;
        here.name = "here";
        here.ms.fill(1);
        here.elements = {{"vortex", 2}, {"drag", 1}};
        here.looks = {{"cards", 4}, {"dots", 1}};
        MachineProfile there = here;
        there.elements["vortex"] = 6;
        there.looks["cards"] = 8;
        const MachineRatio ratio = ratio_of(there, here);
        Effect effect = sample::effect_of(sample::still(1, 1));
        std::string id;
        effect = with_new_element(effect, *find_type("vortex"), id);
        effect = with_new_element(effect, *find_type("drag"), id);
        effect = with_new_element(effect, *find_type("wind"), id); // of which nothing is known by itself
        Meters meters;
        meters.forces_ms = 8;
        meters.step_ms = 8;
        for (const Element& element : effect.elements) {
            meters.elements.emplace_back().ms = family_of(element.body) == Family::force ? 2 : 0;
        }
        const Meters step = predicted(meters, ratios_of(effect, ratio), ratio);
        QCOMPARE(step.forces_ms, 8 * (6 + 2 + 2) / 6.0);
        QCOMPARE(step.step_ms, step.forces_ms);
        DrawMeters draw;
        draw.total_ms = 5;
        draw.stage_ms = 1;
        draw.element_ms.resize(effect.elements.size());
        draw.element_ms[0] = 4;
        draw.element_readied_ms.resize(effect.elements.size());
        draw.element_readied_ms[0] = 1;
        effect.looks[0].drawn_as = Drawing::cards;
        QCOMPARE(predicted(draw, effect, ratio).total_ms, 1 + 2 * 4.0);
        effect.looks[0].drawn_as = Drawing::dots;
        QCOMPARE(predicted(draw, effect, ratio).total_ms, 5.0);

        // Where both tell what goes by the number of particles, that is predicted apart from their pixels.
        effect.looks[0].drawn_as = Drawing::cards;
        here.readied = {{"cards", 3}};
        QCOMPARE(predicted(draw, effect, ratio_of(there, here)).total_ms, 1 + 2 * 4.0);
        there.readied = {{"cards", 6}};
        const DrawMeters apart = predicted(draw, effect, ratio_of(there, here));
        QCOMPARE(apart.element_readied_ms[0], 1 * 2.0); // 6 for 3
        QCOMPARE(apart.element_ms[0], 1 * 2.0 + 3 * 2.0);
        there.readied = {{"cards", 3}};
        const DrawMeters slow_pixels = predicted(draw, effect, ratio_of(there, here));
        QCOMPARE(slow_pixels.element_ms[0], 1 * 1.0 + 3 * 5.0); // 8 - 3 for 4 - 3
        QCOMPARE(slow_pixels.total_ms, 1 + slow_pixels.element_ms[0]);
    }

    // Of the same particles drawn large and small the same part goes by their number.
    void what_goes_by_number_is_told_from_what_goes_by_pixels() {
        Effect effect = sample::effect_of(sample::still(2000, 1));
        const auto drawn = [&](float size) {
            std::get<Emitter>(effect.elements[0].body).particle_size = {size, size};
            Trial trial(sample::shared(effect), {}, {0.1, 0.5}, moment_painter(640, 400));
            run_together({&trial, 1});
            double readied = std::numeric_limits<double>::max(), pixels = readied; // of the quickest moments
            for (const SeenMoment& moment : trial.seen()) {
                readied = std::min(readied, moment.element_readied_ms[0]);
                pixels = std::min(pixels, moment.element_ms[0] - moment.element_readied_ms[0]);
            }
            return std::pair(readied, pixels);
        };
        const auto [few_readied, few_pixels] = drawn(0.01f);
        const auto [many_readied, many_pixels] = drawn(0.5f);
        const double pixels = many_pixels / few_pixels, readied = many_readied / few_readied;
        QVERIFY2(pixels > 2 * readied, qPrintable(QString("%1 times, %2 times").arg(pixels).arg(readied)));
    }

    void profiles_are_kept_and_damaged_ones_refused() {
        QTemporaryDir folder;
        const std::string path = folder.filePath("m.profile.json").toStdString();
        const auto read = [&](const QByteArray& text, Problems& problems) {
            QFile file(QString::fromStdString(path));
            file.open(QIODevice::WriteOnly);
            file.write(text);
            file.close();
            return read_profile(path, problems);
        };
        MachineProfile profile{"Loft",           "made up",       6, {}, {{"vortex", 7.5}},
                               {{"cards", 8.5}}, {{"cards", 1.5}}};
        for (size_t i = 0; i < kinds_of_work; ++i) {
            profile.ms[i] = 0.25 * double(i + 1);
        }
        Problems problems;
        const auto same = read(QByteArray::fromStdString(text_of(profile)), problems);
        QVERIFY(same && *same == profile && problems.empty());
        const QByteArray text = QByteArray::fromStdString(text_of(profile));
        const std::pair<QByteArray, QByteArray> damages[] = {{"machine profile", "other"},
                                                             {"\"version\": 1", "\"version\": 2"},
                                                             {"Loft", ""},
                                                             {"\"threads\": 6", "\"threads\": 0"},
                                                             {"0.25", "-1"},
                                                             {"0.25", "1e300"},
                                                             {"0.25", "null"},
                                                             {"\"smoke\"", "\"smog\""},
                                                             {"7.5", "\"much\""},
                                                             {"8.5", "-8"},
                                                             {"8.5", "1.25"}, // less than what is within it
                                                             {"\"cards\": 1.5", "\"dots\": 1.5"},
                                                             {text, "{"},
                                                             {text, "[]"}};
        for (const auto& [what, by] : damages) {
            problems.clear();
            QByteArray damaged = text;
            QVERIFY(damaged.replace(what, by) != text);
            QVERIFY2(!read(damaged, problems) && problems.size() == 1, by);
            QVERIFY(!problems[0].text().empty());
        }
    }

    void this_machine_is_measured_for_every_kind_of_work() {
        double share = 0;
        const auto profile = measured_machine("here", run_together, [&](double done) {
            QVERIFY(done > share);
            share = done;
        });
        QVERIFY(profile);
        QCOMPARE(share, 1.0);
        for (size_t i = 0; i < kinds_of_work; ++i) {
            QVERIFY2(profile->ms[i] > 0.0005, name_of(Work(i)).data());
        }
        QVERIFY(profile->threads >= 1);
        for (const char* type : {"gravity", "turbulence", "flock", "plane", "cylinder"}) {
            QVERIFY2(profile->elements.contains(type), type);
        }
        for (const std::string_view drawn_as : drawing_names()) {
            QVERIFY2(profile->looks.at(std::string(drawn_as)) > profile->readied.at(std::string(drawn_as)),
                     drawn_as.data());
        }
        QVERIFY(!measured_machine(
            "here", [](std::span<Trial>) { return false; }, [](double) {}));
    }

    void differences_are_told_of_every_kind() {
        const Effect a = with_a_hidden_source();
        QVERIFY(differences(a, a).empty());
        Effect b = with_seed(a, a.seed + 1);
        std::get<Emitter>(b.elements[0].body).rate = 10;
        std::get<Emitter>(b.elements[0].body).birth_colours.stops[0].colour = {0, 0, 0, 1};
        b.elements[1].muted = true;
        b.elements[1].name = "Veil";
        b.elements.pop_back();
        b.stage.bloom = 0.5f;
        b.budget.pieces = 7;
        std::string wind;
        b = with_new_element(b, *find_type("wind"), wind);
        std::vector<std::string> told;
        for (const Difference& each : differences(a, b)) {
            told.push_back(each.where + "|" + each.what + "|" + each.a + "|" + each.b);
        }
        const auto has = [&](const char* begin) {
            return std::any_of(told.begin(), told.end(),
                               [&](const std::string& each) { return each.starts_with(begin); });
        };
        QVERIFY(has("Effect|Seed|1|2"));
        QVERIFY(has("Seen|Rate|4000 1/s|10 1/s"));
        QVERIFY(has("Seen|Birth colours|one|another") || has("Seen|Colour"));
        QVERIFY(has("Hidden|Muted|no|yes"));
        QVERIFY(has("Hidden|Name|Hidden|Veil"));
        QVERIFY(has("Wall||there|"));
        QVERIFY(has("Wind||"));
        QVERIFY(has("Stage|Bloom|0|0.5"));
        QVERIFY(has("Budget|Pieces|1000 pieces|7 pieces"));
    }
};

QTEST_APPLESS_MAIN(TestWorth)
#include "tst_worth.moc"
