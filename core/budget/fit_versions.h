// Versions of an effect that a search for values tries.
#pragma once

#include "core/budget/fit.h"

namespace ember {

/// A number's row; nullptr if there is no such number.
const Parameter* parameter_of(const Effect& effect, const FitNumber& number);
/// Of a number that there is.
double value_of(const Effect& effect, const FitNumber& number);

/// Each number on a share of its way to its end, 0 to 1; in even ratios where it can be.
Effect with_shares(const Effect& effect, const std::vector<FitNumber>& numbers,
                   const std::vector<double>& shares);

/// How what is left of thinned sources makes up for what is not: its light and its size by these powers of
/// how many fewer there are. A power of 1 keeps the sum of light, of a half the sum of sizes on the screen.
struct MakeUp {
    double strength = 0, size = 0;
    bool is_any() const { return strength > 0 || size > 0; }
};

/// What is stronger in a look that makes up: "glow" or "opacity".
const char* strength_of(const Look& look);
/// What is larger of a source.
constexpr const char* size_of_births = "particle_size";

/// `fitted` has fewer births than `before`: looks and sizes of what is left make up for it.
Effect made_up(const Effect& before, Effect fitted, const MakeUp& make_up);

} // namespace ember
