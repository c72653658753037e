// Grids that are kept only for an area: heights of what stands on the stage, and distances to a part of a
// large mesh. The area may ride on a mover; what it costs does not depend on how large the world is.
#pragma once

#include "core/scene/meters.h"
#include "core/scene/program.h"

namespace ember {

class StageWindows {
  public:
    explicit StageWindows(const BlockKernels& kernels) : kernels_(&kernels) {}

    /// Brings the grids of what is active up to `time_s`. Those whose area has moved by less than a cell stay
    /// as they are where nothing has moved on the stage. Writes what each took, and how many of its cells
    /// were made anew, into `meters`.
    const WindowGrids& update(const PreparedEffect& prepared, double time_s, Meters& meters);

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
        std::vector<std::array<int, 4>> cells; // of a captured map: what each may reach
        bool operator==(const Origin&) const = default;
    };

    /// What stands on the stage, and which columns of the map it may reach.
    struct Standing {
        ColliderRow row;
        std::array<int, 4> cells; // first and last column, first and last row
    };
    /// These return how many cells they made anew.
    size_t capture_heights(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                           size_t element, const HeightMap& map);
    void capture_cells(const std::vector<Standing>& standing, const HeightMap& map, const Vec3& middle,
                       const std::array<int, 4>& cells, GridTable& grid) const;
    size_t cut_out_distances(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                             size_t element, const MeshCollider& collider);
    std::shared_ptr<GridTable> renewed(size_t element, Origin origin);

    const BlockKernels* kernels_;
    WindowGrids grids_;
    std::shared_ptr<const GridTable> flow_;
    std::map<size_t, Origin> made_of_;
};

} // namespace ember
