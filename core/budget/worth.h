// What each thing costs, and whether one sees it: the same span with the same seed is run with each of them
// switched off in turn.
//
//     const auto table = worths({effect, assets, {0, 4}, make_draw}, run_whole, [](const WorthTable&) {});
#pragma once

#include "core/budget/trial.h"

#include <optional>
#include <span>

namespace ember {

/// Something that an effect can do without.
struct Switch {
    enum class What { element, octave, layer, copies, bloom, glare, focus, shutter };
    What what = What::element;
    std::string holder; // id of an element or look, or the stage
    int number = 0;     // of the layer; of octaves, how many there are
    bool operator==(const Switch&) const = default;
};

/// All that runs and can be switched off: elements (what only moves or drives others is no cost), the finest
/// octave of turbulence, copies and layers of looks that are worn, and what the lens does.
std::vector<Switch> switches_of(const Effect& effect);
/// The effect without it; nothing if it has no such thing any more.
std::optional<Effect> without(const Effect& effect, const Switch& off);
/// "Wall eddies", "Wall eddies: the finest octave", "Foam: layer 2", "Bloom".
std::string words_of(const Effect& effect, const Switch& off);

/// Without its sources: what is left is the stage, and what stands on it.
Effect bare(const Effect& effect);

struct Worth {
    Switch off;
    std::string words;
    double saved_step_ms = 0, saved_picture_ms = 0; // a frame, in the median of the runs
    int runs = 1;                                   // with it and without it
    double spread_ms = 0;                           // half of what lies between them; one run has none
    /// What there is less of without it, of the most at a time; below 0: more.
    long particles = 0, pieces = 0;
    double memory_mb = 0;
    double change = 0;          // of the picture, see change_of()
    SmallPicture with, without; // at the moment that differs the most

    double saved_ms() const { return saved_step_ms + saved_picture_ms; }
    /// Dear and hardly seen is large.
    double cost_for_what_is_seen() const { return saved_ms() / (change + 0.02); }
};

struct WorthTable {
    std::vector<Worth> rows; // what is dearest for what is seen of it first
    TrialFigures whole;      // with everything, in the median of its runs
    double share_done = 0;   // of all runs
};

/// Runs trials to their ends, step by step in turn, so that what disturbs one disturbs all; false if that was
/// ended on the way.
using RunTrials = std::function<bool(std::span<Trial> trials)>;
/// So, with nothing that could end it: true.
bool run_together(std::span<Trial> trials);

struct WorthOrder {
    EffectPtr effect;
    Assets assets;
    Span span;
    std::function<DrawMoment()> make_draw; // of one run
    int rounds = 2;                        // each thing is switched off so often, all in turn
};

/// `told` hears of the table after each run. Nothing if it was ended on the way.
std::optional<WorthTable> worths(const WorthOrder& order, const RunTrials& run,
                                 const std::function<void(const WorthTable&)>& told);

} // namespace ember
