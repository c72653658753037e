// Sources that play a clip: their particles are where the files say, whatever acts on others.
#pragma once

#include "core/runtime/children.h"

namespace ember {

/// Whether a source plays a clip, read or not.
bool plays_clip(const RunningSource& source);

/// Shows what clips show at the end of a step; notes the deaths of what is there no more where somebody asks.
/// What that cost is added to the sources' meters.
void play_clips(const PreparedEffect& prepared, const std::vector<RunningSource>& sources,
                const StepTime& time, std::vector<ParticleEvents>& events, Meters& meters);

} // namespace ember
