#include "cli/commands.h"

#include "core/base/file.h"

#include <CLI/CLI.hpp>

#include <algorithm>
#include <charconv>
#include <filesystem>
#include <iostream>
#include <new>
#include <regex>

namespace {

using namespace ember;

// "1280x800" to width and height, each of at most `most`; the message that CLI11 shows if that fails.
std::string read_size(const std::string& text, int most, int& width, int& height) {
    std::smatch match;
    if (!std::regex_match(text, match, std::regex("([0-9]{1,5})x([0-9]{1,5})"))) {
        return "--size: found " + text + ", expected WIDTHxHEIGHT in pixels, such as 1280x800";
    }
    width = std::stoi(match[1]);
    height = std::stoi(match[2]);
    if (width < 1 || height < 1 || width > most || height > most) {
        const std::string side = std::to_string(most);
        return "--size: found " + text + ", expected from 1x1 to " + side + "x" + side;
    }
    return {};
}

// Finite seconds of at most a day. A range check alone would let a NaN pass.
std::string check_seconds(const std::string& text) {
    double seconds = -1;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), seconds);
    const bool fine =
        error == std::errc() && end == text.data() + text.size() && seconds >= 0 && seconds <= 86400;
    return fine ? std::string() : "found " + text + ", expected seconds from 0 to 86400";
}

// A name of one file, of a kind that can be written. Device nodes have no ending: they take what they are
// given.
CLI::Validator ending_in(const std::vector<std::string>& endings) {
    std::string expected;
    for (const std::string& ending : endings) {
        expected += (expected.empty() ? "" : " or ") + ending;
    }
    return {[endings, expected](const std::string& path) -> std::string {
                if (path.find('%') != std::string::npos) {
                    return "found " + path + ", expected the name of one file: numbered ones are not written";
                }
                std::error_code error;
                if (std::filesystem::is_character_file(path, error)) {
                    return {};
                }
                const bool fits = std::any_of(endings.begin(), endings.end(), [&](const std::string& ending) {
                    return path.ends_with(ending);
                });
                return fits ? std::string() : "found " + path + ", expected a name that ends in " + expected;
            },
            "FILE"};
}

void add_size(CLI::App& command, int most, int& width, int& height, const std::string& words) {
    command.add_option_function<std::string>(
        "--size",
        [&width, &height, most](const std::string& text) {
            if (const std::string problem = read_size(text, most, width, height); !problem.empty()) {
                throw CLI::ValidationError(problem);
            }
        },
        words);
}

CLI::App* add_run(CLI::App& app, RunOptions& options) {
    CLI::App* run = app.add_subcommand("run", "Step an effect and write what was asked for");
    auto* effect = run->add_option("EFFECT", options.effect, "Effect file");
    auto* take =
        run->add_option("--take", options.take,
                        "File of takes: runs one again, with all that reached it, in place of an effect")
            ->excludes(effect);
    run->add_option("--take-name", options.take_name, "Which of them; the last if missing")->needs(take);
    run->add_option("--from", options.from, "Steps to this time (s) first; nothing of that is in the report")
        ->check(CLI::Validator(check_seconds, "SECONDS"));
    auto* seconds =
        run->add_option(
               "--seconds", options.seconds,
               "How long to run (s); to the end of the take or the effect if neither is given, or 10")
            ->check(CLI::Validator(check_seconds, "SECONDS"));
    run->add_option("--frames", options.frames, "How many steps to run")
        ->check(CLI::Range(0, 5184000))
        ->excludes(seconds);
    run->add_option("--seed", options.seed, "Seed in place of the file's")
        ->excludes(take)
        ->check(CLI::Range(0.0, 4294967295.0));
    run->add_option("--threads", options.threads, "Threads to use; all if missing")
        ->check(CLI::Range(1, 256));
    run->add_option("--backend", "Where to compute: cpu")->check(CLI::IsMember({"cpu"}));
    run->add_option("--report", options.report, "Costs of every step, as .csv or .json")
        ->check(ending_in({".csv", ".json"}));
    run->add_option("--picture", options.picture,
                    "Picture as PNG or, with the ending .exr, as OpenEXR in linear light")
        ->check(ending_in({".png", ".exr"}));
    run->add_flag("--alone", options.alone, "The picture without the stage, on nothing: with opacity");
    run->add_option("--particles", options.particles, "Particles as binary PLY")->check(ending_in({".ply"}));
    run->add_option("--at", options.at,
                    "Time of the picture and the particles (s); the end of the run if missing")
        ->check(CLI::Validator(check_seconds, "SECONDS"));
    add_size(
        *run, 16384, options.width, options.height,
        "Size of the picture in pixels; 1280x800, or 1280 wide in the effect's own frame shape, if missing");
    run->add_option("--set", options.set,
                    "ELEMENT.PARAMETER=VALUE, the value as in the file; may be repeated")
        ->excludes(take)
        ->take_all()
        ->allow_extra_args(false);
    run->add_flag("--without-cleanup", options.without_cleanup,
                  "As if no zone and no rule took pieces away: what they are good for");
    run->add_flag("--enforce", options.enforce, "Exit code 3 if the effect is over its budget");
    return run;
}

CLI::App* add_seeds(CLI::App& app, SeedsOptions& options) {
    CLI::App* seeds =
        app.add_subcommand("seeds", "Run an effect with several seeds and lay them side by side");
    seeds->add_option("EFFECT", options.effect, "Effect file")->required();
    seeds->add_option("--count", options.count, "How many: its own seed and the ones after it; 9 if missing")
        ->check(CLI::Range(1, 400));
    seeds->add_option("--at", options.at, "The moment that is shown (s); 4 if missing")
        ->check(CLI::Validator(check_seconds, "SECONDS"));
    seeds
        ->add_option("--sheet", options.sheet,
                     "A picture of each as one PNG, row by row in the order of the table")
        ->check(ending_in({".png"}));
    add_size(*seeds, 2048, options.width, options.height,
             "Size of each picture in pixels, 320x200 if missing");
    return seeds;
}

void add_span(CLI::App& command, std::optional<std::pair<double, double>>& span_s, const std::string& words) {
    command.add_option_function<std::string>(
        "--span",
        [&span_s](const std::string& text) {
            const auto colon = text.find(':');
            const std::string from = text.substr(0, colon),
                              to = colon == std::string::npos ? "" : text.substr(colon + 1);
            const bool fits = colon != std::string::npos && check_seconds(from).empty() &&
                              check_seconds(to).empty() && std::stod(to) > std::stod(from);
            if (!fits) {
                throw CLI::ValidationError("--span: found " + text +
                                           ", expected FROM:TO in seconds, such as 2:8");
            }
            span_s = {std::stod(from), std::stod(to)};
        },
        words);
}

// Which seconds, and how large the pictures are.
void add_measuring(CLI::App& command, MeasuringOptions& option) {
    add_span(command, option.span_s,
             "Part of the time that counts (s), as FROM:TO; from the start to the effect's end, or 6 s, if "
             "missing");
    add_size(command, 4096, option.width, option.height,
             "Size of the pictures whose time counts, 1280x800 if missing");
}

// Of "X,Y,Z:X,Y,Z:CELLS".
std::optional<FieldBox> field_box_in(const std::string& text) {
    FieldBox box;
    int end = 0;
    const int found = std::sscanf(text.c_str(), "%f,%f,%f:%f,%f,%f:%d%n", &box.low.x, &box.low.y, &box.low.z,
                                  &box.high.x, &box.high.y, &box.high.z, &box.cells, &end);
    constexpr float farthest = 10000;
    const auto is_within = [](float low, float high) {
        return low >= -farthest && high <= farthest && low <= high; // and both are numbers
    };
    const bool fits = found == 7 && size_t(end) == text.size() && box.cells >= 2 &&
                      box.cells <= most_field_cells && is_within(box.low.x, box.high.x) &&
                      is_within(box.low.y, box.high.y) && is_within(box.low.z, box.high.z) &&
                      !(box.low == box.high);
    return fits ? std::optional(box) : std::nullopt;
}

CLI::App* add_bake(CLI::App& app, BakeOptions& options) {
    CLI::App* bake = app.add_subcommand("bake", "Write an effect's frames to a folder for other programs");
    auto* effect = bake->add_option("EFFECT", options.effect, "Effect file");
    auto* take = bake->add_option("--take", options.take, "File of takes: bakes one, in place of an effect")
                     ->excludes(effect);
    bake->add_option("--take-name", options.take_name, "Which of them; the last if missing")->needs(take);
    bake->add_option("--out", options.out, "Folder; new, empty, or of the same bake, which then goes on")
        ->required();
    add_span(*bake, options.span_s,
             "Part of the time that is written (s), as FROM:TO; from the start to the effect's or the take's "
             "end, or 4 s, "
             "if missing");
    bake->add_option("--fps", options.frames_per_s, "Frames a second; 60 if missing")
        ->check(CLI::Range(0.1, 60.0));
    bake->add_option("--seed", options.seed, "Seed in place of the file's")
        ->excludes(take)
        ->check(CLI::Range(0.0, 4294967295.0));
    bake->add_option("--source", options.sources,
                     "Id of an emitter, smoke or breakable; may be repeated; all if missing")
        ->take_all()
        ->allow_extra_args(false);
    bake->add_flag("--particles", options.particles, "Particles as PLY, a file a frame");
    bake->add_flag("--particle-motion", options.particle_motion,
                   "Particles as one animated GLB; for short ones");
    bake->add_flag("--pieces", options.pieces, "Pieces as one animated GLB");
    bake->add_flag("--piece-textures", options.piece_textures, "Pieces as vertex animation textures");
    bake->add_flag("--smoke", options.smoke, "Smoke as OpenVDB, a file a frame");
    bake->add_flag("--fields", options.fields,
                   "What forces do as OpenVDB, a file a frame: each by itself, and their sum on each source");
    bake->add_option_function<std::string>(
        "--field-box",
        [&options](const std::string& text) {
            if (!(options.field_box = field_box_in(text))) {
                throw CLI::ValidationError("--field-box: found " + text +
                                           ", expected X,Y,Z:X,Y,Z:CELLS, two corners in m and 2 to " +
                                           std::to_string(most_field_cells) +
                                           " places along the longest side");
            }
        },
        "Where that is, as X,Y,Z:X,Y,Z:CELLS (m, and places along the longest side); round what the camera "
        "looks at if missing");
    bake->add_flag("--costs", options.costs, "Costs and counts as CSV");
    bake->add_option("--pictures", options.pictures,
                     "A picture a frame: png, png16, exr, or layers (exr with depth and each source)")
        ->check(CLI::IsMember({"png", "png16", "exr", "layers"}));
    bake->add_option("--video", options.video,
                     "One video: h264 (MP4), vp9 (WebM), prores or png (MOV, with opacity)")
        ->check(CLI::IsMember({"h264", "vp9", "prores", "png"}));
    bake->add_option("--sheet", options.sheet,
                     "One sheet of all frames, without the stage; says how it loops: none, fade or find")
        ->check(CLI::IsMember({"none", "fade", "find"}));
    bake->add_flag("--premultiplied", options.premultiplied, "The sheet's colours are multiplied by opacity");
    bake->add_flag("--alone", options.alone,
                   "Pictures and video without the stage, on nothing: with opacity");
    add_size(*bake, 16384, options.width, options.height,
             "Size of pictures in pixels; 1280x800, or 1280 wide in the effect's own frame shape, if "
             "missing; of a "
             "sheet alone 256x256");
    bake->add_flag("--replace", options.replaces, "Throws away what another bake has left in the folder");
    return bake;
}

CLI::App* add_check_budget(CLI::App& app, CheckBudgetOptions& options) {
    CLI::App* check = app.add_subcommand(
        "check-budget", "Run effects against their budgets; exit code 3 if one of them is over");
    check->add_option("EFFECT", options.effects, "Effect files")->required();
    add_measuring(*check, options);
    check->add_option("--seeds", options.seeds, "How many seeds: its own and the ones after it; 1 if missing")
        ->check(CLI::Range(1, 100));
    check->add_option("--report", options.report, "For programs: .json, .csv, or .xml as results of tests")
        ->check(ending_in({".json", ".csv", ".xml"}));
    check->add_option("--page", options.page, "For people: one page of HTML with plots")
        ->check(ending_in({".html"}));
    check->add_option("--before", options.before, "An earlier report (.json): tells what has grown")
        ->check(CLI::ExistingFile);
    auto* machine = check
                        ->add_option("--profile", options.machine,
                                     "Profile of the machine it is for (see \"measure\"): costs as they "
                                     "would be there")
                        ->check(CLI::ExistingFile);
    check->add_option("--here", options.here, "Profile of this machine; it is measured first if missing")
        ->check(CLI::ExistingFile)
        ->needs(machine);
    return check;
}

CLI::App* add_worth(CLI::App& app, WorthOptions& options) {
    CLI::App* worth = app.add_subcommand(
        "worth", "What each thing of an effect costs, and how much of the picture changes without it");
    worth->add_option("EFFECT", options.effect, "Effect file")->required();
    add_measuring(*worth, options);
    worth->add_option("--rounds", options.rounds, "How often each is switched off, in turn; 2 if missing")
        ->check(CLI::Range(1, 20));
    worth->add_option("--report", options.report, "The table as .csv")->check(ending_in({".csv"}));
    return worth;
}

CLI::App* add_fit(CLI::App& app, FitOptions& options) {
    CLI::App* fit = app.add_subcommand(
        "fit", "Find values that keep an effect within its budget; exit code 3 if there are none");
    fit->add_option("EFFECT", options.effect, "Effect file")->required();
    fit->add_option("--out", options.out, "The effect with those values")->check(ending_in({".json"}));
    add_measuring(*fit, options);
    fit->add_option(
           "--number", options.numbers,
           "ELEMENT.PARAMETER=END: may go as far as END; may be repeated. If missing, rates, bursts, "
           "copies, resolutions and numbers of pieces, each down to a fifth; octaves, layers that add "
           "light, bloom and glare")
        ->take_all()
        ->allow_extra_args(false);
    fit->add_flag(
        "--leave-looks", options.leaves_looks,
        "What is left of a source stays as it is; else glow (of what adds) or opacity of its look, or "
        "the size of its particles goes up where that brings the picture closer");
    fit->add_option("--margin", options.margin, "Share of each limit that stays free; 0.05 if missing")
        ->check(CLI::Range(0.0, 0.9));
    return fit;
}

} // namespace

int main(int argc, char** argv) {
    remove_unfinished_on_signals();
    CLI::App app{
        "Crisp Ember on the command line: run, bake, compare, measure, fit, check and describe effects"};
    app.require_subcommand(1);
    RunOptions options;
    const CLI::App* run = add_run(app, options);
    BakeOptions bake_options;
    const CLI::App* bakes = add_bake(app, bake_options);
    SeedsOptions seeds_options;
    const CLI::App* seeds = add_seeds(app, seeds_options);
    CheckBudgetOptions check_options;
    const CLI::App* checks_budget = add_check_budget(app, check_options);
    WorthOptions worth_options;
    const CLI::App* worth = add_worth(app, worth_options);
    std::string machine_name = "a machine", profile;
    CLI::App* measure =
        app.add_subcommand("measure", "Measure this machine: a profile, to predict elsewhere what effects "
                                      "would cost here");
    measure->add_option("--out", profile, "The profile")->required()->check(ending_in({".profile.json"}));
    measure->add_option("--name", machine_name, "What people call the machine");
    FitOptions fit_options;
    const CLI::App* fit = add_fit(app, fit_options);

    std::string path;
    CLI::App* check = app.add_subcommand("check", "List every problem of an effect file");
    check->add_option("EFFECT", path, "Effect file")->required();

    std::string type;
    bool markdown = false;
    CLI::App* describe_command =
        app.add_subcommand("describe", "List the parameters of an element type, or of all");
    describe_command->add_option("ELEMENT-TYPE", type, "emitter, turbulence, look, stage, ...");
    describe_command->add_flag("--markdown", markdown, "The page docs/effect-format.md");

    try {
        app.parse(argc, argv);
        if (run->parsed() && options.effect.empty() && options.take.empty()) {
            throw CLI::RequiredError("EFFECT, or --take with a file of takes,");
        }
        if (bakes->parsed() && bake_options.effect.empty() && bake_options.take.empty()) {
            throw CLI::RequiredError("EFFECT, or --take with a file of takes,");
        }
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? exit_fine : exit_wrong_usage;
    }
    try {
        if (check->parsed()) {
            return check_effect(path);
        }
        if (describe_command->parsed()) {
            return describe(type, markdown);
        }
        if (bakes->parsed()) {
            return bake_effect(bake_options);
        }
        if (checks_budget->parsed()) {
            return check_budget(check_options);
        }
        if (measure->parsed()) {
            return measure_machine(machine_name, profile);
        }
        if (worth->parsed()) {
            return tell_worth(worth_options);
        }
        if (fit->parsed()) {
            return fit_effect(fit_options);
        }
        return seeds->parsed() ? compare_seeds(seeds_options) : run_effect(options);
    } catch (const std::bad_alloc&) {
        std::cerr << "There is not enough memory for this: fewer particles, pieces or cells, or a smaller "
                     "picture.\n";
        return exit_bad_input;
    }
}
