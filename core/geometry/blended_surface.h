// Particles as one skin.
#pragma once

#include "core/geometry/mesh.h"

#include <array>
#include <span>

namespace ember {

struct BlendedBall {
    Vec3 place;
    float radius = 0; // m
};

/// The skin round balls, as a mesh with smooth normals; empty if there are none. `cell`: of the grid of
/// distances that it is found in (m); balls smaller than a cell are taken as that large. `blending`: the
/// width over which balls that come near melt together (m); one ball alone keeps its radius. A grid of more
/// than most_blended_cells, or with more than most_blended_work distances to find, is made coarser: many
/// large balls that overlap have no fine skin.
///
/// Distances are joined by a smooth minimum (I. Quilez, "Smooth minimum", 2013: exponential), whose skin is
/// found by surface nets (S. Gibson, "Constrained Elastic Surface Nets", 1998).
Mesh blended_surface(std::span<const BlendedBall> balls, float cell, float blending);

/// The surface where a grid of distances (m, negative inside; x fastest) is zero.
Mesh surface_of(std::span<const float> distances, const std::array<int, 3>& samples, const Vec3& low,
                float cell);

constexpr double most_blended_cells = 4e6; // of the box round all balls
constexpr double most_blended_work = 2e8;  // balls, times the cells in which each is felt

} // namespace ember
