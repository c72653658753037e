// The commands of crisp-ember-cli. Each returns the program's exit code.
#pragma once

#include "core/bake/field_box.h"
#include "core/base/isa.h"

#include <cstdint>
#include <optional>
#include <string>
#include <vector>

namespace ember {

enum ExitCode { exit_fine = 0, exit_wrong_usage = 1, exit_bad_input = 2, exit_over_budget = 3 };

struct RunOptions {
    std::string effect;            // file
    std::string take;              // file of takes, in place of an effect
    std::string take_name;         // the last if empty
    double from = 0;               // seconds that are stepped before anything is measured
    std::optional<double> seconds; // to the end of the take or the effect if missing, or 10
    std::optional<int64_t> frames; // in place of seconds
    std::optional<uint32_t> seed;  // in place of the file's
    int threads = 0;               // 0: all
    std::string report;            // .csv or .json
    std::string picture;           // .png or .exr
    bool alone = false;            // the picture without the stage
    std::string particles;         // .ply
    std::optional<double> at;      // seconds; the end of the run if missing
    int width = 0;                 // 0: 1280x800, or as wide in the effect's own frame shape
    int height = 0;
    std::vector<std::string> set; // element.parameter=value
    bool enforce = false;
    bool without_cleanup = false;
};

/// Steps an effect and writes what was asked for.
int run_effect(const RunOptions& options);

struct SeedsOptions {
    std::string effect;
    int count = 9;
    double at = 4;     // seconds
    std::string sheet; // .png; may be empty
    int width = 320;   // of each picture
    int height = 200;
};

/// Runs an effect with its own seed and the ones after it: a table, and a sheet with a picture of each.
int compare_seeds(const SeedsOptions& options);

/// What is measured of an effect.
struct MeasuringOptions {
    /// A part of the time (s); nothing: from the start to the effect's end, or 6 s.
    std::optional<std::pair<double, double>> span_s;
    int width = 1280, height = 800; // of the pictures
};

struct CheckBudgetOptions : MeasuringOptions {
    std::vector<std::string> effects; // files
    int seeds = 1;                    // its own and the ones after it
    std::string report;               // .json, .csv or .xml
    std::string page;                 // .html
    std::string before;               // an earlier report, .json
    std::string machine;              // profile of the machine it is for; empty: this one
    std::string here;                 // profile of this machine; empty: it is measured first
};

/// Runs effects against their budgets; exit_over_budget if one of them is over.
int check_budget(const CheckBudgetOptions& options);

struct WorthOptions : MeasuringOptions {
    std::string effect;
    int rounds = 2;
    std::string report; // .csv
};

/// What each thing of an effect costs, and how much of the picture changes without it: a table.
int tell_worth(const WorthOptions& options);

struct FitOptions : MeasuringOptions {
    std::string effect;
    std::string out;                  // effect file
    std::vector<std::string> numbers; // element.parameter=end; empty: those that usually help
    double margin = 0.05;
    bool leaves_looks = false; // what is left of a source is not drawn stronger or larger
};

/// Finds values that keep an effect within its budget; exit_over_budget if there are none.
int fit_effect(const FitOptions& options);

/// Measures this machine, to predict on others what effects would cost here.
int measure_machine(const std::string& name, const std::string& out);

struct BakeOptions {
    std::string effect;                              // file
    std::string take, take_name;                     // in place of it, as in RunOptions
    std::string out;                                 // folder
    std::optional<std::pair<double, double>> span_s; // to the effect's or the take's end, or 4 s, if missing
    double frames_per_s = 60;
    std::optional<uint32_t> seed;
    std::vector<std::string> sources; // ids; empty: all
    bool particles = false, particle_motion = false, pieces = false, piece_textures = false, smoke = false,
         fields = false, costs = false;
    std::optional<FieldBox> field_box;
    std::string pictures, video; // formats; empty: none
    std::string sheet;           // how it loops: none, fade, find; empty: no sheet
    bool alone = false, premultiplied = false, replaces = false;
    int width = 0, height = 0; // 0: 1280x800, or as wide in the effect's own frame shape
};

/// Runs an effect or a take and writes it to a folder for other programs.
int bake_effect(const BakeOptions& options);

/// Lists every problem of an effect file.
int check_effect(const std::string& path);

/// Lists the parameters of one element type, or of everything. `markdown`: the text of docs/effect-format.md.
int describe(const std::string& type, bool markdown);

} // namespace ember
