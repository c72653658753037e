// What acts on a volume of smoke in a step.
#pragma once

#include "core/scene/piece_box.h"
#include "core/scene/program.h"
#include "core/smoke/clouds.h"
#include "core/smoke/volume.h"

#include <map>
#include <string>
#include <utility>
#include <vector>

namespace ember {

/// Where pieces were: by the breakable's id and the piece's number.
using PiecePlaces = std::map<std::pair<std::string, uint32_t>, Placement>;

/// Collects from where things stand at the step's start and its end.
struct SmokeCollector {
    const PreparedEffect& prepared;
    const WindowGrids& windows;
    const std::vector<Placement>&from, &to;
    double step_s;

    /// What feeds and pushes gas, and the colliders that are linked to this volume.
    SmokeInfluences influences(const Clouds::FindBlocks& find_blocks, const std::string& smoke) const;
    /// Those pieces that are near a volume, as obstacles. What is new stands still in its first step.
    void add(const std::vector<PieceBox>& pieces, const PiecePlaces& were, const SmokeSize& size,
             std::vector<ColliderRow>& obstacles) const;

  private:
    Vec3 motion(size_t element) const;
    SmokeFeed feed(size_t element, const SmokeSource& source) const;
    SmokePush push(size_t element, const Push& push) const;
};

/// The forces that are linked to a volume. Its own flow does not act on it: what it does, it has done.
std::vector<Influence<ForceRow>> forces_on_smoke(const PreparedEffect& prepared, const WindowGrids& windows,
                                                 const StepTime& time, const StepPlacements& placed,
                                                 size_t smoke);

} // namespace ember
