// What a source shows of a clip.
#pragma once

#include "core/assets/clip.h"
#include "core/base/axes.h"
#include "core/blocks/block.h"
#include "core/effect/sources.h"
#include "core/scene/clip_time.h"

namespace ember {

/// The particles then, between two frames moved evenly; at most the emitter's capacity, the first of them.
/// Placed, turned and scaled as the emitter is. Numbers are others in each round.
ParticleBlocks clip_particles(const Emitter& emitter, const Clip& clip, const ClipTime& time,
                              const Placement& placed);

} // namespace ember
