// What pieces of breakables and colliders hide from the sun: depths seen from there, on a grid across the
// sun's light, of either kind apart. The stage has its colliders' shadows already; there only those of pieces
// are added. Grids (height maps, meshes) cast none here.
#pragma once

#include "core/runtime/frame.h"
#include "render/bodies.h"
#include "render/camera.h"
#include "render/render_kernels.h"

#include <array>
#include <vector>

namespace ember {

class SunMap {
  public:
    /// For pieces. Without any, or without sun, nothing is in shadow.
    void draw(const std::vector<FrameDebris>& all, const std::vector<FrameCollider>& colliders,
              const Stage& stage, BodyShelf& shelf);

    bool is_on() const { return is_on_; }

    /// How much of the sun arrives at a place among pieces, 0..1; smooth at the rim of shadows.
    float lit(const Vec3& place) const;

    /// Takes the sun out of a tile of a picture where pieces hide it; false if nothing there can be in their
    /// shadow. `farthest`: of the depths (m) in the tile; `depths`: of the whole picture; `kept`: what of
    /// each colour is left in full shadow.
    bool darken(const RenderKernels& kernels, const ViewAxes& view, const Tile& tile, float farthest,
                const Vec3& kept, const float* depths, LightPlanes& light) const;

    size_t bytes() const { return 2 * pieces_.depths.size() * sizeof(float); }

  private:
    static constexpr int size = 512; // cells along each side
    static constexpr int patch = 16; // cells along each side of a patch
    static constexpr int patches = size / patch;

    struct Corner {
        float u, v, depth; // cells, cells, m
    };
    using Triangles = std::vector<std::array<Corner, 3>>;
    struct Layer {
        std::vector<float> depths;  // towards the sun, m from the middle; row by row
        std::vector<float> highest; // of each patch and those beside it

        void draw(const Triangles& triangles);
        float lit_at(float u, float v, float depth, float softness) const;
    };
    Corner corner(const Vec3& place) const;

    bool is_on_ = false;
    Vec3 middle_, across_, along_, towards_; // towards: to the sun
    float per_metre_ = 1;                    // cells
    float softness_ = 0.01f;                 // m of depth
    Layer pieces_, colliders_;
    Corner low_, high_; // of the pieces; how far they reach away from the sun does not matter
};

} // namespace ember
