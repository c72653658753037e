// The inner loops of the renderer, compiled once for each instruction set like the particle kernels.
//
// Pictures are planes of floats: linear light, red green blue, and the distance along the camera's axis. Rows
// are `stride` floats apart, a multiple of 16, and start on 64-byte boundaries.
#pragma once

#include "core/base/isa.h"
#include "kernels/rows.h"
#include "kernels/vec3.h"

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace ember {

/// A plane of floats that starts on a 64-byte boundary. Planes that are written side by side take different
/// `lane`s: large allocations all begin at the same place within a page, and a store to one plane would hold
/// up loads from the same place of the others.
class FloatPlane {
  public:
    explicit FloatPlane(size_t lane) : shift_(lane * 272) {}

    /// Contents are undefined after a change of size.
    void resize(size_t size);
    float* data() { return start_; }
    const float* data() const { return start_; }
    float operator[](size_t i) const { return start_[i]; }
    size_t size() const { return size_; }

  private:
    size_t shift_; // floats, a multiple of 16
    size_t size_ = 0;
    std::unique_ptr<float[]> memory_;
    float* start_ = nullptr;
};

/// Three planes of light.
struct LightPlanes {
    int width = 0, height = 0, stride = 0;
    FloatPlane red{0}, green{1}, blue{2};

    /// Contents are undefined after a change of size.
    void resize(int new_width, int new_height);
    size_t bytes() const { return (red.size() + green.size() + blue.size()) * sizeof(float); }
};

/// A row of a picture's light.
struct LightRow {
    float *red, *green, *blue;
    int width;

    LightRow(LightPlanes& of, int y)
        : red(of.red.data() + size_t(y) * size_t(of.stride)),
          green(of.green.data() + size_t(y) * size_t(of.stride)),
          blue(of.blue.data() + size_t(y) * size_t(of.stride)), width(of.width) {}
};

/// A soft ellipse on the picture; one to a cache line, since a tile's lie scattered.
struct alignas(64) Sprite {
    float x, y;             // pixels
    float width, height;    // pixels, half of the upright box round it
    float square;           // pixels^2, of half its width along the row through its middle
    float narrowing;        // by how much that falls per pixel^2 up or down
    float slant;            // how far right the middle of a row lies for each pixel down
    float depth;            // m along the camera's axis
    float red, green, blue; // linear light times opacity
    float cover;            // 0 adds, opacity covers
    float steepness;        // 1/pixel^2: 1/square fades from the middle; larger is a harder disc
    float fade;             // 1/m: full strength this far before a surface
};

/// A piece of a ribbon between two points, a and b. It ends at a line through each, which two pieces that
/// meet share, so that no pixel belongs to both; the ribbon's own ends are half discs beyond them.
struct Segment {
    float ax, ay, bx, by;           // pixels
    float half_a, half_b;           // pixels, half widths
    float a_normal_x, a_normal_y;   // into the segment
    float b_normal_x, b_normal_y;   // out of it
    float depth_a, depth_b;         // m along the camera's axis
    float colour_a[3], colour_b[3]; // linear light times opacity
    float cover_a, cover_b;         // 0 adds, opacity covers
    float sharpness;                // 1 fades from the middle line; larger is harder
    float fade;                     // 1/m: full strength this far before a surface
    bool ends_at_a, ends_at_b;      // the ribbon
};

/// A texture as kernels read it: texels of 8 bits each for red, green, blue (square roots of light) and
/// opacity, sides powers of two; level after level, each half as wide and high as the one before.
struct TexelLevels {
    const uint32_t* levels[16] = {};
    int count = 0;
    int log_width = 0, log_height = 0; // of the first
};

/// One coat of a surface.
struct SurfaceLayer {
    int from = 0;    // LayerFrom
    int combine = 0; // Combine
    bool inverted = false;
    TexelLevels texels;
    Vec3 tint = {1, 1, 1}; // linear light
    float tiling_x = 1, tiling_y = 1;
    float columns = 1, rows = 1; // of frames
    float per_edge = 1;          // 1 / the width of the edge
};

struct DrawnSurface {
    SurfaceLayer layers[3];
    int count = 0;
};

/// What one particle's surface has of its own.
struct Skin {
    uint32_t surface = 0; // which of the DrawnSurfaces
    float strength[3] = {};
    float shift_x[3] = {}, shift_y[3] = {}; // repeats
    float frame[3] = {};                    // whole numbers
};

/// A flat piece: the places u, v = -1..1 on the picture, seen from the front or at a slant.
struct Patch {
    float x, y;                    // pixels
    float width, height;           // pixels, half of the upright box round it
    float u_x, u_y, v_x, v_y;      // per pixel right and down
    float depth, depth_u, depth_v; // m along the camera's axis, at u, v = 0 and more per unit of u and v
    float red, green, blue;        // linear light
    float opacity;                 // 0..1
    float cover;                   // 0 adds, 1 covers
    float rim_u, rim_v;            // 1 fades from the middle to the rim; larger is harder
    float fade;                    // 1/m: full strength this far before a surface
    uint32_t skin;
    bool is_round, is_cut; // an ellipse; hard where more than half opaque
};

/// Of a body. It hides what is behind it.
struct alignas(64) Triangle {
    float x[3], y[3]; // pixels
    float near[3];    // 1/m, of the depth along the camera's axis
    bool is_rim[3];   // nothing of the body lies beyond the edge opposite of a corner
    bool is_even;     // the light of the first corner is everywhere
    uint32_t skin;
    float opacity; // share of pixels that it takes
    Vec3 light;    // that the first corner sends
    uint32_t more; // its TriangleMore, if it is not even or has a skin
};

/// What most triangles do without.
struct TriangleMore {
    Vec3 light[2];    // that the other corners send
    float u[3], v[3]; // m
    float facing[3];  // 0 at the rim, 1 seen straight
};

struct Triangles {
    std::vector<Triangle> list;
    std::vector<TriangleMore> more;
};

/// Surfaces that things are drawn with.
struct Coats {
    std::span<const Skin> skins;
    std::span<const DrawnSurface> surfaces;
};

/// Planes of a picture that is drawn into.
struct Canvas {
    int stride;
    float *red, *green, *blue;
    const float* depth;   // m
    float* written_depth; // the same, for what hides

    std::ptrdiff_t at(int x, int y) const { return std::ptrdiff_t(y) * stride + x; }
};

/// Part of a picture, in pixels; left is a multiple of 16.
struct Tile {
    int left, top, right, bottom;
    float nearest; // m along the camera's axis, of the surfaces in it
};

/// Something lit that stands on the stage.
struct StageBox {
    Vec3 position, axis_x, axis_y, axis_z, half_size, colour;
    float radius; // of the ball round it
};
struct StagePlane {
    Vec3 position, normal, colour;
    float mirror = 0, puddles = 0; // see Plane
};
/// A lamp.
struct StageLight {
    Vec3 position, direction, light;
    float reach, cos_outer, cos_inner;
    bool shadows;
};
/// A panorama: three planes of floats, from straight above down.
struct Panorama {
    const float *red = nullptr, *green = nullptr, *blue = nullptr;
    int width = 0, height = 0;
    float turn = 0; // share of all round
};
/// A row of a picture in the shadows of pieces: see SunMap. The pixel `x` at a depth d is at from + d * (ray
/// + step * x): across the sun's light, along it (cells), and towards the sun (m).
struct SunRow {
    const float *pieces, *colliders; // how far towards the sun each cell is reached, m
    const float* highest;            // of each patch of cells of the pieces'
    int size, patch;                 // cells along each side of either
    float softness;                  // m
    float from[3], ray[3], step[3];
    Vec3 kept; // of each colour in full shadow
};

/// Anything else, as a collider's row, within a ball round `middle`.
struct StageShape {
    ColliderRow row;
    Vec3 colour;
    Vec3 middle;
    float radius;
    StageBox bounds; // of a grid
};

/// What a ray through the picture can meet, and the light on it.
struct StageScene {
    Vec3 eye, right, up, forward;
    float focal, lowered;   // see ViewAxes
    int width, height;      // pixels
    float shift_x, shift_y; // of the sample within its pixel, 0..1
    Vec3 sun_direction, sun_light;
    Vec3 sky_top, sky_horizon;
    float sky_strength;
    float mist;           // 1/m
    int background;       // Background
    const float* ramp[3]; // red, green, blue: 256 values each, from straight below to straight above
    Panorama panorama;
    float background_strength;
    float stars;
    float star_size; // square of its radius, per unit of distance
    std::span<const StagePlane> planes;
    std::span<const StageBox> boxes;
    std::span<const StageShape> shapes;
    std::span<const StageLight> lights;
};

/// How light becomes pixels.
struct Finish {
    float exposure;         // factor
    const int32_t* tone[3]; // see ToneTable; red, green, blue
    int width, height;      // of the whole picture
    float vignette;         // 0..1
    float grain;            // 0..1
    uint32_t picture;       // number of the picture, for the grain
};

/// What is out of focus, and by how much (see Lens).
struct FocusBlur {
    float half_aperture_px;
    float focus_m;
    float per_pixel; // 1 / the blur from which on something is mixed in; at twice that all of it is
};

struct RenderKernels {
    /// Light and depth of the stage along a row of pixels, and how much it mirrors (0..1), from `left` (a
    /// multiple of 16) to before `right`. `share`: the new sample's part in the mean with what is there; 1
    /// replaces it and writes depth and mirror.
    void (*stage_row)(const StageScene& scene, int y, int left, int right, float share, float* red,
                      float* green, float* blue, float* depth, float* mirror);
    /// How much of a light arrives at places past what stands on the stage, 0..1: of the sun, or of a lamp
    /// that is there. Arrays are read and written to whole registers.
    void (*arrives_row)(const StageScene& scene, const Vec3* lamp, const float* x, const float* y,
                        const float* z, int count, float* shares);
    /// Takes the sun out of a row where pieces hide it. Of its pixels `depths` are m along the camera's axis;
    /// all begin on 64-byte boundaries.
    void (*darken_row)(const SunRow& row, int count, const float* depths, float* red, float* green,
                       float* blue);
    /// Draws sprites in the order given, clipped to the tile.
    void (*splat)(std::span<const Sprite> sprites, std::span<const uint32_t> order, const Tile& tile,
                  int stride, float* red, float* green, float* blue, const float* depth);
    /// The same with pieces of ribbons.
    void (*draw_segments)(std::span<const Segment> segments, std::span<const uint32_t> order,
                          const Tile& tile, int stride, float* red, float* green, float* blue,
                          const float* depth);
    /// The same with flat pieces; those that are cut write depth.
    void (*draw_patches)(std::span<const Patch> patches, std::span<const uint32_t> order, const Coats& coats,
                         const Tile& tile, const Canvas& canvas);
    /// The same with triangles of bodies: what is nearest is seen, whatever the order.
    void (*draw_triangles)(std::span<const Triangle> triangles, std::span<const TriangleMore> more,
                           std::span<const uint32_t> order, const Coats& coats, const Tile& tile,
                           const Canvas& canvas);
    /// One row of half the size: the mean of 2x2 samples, of each of which only what exceeds `threshold`
    /// counts.
    void (*halve_row)(const float* upper, const float* lower, int half_width, float threshold, float* out);
    /// `out` += `gain` times the row at vertical position between `near` (3/4) and `far` (1/4) at half the
    /// width, smoothly enlarged.
    void (*enlarge_row)(const float* near, const float* far, int half_width, int width, float gain,
                        float* scratch, float* out);
    /// Takes from `light` a `share` of what exceeds `threshold`.
    void (*take_row)(float* light, float threshold, float share, int count);
    /// `out` += `gain` times `in`, wherever they begin.
    void (*add_row)(const float* in, float gain, int count, float* out);
    /// How much of a wider blur is mixed in at each depth, 0..1. Rows begin on 64-byte boundaries.
    void (*blur_row)(const float* depth, int count, const FocusBlur& focus, float* share);
    /// From `one` towards `other` by a share each; `out` may be either.
    void (*mix_row)(const float* share, const float* one, const float* other, int count, float* out);
    /// Light to pixels 0xffRRGGBB.
    void (*resolve_row)(const float* red, const float* green, const float* blue, int y, const Finish& finish,
                        uint32_t* pixels);
};

const RenderKernels& render_kernels(Isa isa);

/// A tone curve as a table over the floating-point bits of light: 256 entries per doubling, from `lowest`
/// to 64.
struct ToneTable {
    static constexpr int shift = 15; // bits of the float dropped
    static constexpr float lowest = 1.0f / 32768;
    static constexpr float highest = 63.9f;
    static constexpr uint32_t first_bits = 0x38000000u >> shift; // of `lowest`
    static constexpr int size = 21 * 256 + 1;
};

} // namespace ember
