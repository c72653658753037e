// What is other in one effect than in another, in words.
#pragma once

#include "core/effect/effect.h"

#include <string>
#include <vector>

namespace ember {

struct Difference {
    std::string where; // name of an element, a look, the stage, ...; "Effect" for the whole
    std::string what; // label of a parameter, "Link to Mist", "Muted", "Driven", ...; empty: that it is there
    std::string a, b; // as they are in each; a dash where there is none
    bool operator==(const Difference&) const = default;
};

/// In the order of the first, then what only the second has. Notes and groups are not compared.
std::vector<Difference> differences(const Effect& a, const Effect& b);

} // namespace ember
