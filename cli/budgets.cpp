// Commands about budgets: to check them, to tell what things are worth, and to fit an effect to its own.
#include "cli/opening.h"

#include "core/base/file.h"
#include "core/base/markup.h"
#include "core/budget/check.h"
#include "core/effect/effect_file.h"
#include "render/machine_probe.h"
#include "render/moment.h"

#include <algorithm>
#include <filesystem>
#include <iomanip>
#include <iostream>
#include <unistd.h>

namespace ember {

namespace {

constexpr double usual_s = 6;

// On a terminal, on one line that goes away.
class ShareDone {
  public:
    ~ShareDone() {
        if (shown_) {
            std::cerr << "\r\x1b[K";
        }
    }
    void at(double share) const {
        if (shown_) {
            std::cerr << "\r" << int(share * 100) << " %" << std::flush;
        }
    }

  private:
    bool shown_ = isatty(STDERR_FILENO) != 0;
};

std::optional<MachineProfile> measured_here(const std::string& name) {
    const ShareDone progress;
    return measured_machine(name, run_together, [&](double share) { progress.at(share); });
}

std::optional<Problem> refusal_of(const std::string& option, const std::string& path) {
    auto problem = path.empty() ? std::nullopt : refusal_to_write(path);
    if (problem) {
        problem->place = option;
    }
    return problem;
}

std::optional<Problem> refusal_of(const MeasuringOptions& option, const Effect& effect) {
    const auto length = double(effect.stage.length);
    if (option.span_s && length > 0 && option.span_s->second > length) {
        return Problem{"", 0, "--span", text_of(float(option.span_s->second)) + " s",
                       "a time within the effect, which ends at " + text_of(effect.stage.length) + " s"};
    }
    return std::nullopt;
}

Span span_of(const MeasuringOptions& option, const Effect& effect) {
    const auto length = double(effect.stage.length);
    return option.span_s ? Span{option.span_s->first, option.span_s->second}
                         : Span{0, length > 0 ? std::min(length, usual_s) : usual_s};
}

// An effect that is ready to run; or what is wrong was said.
struct Opened {
    EffectPtr effect;
    Assets assets;
};
std::optional<Opened> opened(const std::string& path, const MeasuringOptions& option) {
    ReadResult read = read_effect(path);
    if (!read.is_sound()) {
        refuse(read.problems);
        return std::nullopt;
    }
    if (const auto problem = refusal_of(option, *read.effect)) {
        refuse({*problem});
        return std::nullopt;
    }
    LoadResult loaded = load_assets(*read.effect, path);
    if (!loaded.missing.empty()) {
        refuse(loaded.missing);
        return std::nullopt;
    }
    tell_notes(*read.effect, read.notes);
    return Opened{std::make_shared<const Effect>(std::move(*read.effect)), std::move(loaded.assets)};
}

std::optional<BudgetCheck> checked_effect(const std::string& path, const CheckBudgetOptions& options,
                                          const MachineRatio& ratio) {
    auto first = opened(path, options);
    if (!first) {
        return std::nullopt;
    }
    BudgetCheck check{path, first->effect->name, span_of(options, *first->effect), {}};
    for (int i = 0; i < options.seeds; ++i) {
        Effect seeded = *first->effect;
        seeded.seed += uint32_t(i);
        const auto effect = std::make_shared<const Effect>(seeded);
        const Assets assets =
            i == 0 ? first->assets : load_assets(*effect, path).assets; // cuts have the seed
        Trial trial(effect, assets, check.span, moment_painter(options.width, options.height));
        trial.set_machine(ratio);
        run_together({&trial, 1});
        check.runs.push_back(checked(*effect, trial));
    }
    return check;
}

void tell(const BudgetCheck& check) {
    std::cout << check.effect << " (" << check.file << "): " << (check.is_over() ? "over" : "within") << "\n";
    for (const LimitReading& reading : check.worst()) {
        std::cout << "  " << std::left << std::setw(14) << reading.name << std::right << std::setw(12)
                  << text_of(float(std::round(reading.measured * 100) / 100)) << " of "
                  << text_of(float(reading.limit)) << (reading.unit.empty() ? "" : " " + reading.unit)
                  << (reading.share() > 1 ? "  over" : "") << "\n";
    }
}

} // namespace

int measure_machine(const std::string& name, const std::string& out) {
    if (const auto problem = refusal_of("--out", out)) {
        return refuse({*problem});
    }
    const auto profile = measured_here(name);
    for (size_t i = 0; i < kinds_of_work; ++i) {
        std::cout << std::left << std::setw(12) << name_of(Work(i)) << std::right << std::fixed
                  << std::setprecision(3) << std::setw(10) << profile->ms[i] << " ms\n";
    }
    for (const auto& [title, times] :
         {std::pair("by themselves:", &profile->elements),
          {"drawn as:", &profile->looks},
          {"of which for the number of particles, not for their pixels:", &profile->readied}}) {
        std::cout << title << "\n";
        for (const auto& [key, ms] : *times) {
            std::cout << "  " << std::left << std::setw(12) << key << std::right << std::setw(8) << ms
                      << " ms\n";
        }
    }
    if (const auto problem = write_file(out, [&](std::ostream& stream) { stream << text_of(*profile); })) {
        return refuse({*problem});
    }
    return said();
}

int check_budget(const CheckBudgetOptions& options) {
    for (const auto& problem : {refusal_of("--report", options.report), refusal_of("--page", options.page)}) {
        if (problem) {
            return refuse({*problem});
        }
    }
    Problems problems;
    std::vector<BudgetCheck> before;
    if (!options.before.empty()) {
        before = read_checks(options.before, problems);
    }
    if (!problems.empty()) {
        return refuse(problems);
    }
    MachineRatio ratio;
    if (!options.machine.empty()) {
        const auto there = read_profile(options.machine, problems);
        const auto here = !problems.empty()      ? std::nullopt
                          : options.here.empty() ? measured_here("here")
                                                 : read_profile(options.here, problems);
        if (!there || !here) {
            return refuse(problems);
        }
        ratio = ratio_of(*there, *here);
        std::cout << "Predicted for " << there->name << ", " << there->threads << " threads:\n";
    }
    std::vector<BudgetCheck> checks;
    for (const std::string& path : options.effects) {
        auto check = checked_effect(path, options, ratio);
        if (!check) {
            return exit_bad_input;
        }
        tell(*check);
        const auto same = std::find_if(before.begin(), before.end(),
                                       [&](const BudgetCheck& each) { return each.file == path; });
        if (same != before.end()) {
            const std::vector<CostChange> grown = cost_changes(*same, *check);
            if (!grown.empty() && grown.front().now_ms > grown.front().before_ms) {
                std::cout << "  grown the most: " << grown.front().name << ", from "
                          << text_of(float(std::round(grown.front().before_ms * 1000) / 1000)) << " to "
                          << text_of(float(std::round(grown.front().now_ms * 1000) / 1000)) << " ms a step\n";
            }
        }
        checks.push_back(std::move(*check));
    }
    const auto write = [&](std::ostream& stream) {
        options.report.ends_with(".csv")   ? write_csv(checks, stream)
        : options.report.ends_with(".xml") ? write_xml(checks, stream)
                                           : write_json(checks, stream);
    };
    if (!options.report.empty()) {
        if (const auto problem = write_file(options.report, write)) {
            return refuse({*problem});
        }
    }
    if (!options.page.empty()) {
        const auto problem =
            write_file(options.page, [&](std::ostream& stream) { write_page(checks, before, stream); });
        if (problem) {
            return refuse({*problem});
        }
    }
    if (const int code = said(); code != exit_fine) {
        return code;
    }
    const bool is_over =
        std::any_of(checks.begin(), checks.end(), [](const BudgetCheck& check) { return check.is_over(); });
    return is_over ? exit_over_budget : exit_fine;
}

int tell_worth(const WorthOptions& options) {
    if (const auto problem = refusal_of("--report", options.report)) {
        return refuse({*problem});
    }
    const auto read = opened(options.effect, options);
    if (!read) {
        return exit_bad_input;
    }
    std::optional<WorthTable> table;
    {
        const ShareDone progress;
        table = worths({read->effect, read->assets, span_of(options, *read->effect),
                        [&] { return moment_painter(options.width, options.height); }, options.rounds},
                       run_together, [&](const WorthTable& known) { progress.at(known.share_done); });
    }
    std::cout << std::fixed << std::setprecision(2) << "all of it: " << table->whole.median_ms
              << " ms a step, " << table->whole.picture_ms << " ms a picture\n"
              << "  saves ms     +-   step  picture  particles  pieces    MB  picture changes  without\n";
    for (const Worth& row : table->rows) {
        std::cout << std::setw(10) << row.saved_ms() << std::setw(7)
                  << (row.runs > 1 ? text_of(float(std::round(row.spread_ms * 100) / 100)) : "-")
                  << std::setw(7) << row.saved_step_ms << std::setw(9) << row.saved_picture_ms
                  << std::setw(11) << row.particles << std::setw(8) << row.pieces << std::setw(6)
                  << std::setprecision(1) << row.memory_mb << std::setw(15) << 100 * row.change << " %  "
                  << row.words << std::setprecision(2) << "\n";
    }
    if (!options.report.empty()) {
        const auto problem = write_file(options.report, [&](std::ostream& stream) {
            stream
                << "what,holder,saved_step_ms,saved_picture_ms,spread_ms,particles,pieces,memory_mb,change\n";
            for (const Worth& row : table->rows) {
                stream << csv_cell(row.words) << "," << row.off.holder << "," << row.saved_step_ms << ","
                       << row.saved_picture_ms << "," << row.spread_ms << "," << row.particles << ","
                       << row.pieces << "," << row.memory_mb << "," << row.change << "\n";
            }
        });
        if (problem) {
            return refuse({*problem});
        }
    }
    return said();
}

int fit_effect(const FitOptions& options) {
    if (const auto problem = refusal_of("--out", options.out)) {
        return refuse({*problem});
    }
    const auto read = opened(options.effect, options);
    if (!read) {
        return exit_bad_input;
    }
    std::vector<FitNumber> numbers;
    for (const std::string& text : options.numbers) {
        const auto equals = text.find('=');
        const auto dot = text.rfind('.', equals);
        const auto end = equals == std::string::npos ? std::nullopt : parsed_number(text.substr(equals + 1));
        if (!end || dot == std::string::npos) {
            return refuse({{"", 0, "--number", text, "ELEMENT.PARAMETER=END"}});
        }
        numbers.push_back({text.substr(0, dot), text.substr(dot + 1, equals - dot - 1), float(*end), 1});
        if (const auto refused = refusal_of(*read->effect, numbers.back())) {
            return refuse({{"", 0, "--number", text, *refused}});
        }
    }
    if (numbers.empty()) {
        numbers = numbers_to_fit(*read->effect);
    }
    std::optional<FitResult> result;
    {
        const ShareDone progress;
        result = fit(
            {read->effect, [&](const Effect& effect) { return load_assets(effect, options.effect).assets; },
             span_of(options, *read->effect), [&] { return moment_painter(options.width, options.height); },
             numbers, options.margin, !options.leaves_looks},
            run_together, [&](int made, int most) { progress.at(double(made) / most); });
    }
    std::cout << result->words << " (" << result->runs << " runs)\n";
    for (const FitResult::Change& change : result->changes) {
        std::cout << "  " << change.words << ": " << text_of(change.from) << " -> " << text_of(change.to)
                  << "\n";
    }
    const std::vector<LimitReading> before = readings_of(*read->effect, result->before);
    const std::vector<LimitReading> after = readings_of(*read->effect, result->after);
    for (size_t i = 0; i < after.size(); ++i) {
        const auto figure = [](double value) { return text_of(float(std::round(value * 100) / 100)); };
        std::cout << "  " << after[i].name << ": " << figure(before[i].measured) << " -> "
                  << figure(after[i].measured) << " of " << figure(after[i].limit) << "\n";
    }
    std::cout << "  of the picture stays: " << std::lround(result->kept * 100) << " %\n";
    if (!options.out.empty()) {
        const auto problem =
            write_file(options.out, [&](std::ostream& stream) { stream << effect_text(result->effect); });
        if (problem) {
            return refuse({*problem});
        }
    }
    if (const int code = said(); code != exit_fine) {
        return code;
    }
    return result->holds ? exit_fine : exit_over_budget;
}

} // namespace ember
