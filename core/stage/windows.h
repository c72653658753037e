// Grids that are kept only for an area: heights of what stands on the stage, and distances to a part of a
// large mesh. The area may ride on a mover; what it costs does not depend on how large the world is.
#pragma once

#include "core/particles/program.h"

namespace ember {

class StageWindows {
  public:
    explicit StageWindows(const BlockKernels& kernels) : kernels_(&kernels) {}

    /// Brings the grids up to `time_s`. Those whose area has moved by less than a cell, over a stage that
    /// stands still, stay as they are.
    const WindowGrids& update(const PreparedEffect& prepared, double time_s);

    /// How smoke flows, for the forces that carry along it; may be null.
    void set_flow(std::shared_ptr<const GridTable> flow) { flow_ = std::move(flow); }

    const WindowGrids& grids() const { return grids_; }
    void clear() { *this = StageWindows(*kernels_); }

  private:
    // What a grid was made from.
    struct Origin {
        std::array<int, 3> low{}; // cells
        std::vector<std::shared_ptr<const PreparedElement>> elements;
        std::vector<Placement> placements;
        bool operator==(const Origin&) const = default;
    };

    void capture_heights(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                         size_t element, const HeightMap& map);
    void cut_out_distances(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                           size_t element, const MeshCollider& collider);
    std::shared_ptr<GridTable> renewed(size_t element, Origin origin);

    const BlockKernels* kernels_;
    WindowGrids grids_;
    std::shared_ptr<const GridTable> flow_;
    std::map<size_t, Origin> made_of_;
};

} // namespace ember
