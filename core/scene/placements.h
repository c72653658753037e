// Where everything stands: elements ride on movers and on one another.
#pragma once

#include "core/base/axes.h"
#include "core/scene/prepared.h"

#include <vector>

namespace ember {

/// Where each element of an effect is at `time_s`, by its index; elements without a place are where the world
/// is. A muted mover stays where it is at time zero.
std::vector<Placement> placements_at(const PreparedEffect& prepared, double time_s);

/// A step that is made.
struct StepTime {
    double start_s = 0;
    double step_s = 1.0 / 60;
    uint64_t step = 0;
};

/// Where each element is at the start, in the middle and at the end of a step. Found once and handed on.
struct StepPlacements {
    std::vector<Placement> from, middle, to;
};
StepPlacements placements_in(const PreparedEffect& prepared, const StepTime& time);

/// Where something is that rides on the element with this id (empty: on the world) at an offset.
Placement riding(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                 const std::string& id, const Vec3& offset, const Vec3& turn_degrees);

} // namespace ember
