// All that reaches a step from outside.
#pragma once

#include "core/scene/giving.h"
#include "core/scene/prepared.h"

#include <optional>
#include <vector>

namespace ember {

struct StepInputs {
    std::optional<PointerRay> pointer; // at the end of the step; nothing: there is none
    int clicks = 0;                    // since the last step
    std::vector<int> keys;             // digits, since the last step
    bool cleans = true; // whether zones and rules of cleanup take pieces: off shows what they are good for
    Gives gives{};      // the keeper's orders

    bool operator==(const StepInputs&) const = default;
};

} // namespace ember
