// Signed distance to a mesh.
#pragma once

#include "core/base/progress.h"
#include "core/geometry/mesh.h"

#include <memory>
#include <optional>

namespace ember {

/// Distance to a mesh's surface, negative inside, kept sparsely near the surface. Where the mesh is open
/// there is no inside: the surface then is a shell, as thick as one and a half cells.
class DistanceField {
  public:
    /// `cell`: side of a cell, in the mesh's unit. Nothing if cancelled.
    static std::optional<DistanceField> of(const Mesh& mesh, float cell, const Progress& progress = {});

    float cell() const { return cell_; }
    bool is_shell() const { return is_shell_; }
    /// The box that holds the surface and a margin, in whole cells.
    std::array<int, 3> low_cell() const { return low_; }
    std::array<int, 3> high_cell() const { return high_; } // inclusive

    /// Distances at whole cells from `low` on, `count` along each side, x fastest. Far from the surface they
    /// are cut off at a few cells.
    void fill(std::array<int, 3> low, std::array<int, 3> count, float* out) const;

  private:
    struct Sparse;
    std::shared_ptr<const Sparse> sparse_;
    float cell_ = 1;
    bool is_shell_ = false;
    std::array<int, 3> low_{}, high_{};
};

/// Cells that a distance field may have in all, as a box.
constexpr double most_distance_cells = 4e9;

} // namespace ember
