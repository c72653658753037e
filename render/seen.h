// Where places are on the picture: what all that is projected begins with.
#pragma once

#include "core/base/hash.h"
#include "render/projection.h"

#include <optional>

namespace ember {

constexpr float nearest_m = 0.02f;
constexpr float smallest_radius = 0.75f; // pixels; smaller dots are dimmed instead

// Where the particle is on the picture, and how it goes there.
struct Seen {
    float x, y, depth, scale;
    float way_x = 0, way_y = 0; // pixels per second
};

inline std::optional<Seen> seen(const Vec3& place, const Vec3& velocity, const Projection& to) {
    const Vec3 away = place - to.view.eye;
    const float depth = dot(away, to.view.forward);
    if (!(depth > nearest_m)) {
        return std::nullopt;
    }
    const float scale = to.pixels / depth;
    const float x = dot(away, to.view.right) * scale, y = -dot(away, to.view.up) * scale;
    const float nearing = dot(velocity, to.view.forward) / depth;
    return Seen{to.middle_x + x,
                to.middle_y + y,
                depth,
                scale,
                dot(velocity, to.view.right) * scale - x * nearing,
                -dot(velocity, to.view.up) * scale - y * nearing};
}

// 0..1, the same for the same particle.
inline float random_of(uint32_t number, uint32_t what) {
    return float(mixed_seed(number, what) >> 8) / 16777216.0f;
}

} // namespace ember
