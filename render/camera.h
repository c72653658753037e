// Where the picture is taken from.
#pragma once

#include "core/base/axes.h"
#include "core/effect/effect.h"
#include "kernels/vec3.h"

namespace ember {

/// Rows of a higher picture, drawn as a picture of their own; of 0: the whole.
struct PictureRows {
    int first = 0, count = 0, of = 0;
    bool operator==(const PictureRows&) const = default;
};

/// A camera that orbits a target. Angles in degrees, lengths in metres.
struct Camera {
    Vec3 target = {0, 1, 0};
    float distance = 7;
    float azimuth = 20;       // about the vertical; 0 looks from +z
    float height = 12;        // above the target
    float field_of_view = 40; // vertical, of the whole picture
    PictureRows rows;
    /// How much higher the picture is than what the field of view is of: more is seen all round.
    float seen = 1;
    bool operator==(const Camera&) const = default;
};

Camera camera_of(const Stage& stage);

/// The camera's axes (length 1), its place, and the picture's scale.
struct ViewAxes {
    Vec3 eye, right, up, forward;
    float focal = 1;   // distance of the picture plane in units of half the picture's height
    float lowered = 0; // how far below the middle of the picture the axis meets it, in the same units
};
ViewAxes axes_of(const Camera& camera);

} // namespace ember
