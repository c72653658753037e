// What triggers tell elements to do in a step.
#pragma once

#include "core/effect/triggers.h"

#include <optional>

namespace ember {

struct TriggerCall {
    TriggerThen then;
    std::string what;          // id of the element that does it
    std::optional<Vec3> place; // m, where it happened
    int births = 0;
};

} // namespace ember
