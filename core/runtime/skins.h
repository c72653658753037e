// The skins of particles as birth shapes.
#pragma once

#include "core/geometry/blended_surface.h"
#include "core/particles/pool.h"
#include "core/scene/prepared.h"

#include <functional>
#include <string>

namespace ember {

/// The skin that a look lays round balls.
Mesh skin_round(std::span<const BlendedBall> balls, const Look& look);

using FindPool = std::function<const ParticlePool*(const std::string& source_id)>;

/// Gives each emitter that is born on a skin that skin as it is now: as the look of its source has it,
/// whatever that one is drawn as. `placements`: where all stands now. Emitters whose source has no particles
/// are left without.
void find_skins(PreparedEffect& prepared, const FindPool& pool_of, const std::vector<Placement>& placements);

} // namespace ember
