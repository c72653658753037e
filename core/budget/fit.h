// Values that keep an effect within its limits, with as little change of its picture as can be found: what
// relieves most for what is seen of it goes first, as far as it must; or all go together, if that is seen
// less. What is left of a source makes up for what is not: it is drawn stronger or larger, where that brings
// the picture closer.
//
//     const auto result = fit({effect, load, {0, 4}, make_draw, numbers_to_fit(effect)}, run_whole, told);
#pragma once

#include "core/budget/worth.h"

namespace ember {

/// A number that may be made smaller or larger, as far as its end; one that is not a float is a count.
struct FitNumber {
    std::string holder; // id of an element or look
    std::string parameter;
    float end = 0;      // as far as it may go
    float dearness = 1; // 2: it is touched as if it changed the picture twice as much
    bool operator==(const FitNumber&) const = default;
};

/// What usually makes an effect cheaper: rates and bursts of births, copies, the resolution of smoke, the
/// numbers of pieces, each down to a fifth; octaves of turbulence down to one, the gain of layers that add
/// light, bloom and glare down to nothing. Of what is active, in the order of the board, the stage last.
std::vector<FitNumber> numbers_to_fit(const Effect& effect);

/// Why a number cannot be fitted (there is none such, its end is out of range); nothing if it can.
std::optional<std::string> refusal_of(const Effect& effect, const FitNumber& number);

struct FitOrder {
    EffectPtr effect;
    std::function<Assets(const Effect&)> load; // of a version: bodies are cut anew for other numbers
    Span span;
    std::function<DrawMoment()> make_draw;
    std::vector<FitNumber> numbers; // none is refused
    double margin = 0.05;           // of each limit, that is to stay free
    bool makes_up = true;           // what is left of sources may glow more, be more opaque or larger
};

/// One limit and how a run stands to it.
struct LimitReading {
    std::string name, unit;
    double limit = 0, measured = 0;
    double share() const { return measured / limit; }
};
/// Frame (the step that nineteen of twenty stay below, and the picture), particles, memory, and, where the
/// effect has them, pieces, awake pieces, linger time and smoke cells.
std::vector<LimitReading> readings_of(const Effect& effect, const TrialFigures& figures);

struct FitResult {
    bool holds = false; // with the margin
    Effect effect;      // as it was, with the numbers as they were found
    struct Change {
        FitNumber number;
        std::string words; // "Spray jet: Rate"
        float from = 0, to = 0;
    };
    std::vector<Change> changes; // numbers that are others than before, those that make up for it last
    TrialFigures before, after;
    double kept = 1; // of the picture: 1 less change_of()
    SmallPicture picture_before, picture_after;
    int runs = 0;
    std::string words; // how it came out, in a sentence; the limit that is furthest off if it does not hold
};

/// `told` hears how many versions have been tried, of how many at the most. Nothing if it was ended on the
/// way.
std::optional<FitResult> fit(const FitOrder& order, const RunTrials& run,
                             const std::function<void(int made, int most)>& told);

} // namespace ember
