// What triggers tell elements to do in a step.
#pragma once

#include "core/effect/effect.h"

#include <optional>

namespace ember {

struct TriggerCall {
    TriggerThen then;
    std::string what;          // id of the element that does it
    std::optional<Vec3> place; // m, where it happened
    int births = 0;
    size_t trigger = 0; // that says so: its index in Effect::elements
};

/// How often triggers tell an element to do something, at most as often as makes sense in one step.
int times_told(const std::vector<TriggerCall>& calls, TriggerThen then, const std::string& id);

/// Whether a trigger of the effect tells it when to go off or to drop: then no clock does.
bool is_told(const Effect& effect, const std::string& id);

} // namespace ember
