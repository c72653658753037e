// What a source shows of a clip.
#pragma once

#include "core/assets/clip.h"
#include "core/base/axes.h"
#include "core/blocks/block.h"
#include "core/effect/sources.h"

#include <optional>
#include <vector>

namespace ember {

/// Where in a clip a source is.
struct ClipTime {
    double frame = 0;
    uint32_t round = 0; // how often it has begun again
};

/// At a time of the artist's (s); nothing while it shows nothing.
std::optional<ClipTime> clip_time(const Emitter& emitter, const Clip& clip, double time_s);
/// What is played of a clip that is so long (s), once.
struct ClipPart {
    double from_s = 0, to_s = 0;
    double length_s() const { return to_s - from_s; }
};
ClipPart played_part(const Emitter& emitter, double clip_length_s);

/// The particles then, between two frames moved evenly; at most the emitter's capacity, the first of them.
/// Placed, turned and scaled as the emitter is. Numbers are others in each round.
ParticleBlocks clip_particles(const Emitter& emitter, const Clip& clip, const ClipTime& time,
                              const Placement& placed);

} // namespace ember
