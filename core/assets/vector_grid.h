// Grids of vectors that are read from OpenVDB files.
#pragma once

#include "core/base/axes.h"
#include "core/base/problem.h"

#include <array>
#include <filesystem>
#include <optional>
#include <vector>

namespace ember {

/// Vectors at even places, x fastest, as x y z, in the axes of the grid.
struct VectorGrid {
    std::array<int, 3> count{};
    Axes turn;      // of those axes in the world; right-handed
    Vec3 low;       // m, of the first vector, in those axes
    float cell = 1; // m between two
    std::vector<float> values;
};

/// The first grid of vectors of an OpenVDB file, at most `most_cells` along its longest side.
std::optional<VectorGrid> read_vectors(const std::filesystem::path& path, int most_cells, Problems& problems);

} // namespace ember
