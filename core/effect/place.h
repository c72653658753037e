// What many elements have in common: a place that may ride on something, a path, a reach.
//
// Units: metres, seconds, degrees; right-handed, Y up.
#pragma once

#include "core/base/curve.h"
#include "kernels/vec3.h"

#include <cstdint>
#include <string>
#include <vector>

namespace ember {

/// The most particles that the sources of an effect may have room for, in all.
constexpr int64_t most_particles = 16'000'000;

/// The ends of a uniform distribution; low <= high.
struct Range {
    float low = 0, high = 0;
    bool operator==(const Range&) const = default;
};

/// Where something is. If it rides on a mover or on another element, position and turn are offsets within
/// that one's own axes.
struct Place {
    Vec3 position;
    Vec3 turn;
    std::string rides_on; // id of an element that has a place; empty: the world
    bool operator==(const Place&) const = default;
};

enum class PathKind { helix, points };

/// A line through space, in the axes of whoever has it. A helix stands on y = 0 and winds about y; points are
/// joined by a smooth spline (E. Catmull, R. Rom, 1974, centripetal).
struct PathShape {
    PathKind path = PathKind::helix;
    float radius = 0.5f;     // at the foot of the helix
    float end_radius = 0.5f; // at its top
    float height = 1;
    float turns = 3;
    std::vector<Vec3> points = {{-1, 0, 0}, {0, 0.5f, 0}, {1, 0, 0}};
    bool closed = false;
    bool operator==(const PathShape&) const = default;
};

enum class ReachShape { everywhere, ball, box, slab };
enum class ReachSide { inside, outside };
enum class Fade { power, curve, stop };

/// Where an influence acts. Full inside the shape (or outside of it); beyond its surface it fades over a
/// distance.
struct Reach {
    ReachShape reach = ReachShape::everywhere;
    ReachSide side = ReachSide::inside;
    Vec3 reach_position = {0, 1, 0};
    Vec3 reach_turn;
    Vec3 reach_size = {2, 2, 2}; // a ball uses x as its diameter, a slab y as its thickness
    std::string reach_rides_on;
    float fade_distance = 0.5f;
    Fade fade = Fade::power;
    float fade_power = 1;
    Curve fade_curve = {{{0, 1}, {1, 0}}}; // over the fade distance
    bool operator==(const Reach&) const = default;
};

} // namespace ember
