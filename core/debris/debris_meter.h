// What the pieces of a breakable are and do.
#pragma once

#include <cstddef>

namespace ember {

struct DebrisMeter {
    size_t pieces = 0; // in the picture
    size_t awake = 0;  // that move
    size_t resting = 0;
    size_t parked = 0;
    size_t bodies = 0;         // that pieces hang together as, in the physics
    float linger_median_s = 0; // how long the last pieces stayed, loose
    float linger_longest_s = 0;
};

} // namespace ember
