#include "render/lighting.h"

#include "render/camera.h"

#include <algorithm>
#include <cmath>

namespace ember {

// As lamp_light() in shade.h.
Vec3 arriving(const FrameLight& lamp, const Vec3& place, Vec3& towards) {
    const Vec3 way = lamp.position - place;
    const float square = std::max(dot(way, way), 1e-4f);
    const float inside = square / (lamp.reach * lamp.reach);
    if (inside >= 1) {
        return {};
    }
    towards = way * (1 / std::sqrt(square));
    float amount = (1 - inside * inside) * (1 - inside * inside) / std::max(square, 0.01f);
    if (lamp.cos_outer > -2) {
        const float off = -dot(towards, lamp.direction);
        const float cone = std::clamp((off - lamp.cos_outer) / (lamp.cos_inner - lamp.cos_outer), 0.0f, 1.0f);
        amount *= cone * cone;
    }
    return lamp.light * amount;
}

Lighting Lighting::of(const Stage& stage, const SkyLight& sky, std::span<const FrameLight> lamps) {
    return {direction_from(stage.sun_azimuth, stage.sun_height), rgb(stage.sun_colour) * stage.sun_strength,
            sky.top * stage.sky_strength, sky.horizon * stage.sky_strength, lamps};
}

Vec3 Lighting::on_ball() const {
    return (sky_top + sky_horizon) * 0.5f + sun_light * 0.25f;
}

Vec3 Lighting::of_lamps(const Vec3& place) const {
    Vec3 sum, towards;
    for (const FrameLight& lamp : lamps) {
        sum = sum + arriving(lamp, place, towards) * 0.25f;
    }
    return sum;
}

Vec3 Lighting::kept_in_shadow() const {
    constexpr float sheen = 2; // what the ground mirrors of the sky comes on top of what it scatters
    const Vec3 sky = (sky_top * 0.6f + sky_horizon * 0.8f) * sheen,
               sun = sun_light * std::max(sun_direction.y, 0.0f);
    const auto share = [](float dark, float light) { return dark / std::max(dark + light, 1e-9f); };
    return {share(sky.x, sun.x), share(sky.y, sun.y), share(sky.z, sun.z)};
}

// Lets `visit(light, towards, facing)` see what arrives from where on the surface's front.
void Lighting::each_light(const Vec3& place, const Vec3& normal, float sun_share, auto visit) const {
    const auto see = [&](const Vec3& light, const Vec3& towards) {
        const float facing = dot(normal, towards);
        if (facing > 0) {
            visit(light, towards, facing);
        }
    };
    see(sun_light * sun_share, sun_direction);
    for (const FrameLight& lamp : lamps) {
        Vec3 towards = normal;
        const Vec3 light = arriving(lamp, place, towards);
        see(light, towards);
    }
}

Vec3 Lighting::matt_on(const Vec3& place, const Vec3& normal, float sun_share) const {
    const float upward = normal.y * 0.5f + 0.5f;
    const Vec3 low = sky_horizon * 0.7f, high = sky_top * 0.6f + sky_horizon * 0.8f;
    Vec3 sum = low + (high - low) * upward;
    each_light(place, normal, sun_share,
               [&](const Vec3& light, const Vec3&, float facing) { sum = sum + light * facing; });
    return sum;
}

Vec3 Lighting::glint_on(const Vec3& place, const Vec3& normal, const Vec3& to_eye, float sun_share) const {
    Vec3 sum;
    each_light(place, normal, sun_share, [&](const Vec3& light, const Vec3& towards, float facing) {
        const float middle = std::max(dot(normal, normalized(towards + to_eye, normal)), 0.0f);
        const float cube = middle * middle * middle, sixth = cube * cube, twelfth = sixth * sixth;
        sum = sum + light * (facing * twelfth * twelfth * twelfth * twelfth * 4);
    });
    // The sky is mirrored at the rim (C. Schlick, 1994).
    const float slant = 1 - std::clamp(dot(normal, to_eye), 0.0f, 1.0f);
    return sum + (sky_top + sky_horizon) * (0.5f * slant * slant * slant);
}

} // namespace ember
