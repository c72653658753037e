// Meshes of triangles.
#pragma once

#include "kernels/vec3.h"

#include <array>
#include <cstdint>
#include <vector>

namespace ember {

/// Corners are in the file's own unit, taken as metres; triangles turn anticlockwise seen from outside.
struct Mesh {
    std::vector<Vec3> corners;
    std::vector<Vec3> normals; // of the corners, length 1
    std::vector<std::array<uint32_t, 3>> triangles;

    Vec3 low() const;
    Vec3 high() const;
    double area() const; // square metres
    /// Edges that do not have exactly one triangle on either side; none in a closed mesh.
    size_t open_edges() const;

    /// Makes one of corners at the same place.
    void join_corners();
    /// Normals of corners as the mean of the triangles round them, weighted by area.
    void find_normals();
};

/// A block with its middle at zero; size in m.
Mesh block_mesh(const Vec3& size);

/// With corners joined that fall into the same of `cells` along the longest side (J. Rossignac, P. Borrel,
/// "Multi-resolution 3D approximations", 1993). Without normals.
Mesh coarsened(const Mesh& mesh, int cells);

/// Particles are drawn as bodies of at most this many triangles.
constexpr size_t most_body_triangles = 20'000;

} // namespace ember
