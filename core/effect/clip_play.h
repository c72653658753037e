// What plays a clip says when, which part of it, and how fast.
#pragma once

#include <string>

namespace ember {

enum class ClipEnd { gone, held, again };

struct ClipPlay {
    std::string clip;                 // file: the first frame
    float clip_start = 0;             // s
    float clip_from = 0, clip_to = 0; // s, in the clip; to 0: its end
    float clip_speed = 1;
    ClipEnd clip_end = ClipEnd::gone;
    bool operator==(const ClipPlay&) const = default;
};

} // namespace ember
