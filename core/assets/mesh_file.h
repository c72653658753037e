// Meshes in files.
#pragma once

#include "core/base/problem.h"
#include "core/base/progress.h"
#include "core/geometry/mesh.h"

#include <filesystem>
#include <optional>

namespace ember {

constexpr size_t most_triangles = 4'000'000;

/// Reads OBJ, PLY, STL, OFF and glTF; all parts of a scene become one mesh, and corners at the same place
/// become one. Refused: no triangles, no area, more than most_triangles, numbers that are not finite (with
/// the number of the corner).
std::optional<Mesh> read_mesh(const std::filesystem::path& path, Problems& problems,
                              const Progress& progress = {});

} // namespace ember
