// The stage's light on what flies above it.
#pragma once

#include "core/runtime/frame.h"

#include <span>

namespace ember {

inline Vec3 rgb(const Colour& colour) {
    return {colour.red, colour.green, colour.blue};
}

/// What the sky shows low over the horizon, and above.
struct SkyLight {
    Vec3 top, horizon;
};

/// Light of a lamp on a surface that faces it, and the way there (length 1).
Vec3 arriving(const FrameLight& lamp, const Vec3& place, Vec3& towards);

struct Lighting {
    Vec3 sun_direction, sun_light;
    Vec3 sky_top, sky_horizon; // with their strength
    std::span<const FrameLight> lamps;

    static Lighting of(const Stage& stage, const SkyLight& sky, std::span<const FrameLight> lamps);

    /// On a small ball in the open, seen from all sides: the sky all round and a quarter of the sun (Lambert,
    /// averaged).
    Vec3 on_ball() const;
    /// What is left of the light on level ground where the sun is hidden, of each colour.
    Vec3 kept_in_shadow() const;
    /// What lamps add to that at a place.
    Vec3 of_lamps(const Vec3& place) const;

    /// On a matt surface. `sun_share`: how much of the sun arrives.
    Vec3 matt_on(const Vec3& place, const Vec3& normal, float sun_share = 1) const;
    /// What a wet one mirrors in the direction `to_eye` (length 1; J. Blinn, 1977).
    Vec3 glint_on(const Vec3& place, const Vec3& normal, const Vec3& to_eye, float sun_share = 1) const;

  private:
    void each_light(const Vec3& place, const Vec3& normal, float sun_share, auto visit) const;
};

} // namespace ember
