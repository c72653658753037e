// The kinds of element that stand on the board, as plain values. Their parameters are described in
// tables.cpp: adding one is a member here and a line there.
//
// Units: metres, seconds, kilograms, degrees; right-handed, Y up.
#pragma once

#include "core/base/curve.h"
#include "kernels/vec3.h"

#include <string>
#include <variant>
#include <vector>

namespace ember {

/// The ends of a uniform distribution; low <= high.
struct Range {
    float low = 0, high = 0;
    bool operator==(const Range&) const = default;
};

// --- sources

enum class BirthShape { point, line, disc, box, ball };

/// Makes particles.
struct Emitter {
    BirthShape shape = BirthShape::ball;
    Vec3 position = {0, 1, 0};
    Vec3 size = {0.2f, 0.2f, 0.2f};
    Vec3 turn;
    float rate = 400;
    int capacity = 20000;
    Vec3 direction = {0, 1, 0};
    float spread = 20;
    Range speed = {2, 3};
    Range lifetime = {1.5f, 2.5f};
    Range particle_size = {0.02f, 0.04f};
    std::string look;
    bool operator==(const Emitter&) const = default;
};

// --- forces

struct Gravity {
    Vec3 direction = {0, -1, 0};
    float strength = 9.81f;
    bool operator==(const Gravity&) const = default;
};

/// Moving air that takes particles along.
struct Wind {
    Vec3 direction = {1, 0, 0};
    float speed = 3;
    float grip = 0.6f;
    float gusts = 0.3f;
    float gust_period = 3;
    bool operator==(const Wind&) const = default;
};

struct Drag {
    float linear = 0.5f;
    float quadratic = 0;
    bool operator==(const Drag&) const = default;
};

/// Divergence-free curl noise.
struct Turbulence {
    float strength = 3;
    float eddy_size = 0.8f;
    int octaves = 3;
    float roughness = 0.55f;
    float churn = 0.3f;
    Vec3 drift;
    bool operator==(const Turbulence&) const = default;
};

// --- colliders

struct Surface {
    float bounce = 0.3f;
    float friction = 0.3f;
    float roughness = 0.1f;
    bool visible = true;
    Colour colour = {0.2f, 0.19f, 0.18f, 1};
    bool operator==(const Surface&) const = default;
};

/// Solid below.
struct Plane : Surface {
    Vec3 position;
    Vec3 normal = {0, 1, 0};
    bool operator==(const Plane&) const = default;
};

/// Solid inside.
struct Box : Surface {
    Vec3 position = {0, 0.5f, 0};
    Vec3 size = {1, 1, 1};
    Vec3 turn;
    bool operator==(const Box&) const = default;
};

// --- the element

using ElementBody = std::variant<Emitter, Gravity, Wind, Drag, Turbulence, Plane, Box>;

enum class Family { source, force, collider };

/// The weight with which an influence acts on a source, 0..1. For a collider: the share of particles that it
/// stops.
struct Link {
    std::string source; // id of the source
    float weight = 1;
    bool operator==(const Link&) const = default;
};

struct Element {
    std::string id; // unique in the effect, never changes
    std::string name;
    ElementBody body;
    bool muted = false;
    bool solo = false;
    std::vector<Link> links;        // of an influence; in order of the sources' ids in the file
    std::string unknown;            // members of the file's object that this version does not know, as JSON
    std::string unknown_parameters; // the same for its "parameters"
    bool operator==(const Element&) const = default;
};

} // namespace ember
