// Sources and breakables that play a clip: what they show is where the files say, whatever acts on others.
#pragma once

#include "core/debris/frame_debris.h"
#include "core/runtime/children.h"

namespace ember {

/// Whether a source plays a clip, read or not.
bool plays_clip(const RunningSource& source);

/// Shows what clips show at the end of a step; notes the deaths of what is there no more where somebody asks.
/// What that cost is added to the sources' meters.
void play_clips(const PreparedEffect& prepared, const std::vector<RunningSource>& sources,
                const StepTime& time, std::vector<ParticleEvents>& events, Meters& meters);

/// Counts the pieces that clips show at the end of a step.
void count_played_pieces(const PreparedEffect& prepared, const StepTime& time, Meters& meters);
/// Adds them to those of breakables, at a time of the artist's (s); placed and turned as their breakables
/// are.
void show_played_pieces(const PreparedEffect& prepared, double time_s,
                        const std::vector<Placement>& placements, std::vector<FrameDebris>& out);

} // namespace ember
