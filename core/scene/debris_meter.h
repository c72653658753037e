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
    size_t light = 0; // that meet only the stage: they are no bodies
    size_t parked = 0;
    size_t bodies = 0; // that pieces hang together as, in the physics
    size_t faces = 0;  // between pieces of what is there, and how many of them are broken
    size_t faces_broken = 0;
    float linger_median_s = 0; // how long the last pieces stayed, loose
    float linger_longest_s = 0;
    // Of a cleanup zone, or by a breakable's own rules:
    size_t taken = 0;        // pieces, since the start
    size_t taken_lately = 0; // in the last ten seconds or so
    double saved_ms = 0;     // of a step, if those would still move as those do that move now
};

} // namespace ember
