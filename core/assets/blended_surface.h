// Particles as one skin.
#pragma once

#include "core/assets/mesh.h"

#include <span>

namespace ember {

struct BlendedBall {
    Vec3 place;
    float radius = 0; // m
};

/// The skin round balls, as a mesh with smooth normals; empty if there are none. `cell`: of the grid of
/// distances that it is found in (m); balls smaller than 1.5 cells are taken as that large. `smoothing`: passes
/// over that grid, each of which melts what is near to one another further together. A grid of more than
/// most_blended_cells is made coarser.
Mesh blended_surface(std::span<const BlendedBall> balls, float cell, int smoothing);

constexpr double most_blended_cells = 16e6; // of the box round all balls

} // namespace ember
