// Where in its clip something is that plays one.
#pragma once

#include "core/effect/clip_play.h"

#include <cstddef>
#include <cstdint>
#include <optional>

namespace ember {

/// What is played of a clip that is so long (s), once.
struct ClipPart {
    double from_s = 0, to_s = 0;
    double length_s() const { return to_s - from_s; }
};
ClipPart played_part(const ClipPlay& play, double clip_length_s);

struct ClipTime {
    double frame = 0;
    uint32_t round = 0; // how often it has begun again
};

/// In a clip of so many frames, at a time of the artist's (s); nothing while it shows nothing.
std::optional<ClipTime> clip_time(const ClipPlay& play, double frames_per_s, size_t frames, double time_s);

} // namespace ember
