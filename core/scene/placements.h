// Where everything stands: elements ride on movers and on one another.
#pragma once

#include "core/base/axes.h"
#include "core/scene/prepared.h"

#include <vector>

namespace ember {

/// Where each element of an effect is at `time_s` (0 ends the warm-up), by its index; elements without a
/// place are where the world is. A muted mover stays where it is at time zero.
std::vector<Placement> placements_at(const PreparedEffect& prepared, double time_s);

/// A step that is made. There are two clocks. The artist's: time zero ends the warm-up, which runs on
/// negative time; whatever has a moment counts in it. And the run's, since its first step: noise and what
/// only lasts count in it, which are the same however long the warm-up is.
struct StepTime {
    double step_s = 1.0 / 60;
    uint64_t step = 0;    // of the run
    uint64_t warm_up = 0; // steps

    // By the artist's clock. The end of a step is the start of the next, to the last digit.
    double first_s() const { return at(0); }
    double start_s() const { return at(step); }
    double end_s() const { return at(step + 1); }
    double at(uint64_t count) const { return double(int64_t(count) - int64_t(warm_up)) * step_s; }

    /// How many of the artist's moments first, first + every, ... lie in the step; `every` 0: only the first.
    int moments(double first, double every) const;

    double run_s() const { return double(step) * step_s; }
    double run_end_s() const { return double(step + 1) * step_s; }
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
