#include "cli/opening.h"

#include "core/bake/ply.h"
#include "core/base/file.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/runtime/report.h"
#include "core/runtime/take.h"
#include "render/still.h"

#include <oneapi/tbb/global_control.h>

#include <algorithm>
#include <cmath>
#include <iostream>
#include <system_error>
#include <unistd.h>

namespace ember {

namespace {

// Applies "element.parameter=value"; nothing if that went well.
std::optional<Problem> apply_setting(const std::string& setting, Effect& effect) {
    const auto equals = setting.find('=');
    const auto dot = setting.rfind('.', equals);
    if (equals == std::string::npos || dot == std::string::npos) {
        return Problem{"", 0, "--set", setting, "ELEMENT.PARAMETER=VALUE"};
    }
    const std::string id = setting.substr(0, dot);
    const std::string key = setting.substr(dot + 1, equals - dot - 1);
    const std::string text = setting.substr(equals + 1);
    const auto holder = find_holder(effect, id);
    if (!holder) {
        return Problem{"", 0, "--set", "\"" + id + "\"",
                       "the id of an element or look of this effect, stage or budget"};
    }
    const bool is_element = find_element(effect, id) != nullptr;
    if (is_element && (key == "muted" || key == "solo")) {
        if (text != "true" && text != "false") {
            return Problem{"", 0, "--set " + id + "." + key, text, "true or false"};
        }
        effect =
            key == "muted" ? with_muted(effect, id, text == "true") : with_solo(effect, id, text == "true");
        return std::nullopt;
    }
    const Parameter* parameter = holder->find(key);
    if (parameter == nullptr) {
        std::string known = is_element ? " muted solo" : "";
        for (const Parameter& each : holder->parameters) {
            known += " " + std::string(each.key);
        }
        return Problem{"", 0, "--set " + id, "\"" + key + "\"", "one of" + known};
    }
    const auto value = parse_value(*parameter, text);
    if (!value || refusal_of(*parameter, *value)) {
        return Problem{"", 0, "--set " + id + "." + key, text, expectation_of(*parameter)};
    }
    effect = with_value(effect, id, *parameter, *value);
    return std::nullopt;
}

class StepCounter {
  public:
    explicit StepCounter(uint64_t steps) : steps_(steps), shown_(isatty(STDERR_FILENO) != 0) {}
    ~StepCounter() {
        if (shown_) {
            std::cerr << "\r\x1b[K";
        }
    }
    void at(uint64_t step) const {
        if (shown_ && step % 30 == 0) {
            std::cerr << "\rstep " << step << " of " << steps_ << std::flush;
        }
    }

  private:
    uint64_t steps_;
    bool shown_;
};

// What is written must be another file than what is read, and than what else is written.
std::optional<Problem> refusal_of_outputs(const RunOptions& options, const Effect& effect) {
    const std::filesystem::path folder = std::filesystem::path(options.effect).parent_path();
    std::vector<std::pair<std::string, std::filesystem::path>> known = {{"the effect", options.effect}};
    for (const AssetNeed& need : needs_of(effect)) {
        known.emplace_back("a file of the effect", folder / need.file);
    }
    const std::pair<const char*, const std::string&> outputs[] = {
        {"--report", options.report}, {"--picture", options.picture}, {"--particles", options.particles}};
    for (const auto& [option, path] : outputs) {
        if (path.empty()) {
            continue;
        }
        if (auto problem = refusal_to_write(path)) {
            problem->place = option;
            return problem;
        }
        for (const auto& [what, other] : known) {
            std::error_code error;
            const bool is_same = std::filesystem::weakly_canonical(other, error) ==
                                     std::filesystem::weakly_canonical(path, error) ||
                                 std::filesystem::equivalent(other, path, error);
            if (is_same && !other.empty() && !std::filesystem::is_directory(other, error) &&
                !std::filesystem::is_character_file(path, error)) {
                return Problem{path, 0, option, what, "another file, so that this one is not overwritten"};
            }
        }
        known.emplace_back(std::string("what ") + option + " writes", path);
    }
    return std::nullopt;
}

// For the rest of the run, if its steps are slow: what it comes to, and how to end it.
void tell_slow(double step_ms, uint64_t steps_left) {
    constexpr double slow_ms = 1000;
    if (step_ms > slow_ms) {
        std::cerr << "note: a step takes " << text_of(float(step_ms / 1000)) << " s, the run about "
                  << text_of(float(double(steps_left) * step_ms / 60000)) << " min; Ctrl+C ends it\n";
    }
}

std::optional<Problem> write_outputs(const Simulation& simulation, const RunOptions& options) {
    if (!options.particles.empty()) {
        if (auto problem = write_ply(simulation, options.particles)) {
            return problem;
        }
    }
    if (!options.picture.empty()) {
        Frame frame;
        simulation.write_frame(frame);
        const Effect& effect = *frame.now;
        constexpr int usual_width = 1280, usual_height = 800;
        const bool is_given = options.width > 0;
        const float ratio = frame_ratio_of(effect.stage).value_or(float(usual_width) / float(usual_height));
        const int width = is_given ? options.width : usual_width;
        const int height = is_given ? options.height : std::max(int(std::lround(float(width) / ratio)), 1);
        return save_still(frame, effect, camera_of(effect.stage), {width, height, options.alone},
                          options.picture);
    }
    return std::nullopt;
}

// What was edited while a take was played may have needed other files than its end does.
void add_assets_on_the_way(const Take& take, const std::string& path, LoadResult& loaded) {
    for (const auto& [step, effect] : take.effects) {
        const std::vector<AssetNeed> needs = needs_of(*effect);
        const auto is_there = [&](const AssetNeed& need) {
            return loaded.assets.by_key.contains(need.key());
        };
        if (loaded.missing.empty() && !std::all_of(needs.begin(), needs.end(), is_there)) {
            LoadResult more = load_assets(*effect, path);
            loaded.assets.by_key.merge(more.assets.by_key);
            loaded.missing = std::move(more.missing);
        }
    }
}

} // namespace

int check_effect(const std::string& path) {
    const ReadResult read = read_effect(path);
    if (!read.is_sound()) {
        return refuse(read.problems);
    }
    const LoadResult loaded = load_assets(*read.effect, path);
    Problems notes = read.notes;
    notes.insert(notes.end(), loaded.notes.begin(), loaded.notes.end());
    tell_notes(*read.effect, notes);
    if (!loaded.missing.empty()) {
        return refuse(loaded.missing);
    }
    std::cout << path << ": fine, " << read.effect->elements.size() << " elements\n";
    return said();
}

int run_effect(const RunOptions& given) {
    RunOptions options = given;
    Problems problems;
    std::optional<Take> take;
    ReadResult read;
    if (!options.take.empty()) {
        take = read_take(options.take, options.take_name, problems);
        if (!take || !problems.empty()) {
            return refuse(problems);
        }
        options.effect = options.take;
        read.effect = *std::prev(take->effects.end())->second;
    } else {
        read = read_effect(options.effect);
    }
    if (!read.is_sound()) {
        return refuse(read.problems);
    }
    Effect effect = std::move(*read.effect);
    if (options.seed) {
        effect.seed = *options.seed;
    }
    for (const std::string& setting : options.set) {
        if (const auto problem = apply_setting(setting, effect)) {
            return refuse({*problem});
        }
    }

    std::optional<tbb::global_control> limit;
    if (options.threads > 0) {
        limit.emplace(tbb::global_control::max_allowed_parallelism, size_t(options.threads));
    }
    // Settings may name what is not there, or lead elements back to themselves.
    if (const ReadResult changed = parse_effect(effect_text(effect), options.effect); !changed.is_sound()) {
        return refuse(changed.problems);
    }
    if (const auto problem = refusal_of_outputs(options, effect)) {
        return refuse({*problem});
    }
    LoadResult loaded = load_assets(effect, options.effect);
    if (take) {
        add_assets_on_the_way(*take, options.effect, loaded);
    }
    if (!loaded.missing.empty()) {
        return refuse(loaded.missing);
    }
    Problems notes = std::move(read.notes);
    notes.insert(notes.end(), loaded.notes.begin(), loaded.notes.end());
    tell_notes(effect, notes);
    Simulation simulation;
    simulation.set_effect(take ? take->effect_at(0) : std::make_shared<const Effect>(std::move(effect)),
                          loaded.assets);
    const auto make_step = [&] {
        StepInputs inputs;
        if (take && simulation.steps() < take->steps()) {
            inputs = inputs_of_step(*take, simulation);
        }
        inputs.cleans = inputs.cleans && !options.without_cleanup;
        simulation.step(inputs);
    };
    while (simulation.is_warming_up()) {
        make_step();
    }
    const auto steps_of = [&](double seconds) {
        return uint64_t(std::llround(seconds / simulation.step_s()));
    };
    const auto length = double(simulation.effect()->stage.length);
    const double usual_s = length > options.from ? length - options.from : 10;
    const uint64_t from = steps_of(options.from);
    const uint64_t to_end = take && take->steps() > simulation.steps() + from
                                ? take->steps() - simulation.steps() - from
                                : steps_of(usual_s);
    const uint64_t steps = from + (options.frames    ? uint64_t(*options.frames)
                                   : options.seconds ? steps_of(*options.seconds)
                                                     : to_end);
    const uint64_t output_step = options.at ? steps_of(*options.at) : steps;
    if (output_step > steps) {
        return refuse({{"", 0, "--at", text_of(float(*options.at)) + " s", "a time within the run"}});
    }

    Report report(*simulation.effect());
    std::optional<GrowingFile> report_file;
    if (!options.report.empty()) {
        report_file.emplace(options.report);
        if (const auto problem = report_file->problem()) {
            return refuse({*problem});
        }
        options.report.ends_with(".csv") ? report.begin_csv(report_file->stream())
                                         : report.begin_json(report_file->stream());
    }
    const StepCounter progress(steps);
    for (uint64_t step = 0;; ++step) {
        if (step == output_step) {
            if (const auto problem = write_outputs(simulation, options)) {
                return refuse({*problem});
            }
        }
        if (step == steps) {
            break;
        }
        make_step();
        if (step >= from) {
            report.add(simulation);
        }
        if (step == 2) {
            tell_slow(simulation.meters().step_ms, steps - step);
        }
        progress.at(step);
    }
    report.end();
    if (report_file) {
        if (const auto problem = report_file->keep()) {
            return refuse({*problem});
        }
    }
    report.write_summary(std::cout);
    if (const int code = said(); code != exit_fine) {
        return code;
    }
    return options.enforce && report.is_over_budget() ? exit_over_budget : exit_fine;
}

} // namespace ember
