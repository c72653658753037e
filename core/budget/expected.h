// How many particles or pieces a source will have once its effect has settled, worked out before it is let
// loose.
#pragma once

#include "core/effect/effect.h"

#include <optional>
#include <string>
#include <vector>

namespace ember {

struct ExpectedCount {
    double births_per_s = 0;
    double live = 0;   // by what goes on for ever; not held to the capacity
    double bursts = 0; // by single bursts, at the most at a time
    /// Hits cannot be known beforehand: where they give birth, one hit in each parent's life is assumed.
    bool assumes_hits = false;
    /// What modulators drive counts with the middle of its range, what is keyed with the most that it comes
    /// to at a key; what colliders kill lives as long as a few of its kind did, let loose alone.
    bool is_about = false;

    double most() const { return live + bursts; }
};

/// By the index of the element; only sources have one. Of breakables pieces are counted: those that stand,
/// and those that are dropped or put up again, for as long as they linger; about, since nobody knows when
/// they come to rest. Rates and lifetimes multiply down through parents and children. Where colliders kill, a
/// few particles of that source are run for at most ten seconds of theirs, which takes milliseconds; the same
/// source is not run twice in a row.
std::vector<ExpectedCount> expected_counts(const Effect& effect);

/// A sentence for a source that is expected to need more than its capacity; nothing if it is not.
std::optional<std::string> expected_excess(const Effect& effect, size_t element,
                                           const ExpectedCount& expected);

/// A sentence if the sources together are expected to need more particles than the budget allows; nothing if
/// they are not.
std::optional<std::string> expected_over_budget(const Effect& effect);

/// Why a blast can never break anything: its damage is below what holds all that it reaches; nothing if it
/// can.
std::optional<std::string> why_never_breaks(const Effect& effect, const Element& element);

/// A sentence for a volume of smoke that another one lies over, as they stand; nothing if none does.
std::optional<std::string> shared_room(const Effect& effect, const Element& element);

/// Why an emitter can never give birth as it is set; nothing if it can.
std::optional<std::string> why_never_born(const Effect& effect, const Element& element);

} // namespace ember
