// From a frame's particles to what is drawn of them: sprites and pieces of ribbons on the picture.
#pragma once

#include "core/runtime/frame.h"
#include "render/bodies.h"
#include "render/camera.h"
#include "render/lighting.h"
#include "render/render_kernels.h"
#include "render/sun_map.h"

#include <span>
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
    float camera_fade = 0;             // m
    float far_from = 1, far_least = 1; // m, share of those that stay at twice of it and beyond
    float streak_s = 0;
    int copies = 0;
    float copies_radius = 0, copies_ragged = 0, copies_clump = 0;
    Vec3 tint;                          // of the light in `colours`
    float lit = 0;                      // how far lamps add to it
    const Lighting* lighting = nullptr; // null: nobody is lit by lamps
    CardFaces card_faces = CardFaces::camera;
    Vec3 card_direction;
    float card_height = 1;
    Range roll, roll_over_life;
    bool is_round = false, is_cut = false; // of patches
    float shine = 0, own_light = 0;        // of bodies
    const SunMap* sun = nullptr;           // that bodies are in; null: in the open
};
/// `lighting` has to outlive what is returned.
PreparedLook prepared(const Look& look, const Lighting& lighting);

/// Newborn white, then warm, then blue and dark towards death; as opaque as the look has it.
void tint_by_age(PreparedLook& look);

struct Projection {
    ViewAxes view;
    float pixels; // focal length
    float middle_x, middle_y;
    float right, bottom;
    int above; // rows of the whole picture that are not drawn
};
Projection projection_of(const Camera& camera, int width, int height);

/// What is seen in a plane is what a camera behind it sees that is turned inside out.
struct MirrorPlane {
    Vec3 place, normal;

    bool hides(const Vec3& p) const { return dot(p - place, normal) < 0; }
    Projection seen_by(const Projection& eye) const;
};

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
    uint32_t number = 0;
    float stands_for = 1; // so many
};

/// The share of particles that stay where they are thinned out, at a depth (m).
float share_shown(const PreparedLook& look, float depth);

/// The particle's colour and opacity, with lamps on it.
Colour colour_of(const Drawn& particle, const PreparedLook& look);

/// The sprite of a particle; false if none of it is in the picture.
bool project(const Drawn& particle, const PreparedLook& look, const Lens& lens, const Projection& to,
             Sprite& out);

/// The flat piece of a particle; false if none of it is in the picture.
bool project_card(const Drawn& particle, const PreparedLook& look, const Lens& lens, const Projection& to,
                  Patch& out);

/// How a particle's body lies in space: by its form, or turned by chance.
Axes body_axes(const Drawn& particle);

/// Appends the triangles of a particle's body that are in the picture and seen from their front.
void project_body(const Drawn& particle, const BodyLevels& levels, const PreparedLook& look, uint32_t skin,
                  const Projection& to, Triangles& out);

/// The same of a body that is in world space already, in one colour.
void project_shape(const Body& body, const Colour& colour, const PreparedLook& look, uint32_t skin,
                   const Projection& to, Triangles& out);

/// What the pieces of a breakable are drawn with.
struct PieceSkins {
    Colour outer, inner;
    uint32_t outer_skin = 0, inner_skin = 0;
    float per_metre = 1; // that textures repeat
    PreparedLook look;
};

/// The same of a piece. Textures lie on it as they lay on the whole. `closed`: of its bonds, those at which
/// the piece beyond stands as it was cut: there is no rim, and nothing inside is seen.
void project_piece(const FramePiece& shown, const PieceBody& piece, std::span<const char> closed,
                   const PieceSkins& skins, const Projection& to, Triangles& out);

/// Where a copy (1, 2, ...) of a particle is beside it. The same for the same particle, whoever else there
/// is.
Vec3 copy_offset(uint32_t number, int copy, float age_share, const PreparedLook& look);

/// Appends the pieces of a trail that are in the picture. `points`: of the source; `tinted`: by its
/// particle's own tint.
void project_trail(const FrameTrail& trail, const std::vector<FrameTrailPoint>& points, bool tinted,
                   const PreparedLook& look, const Projection& to, std::vector<Segment>& out);

} // namespace ember
