// Looks: how particles are drawn. Textures: pictures made in place, or read, for their surface layers.
#pragma once

#include "core/base/curve.h"
#include "core/effect/place.h"

#include <array>
#include <string>

namespace ember {

enum class Blend { add, over, cut_out };
enum class Drawing { dots, streaks, trails, cards, meshes, surface };
enum class CardFaces { camera, motion, direction, own };
enum class MeshSet { cubes, crystals, shards, pebbles, files };

enum class LayerFrom { none, texture, edge };
enum class Combine { multiply, add, subtract, mask };
enum class SheetFrame { first, over_life, random };

/// One coat of a surface, over those before it.
struct Layer {
    LayerFrom from = LayerFrom::none;
    std::string texture; // id; empty: white
    Combine combine = Combine::multiply;
    bool inverted = false;
    Range strength = {1, 1};
    Curve strength_over_life;
    Colour tint;
    float gain = 1;
    float tiling_x = 1, tiling_y = 1;
    float scroll_x = 0, scroll_y = 0; // 1/s
    float scatter = 0;
    SheetFrame frame = SheetFrame::first;
    float edge_width = 0.3f;
    bool operator==(const Layer&) const = default;
};

constexpr size_t most_layers = 3;

/// How particles are drawn. Several sources may share one look.
struct Look {
    std::string id;
    std::string name;
    Drawing drawn_as = Drawing::dots;
    float streak = 0.04f; // s
    float trail = 0.5f;   // s
    Curve width_along = {{{0, 1}, {1, 0}}};
    Curve opacity_along = {{{0, 1}, {1, 0}}};
    CardFaces card_faces = CardFaces::camera;
    Vec3 card_direction = {0, 1, 0};
    float card_height = 1; // of the width
    Range roll = {0, 0};   // deg
    Range roll_over_life = {0, 0};
    MeshSet mesh_set = MeshSet::cubes;
    std::string mesh_a, mesh_b, mesh_c; // files
    float shine = 0.2f;
    float own_light = 0;
    float surface_radius = 1.5f;
    float surface_cell = 0.05f;    // m
    float surface_blending = 0.3f; // of the mean radius
    int copies = 0;
    float copies_radius = 0.05f; // m
    float copies_ragged = 1;
    float copies_clump = 0;
    Blend blend = Blend::add;
    Curve size_over_life;
    Ramp colour_over_life;
    float glow = 1;
    float opacity = 1;
    float edge = 1;
    float surface_fade = 0.05f;
    float camera_fade = 0; // m
    float lit = 0;
    Curve glow_over_life;
    Curve opacity_over_life;
    std::array<Layer, most_layers> layers;
    std::string unknown;
    std::string unknown_parameters;
    bool operator==(const Look&) const = default;
};

constexpr int most_copies = 7;

/// What draws flat pieces or bodies has a surface that layers can coat.
inline bool has_layers(Drawing drawing) {
    return drawing == Drawing::cards || drawing == Drawing::meshes || drawing == Drawing::surface;
}

enum class TextureKind { dots, grid, rings, cells, noise, image };
enum class NoiseKind { value, gradient, ridged };
enum class CellKind { distance, walls, flat };

/// A square picture that joins itself without a seam, as it is made: a pattern, warped, blurred, with levels
/// and a ramp. Or one that is read from a file.
struct Texture {
    std::string id;
    std::string name;
    TextureKind kind = TextureKind::noise;
    int count = 6;
    float size = 0.6f;
    float softness = 0.3f;
    float jitter = 0;
    NoiseKind noise = NoiseKind::gradient;
    int octaves = 4;
    float roughness = 0.5f;
    CellKind cells = CellKind::distance;
    int variant = 1;
    float warp = 0;
    int warp_count = 4;
    float blur = 0;
    Range levels = {0, 1};
    float middle = 1;
    bool inverted = false;
    Ramp ramp = {{{0, {0, 0, 0, 1}}, {1, {1, 1, 1, 1}}}};
    std::string image; // file
    bool by_ramp = false;
    int columns = 1, rows = 1;
    std::string unknown;
    std::string unknown_parameters;
    bool operator==(const Texture&) const = default;
};

constexpr size_t most_textures = 64;

} // namespace ember
