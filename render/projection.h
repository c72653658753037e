// From a frame's particles to what is drawn of them: sprites and pieces of ribbons on the picture.
#pragma once

#include "core/runtime/frame.h"
#include "render/camera.h"
#include "render/render_kernels.h"

#include <vector>

namespace ember {

/// A look, prepared for a frame: tables with glow, opacity and the stage's light already inside.
struct PreparedLook {
    LifeTable<float> sizes;
    LifeTable<Colour> colours;
    LifeTable<float> width_along, opacity_along; // of trails
    float cover = 0;
    float sharpness = 1;
    float fade = 1e6f;
    float streak_s = 0;
    int copies = 0;
    float copies_radius = 0, copies_ragged = 0, copies_clump = 0;
};
PreparedLook prepared(const Look& look, const Stage& stage);

/// Newborn white, then warm, then blue and dark towards death; as opaque as the look has it.
void tint_by_age(PreparedLook& look);

struct Projection {
    ViewAxes view;
    float pixels; // focal length
    float middle_x, middle_y;
    float right, bottom;
};
Projection projection_of(const Camera& camera, int width, int height);

/// How a frame is taken: what blurs dots beyond their own size.
struct Lens {
    float shutter = 0;     // s
    float aperture_px = 0; // diameter of the blur of what is endlessly far, in pixels
    float focus_m = 1;     // depth that is sharp

    // Radius in pixels of the disc that a point at this depth becomes (thin lens: E. Hecht, "Optics", ch. 5).
    float blur(float depth) const { return 0.5f * aperture_px * std::fabs(depth - focus_m) / depth; }
};

Lens lens_of(const Stage& stage, const Projection& to);

/// A particle of a frame; what is null it has not.
struct Drawn {
    Vec3 place, velocity;
    float age, size;
    const Mark* mark;
    const FrameForm* form;
};

/// The sprite of a particle; false if none of it is in the picture.
bool project(const Drawn& particle, const PreparedLook& look, const Lens& lens, const Projection& to,
             Sprite& out);

/// Where a copy (1, 2, ...) of a particle is beside it. The same for the same particle, whoever else there
/// is.
Vec3 copy_offset(uint32_t number, int copy, float age_share, const PreparedLook& look);

/// Appends the pieces of a trail that are in the picture. `points`: of the source.
void project_trail(const FrameTrail& trail, const std::vector<FrameTrailPoint>& points,
                   const PreparedLook& look, const Projection& to, std::vector<Segment>& out);

} // namespace ember
