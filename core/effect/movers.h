// Movers: what carries a position over time, for other elements to ride on.
#pragma once

#include "core/effect/place.h"

namespace ember {

enum class PathEnd { loop, return_back, stay };

struct PathMover : Place, PathShape {
    float period = 4;
    float phase = 0;
    PathEnd at_end = PathEnd::loop;
    bool turns_along = false;
    bool operator==(const PathMover&) const = default;
};

/// A circle in its own xz plane. With radius 0 it turns on the spot.
struct Orbit : Place {
    float radius = 1;
    float period = 4;
    float phase = 0;
    bool turns_along = true;
    bool operator==(const Orbit&) const = default;
};

/// A pendulum: it swings about its own z axis; what rides on it hangs below.
struct Swing : Place {
    float angle = 40; // deg, to either side
    float period = 3;
    float phase = 0;
    bool operator==(const Swing&) const = default;
};

struct Wander : Place {
    Vec3 extent = {2, 1, 2};
    float pace = 0.5f;
    bool operator==(const Wander&) const = default;
};

/// Where the pointer's line of sight meets the plane through its position, across its own y axis. Without a
/// pointer it is at its position.
struct Pointer : Place {
    bool operator==(const Pointer&) const = default;
};

/// Follows keys that were read from a file.
struct KeyedMover : Place {
    std::string file;
    float start = 0; // s: when its keys' time zero is
    bool loop = true;
    bool operator==(const KeyedMover&) const = default;
};

} // namespace ember
