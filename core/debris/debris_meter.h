// What the pieces of a breakable are and do.
#pragma once

#include <array>
#include <cstddef>

namespace ember {

/// What a breakable is cut into.
struct CutFacts {
    size_t pieces = 0, triangles = 0, slivers = 0;
    float smallest_m3 = 0, largest_m3 = 0;
    std::array<size_t, 16> sizes{}; // how many, in classes even in the logarithm of the volume
};

struct DebrisMeter {
    CutFacts cut;
    size_t pieces = 0; // in the picture
    size_t awake = 0;  // that move
    size_t resting = 0;
    size_t parked = 0;
    size_t bodies = 0;         // that pieces hang together as, in the physics
    float linger_median_s = 0; // how long the last pieces stayed, loose
    float linger_longest_s = 0;
    size_t taken = 0; // by a cleanup zone, since the start
};

} // namespace ember
