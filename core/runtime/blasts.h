// Which blasts go off in a step: by their clock, by what comes near, or because triggers say so. Decided
// once, for pieces and particles alike.
#pragma once

#include "core/scene/placements.h"
#include "core/scene/trigger_call.h"

#include <functional>
#include <map>
#include <string>
#include <vector>

namespace ember {

class Blasts {
  public:
    /// Distance from a place to the pieces of a breakable, by its id (m); nothing where it has none.
    using DistanceTo = std::function<std::optional<float>(const std::string&, const Vec3&)>;

    /// Those of the step that is due, by their elements' indices.
    std::vector<size_t> step(const PreparedEffect& prepared, const StepTime& time,
                             const StepPlacements& placed, const std::vector<TriggerCall>& calls,
                             const DistanceTo& distance_to);

  private:
    bool comes_near(const PreparedEffect& prepared, const StepPlacements& placed, size_t element,
                    const DistanceTo& distance_to);

    std::map<std::string, bool> were_near_; // what sets blasts off, by the blasts' ids
};

} // namespace ember
