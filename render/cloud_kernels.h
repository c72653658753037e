// The inner loops of pictures of smoke, compiled once for each instruction set.
#pragma once

#include "core/base/isa.h"
#include "kernels/vec3.h"

#include <cstddef>
#include <cstdint>
#include <memory>
#include <vector>

namespace ember {

/// Four floats that are read together: light sent towards the eye and what it is thinned by.
struct alignas(16) CloudCell {
    float red = 0, green = 0, blue = 0;
    float thin = 0;
};

/// A grid of cells with a rim of one round it, x fastest, then y.
struct CloudGrid {
    int x = 0, y = 0, z = 0;
    std::vector<CloudCell> cells;

    void resize(int new_x, int new_y, int new_z);
    size_t row() const { return size_t(x + 2); }
    size_t slice() const { return row() * size_t(y + 2); }
    size_t at(int i, int j, int k) const {
        return size_t(k + 1) * slice() + size_t(j + 1) * row() + size_t(i + 1);
    }
};

/// A volume that rays go through. Cells hold light per metre and how much a metre takes.
struct CloudVolume {
    CloudGrid grid;
    Vec3 low;               // m, the lower corner
    float cell = 1;         // m
    std::vector<char> full; // of blocks of 8 cells: whether they or their neighbours' nearest cells hold any
    int blocks_x = 0, blocks_y = 0;
};

/// What rays through the pixels of a coarse picture have met, at even depths from `near` on: light, and how
/// much is left of the light behind it. Slice after slice, rows from the top.
struct CloudMap {
    static constexpr int slices = 8;

    int left = 0, top = 0;     // of the first coarse pixel
    float pixels = 1;          // of the picture, for each coarse one
    float near = 0, depth = 1; // m along the camera's axis, and for each slice
    CloudGrid grid;            // of width, height and slices + 1, without the use of its rim along z
};

/// A view that rays start from: directions per pixel of the picture.
struct CloudView {
    Vec3 eye, forward, right, down; // right, down: per pixel, at a depth of one
    float middle_x, middle_y;
};

struct CloudKernels {
    /// Marches the rays of a row of the map from `left` to before `right`. `farthest`: of each of the row's,
    /// the depth up to which it is seen, m.
    void (*march)(const std::vector<std::unique_ptr<CloudVolume>>& volumes, const CloudView& view,
                  CloudMap& map, int row, int left, int right, const float* farthest);
    /// Puts the smoke before a row of pixels, from `left` to before `right`.
    void (*blend)(const CloudMap& map, int y, int left, int right, const float* depth, float* red,
                  float* green, float* blue);
    /// Light per metre in a row of cells: what comes from `light`, a grid of cells twice as wide, by how much
    /// they take. Cells hold that in `thin` already; what they glow with is added.
    void (*shine)(const CloudGrid& light, CloudGrid& cells, int y, int z);
};

const CloudKernels& cloud_kernels(Isa isa);

} // namespace ember
