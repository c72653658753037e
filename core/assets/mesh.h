// Meshes of triangles, and reading them from files.
#pragma once

#include "core/base/problem.h"
#include "core/base/progress.h"
#include "kernels/vec3.h"

#include <array>
#include <cstdint>
#include <filesystem>
#include <optional>
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

constexpr size_t most_triangles = 4'000'000;

/// Reads OBJ, PLY, STL, OFF and glTF; all parts of a scene become one mesh, and corners at the same place
/// become one. Refused: no triangles, no area, more than most_triangles, numbers that are not finite (with
/// the number of the corner).
std::optional<Mesh> read_mesh(const std::filesystem::path& path, Problems& problems,
                              const Progress& progress = {});

} // namespace ember
