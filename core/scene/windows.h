// Grids that are kept only for an area: heights of what stands on the stage, and distances to a part of a
// large mesh. The area may ride on a mover; what it costs does not depend on how large the world is.
#pragma once

#include "core/scene/meters.h"
#include "core/scene/program.h"

#include <map>
#include <string>

namespace ember {

class StageWindows {
  public:
    explicit StageWindows(const BlockKernels& kernels) : kernels_(&kernels) {}

    /// Brings the grids of what is active up to where all stands now. Those whose area has moved by less than
    /// a cell stay as they are where nothing has moved on the stage. Writes what each took, and how many of
    /// its cells were made anew, into `meters`.
    const WindowGrids& update(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                              Meters& meters);

    /// What there is, for an effect whose elements may lie in other places since.
    void take_over(const PreparedEffect& prepared);

    /// How smoke flows, for the forces that carry along it; may be null.
    void set_flow(std::shared_ptr<const GridTable> flow) { flow_ = std::move(flow); }

    const WindowGrids& grids() const { return grids_; }
    void clear() { *this = StageWindows(*kernels_); }

    /// All that the next steps depend on, but for the flow of smoke.
    struct Window;
    using Kept = std::map<std::string, Window>; // by the element's id
    const Kept& kept() const { return windows_; }
    void restore(Kept kept) { windows_ = std::move(kept); }

    /// What a grid was made from.
    struct Origin {
        std::array<int, 3> low{}; // cells
        std::vector<std::shared_ptr<const PreparedElement>> elements;
        std::vector<Placement> placements;
        std::vector<std::array<int, 4>> cells; // of a captured map: what each may reach
        bool operator==(const Origin&) const = default;
    };
    struct Window {
        Origin made_of;
        std::shared_ptr<const GridTable> grid;
        size_t kind = 0; // ElementBody::index() of whose it is
    };

  private:
    /// What stands on the stage, and which columns of the map it may reach.
    struct Standing {
        ColliderRow row;
        std::array<int, 4> cells; // first and last column, first and last row
    };
    /// These return how many cells they made anew.
    size_t capture_heights(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                           size_t element, const HeightMap& map, Window& window);
    void capture_cells(const std::vector<Standing>& standing, const HeightMap& map, const Vec3& middle,
                       const std::array<int, 4>& cells, GridTable& grid) const;
    size_t cut_out_distances(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                             size_t element, const MeshCollider& collider, Window& window);

    const BlockKernels* kernels_;
    Kept windows_;
    WindowGrids grids_; // the same, by the element's index, and the flow of smoke
    std::shared_ptr<const GridTable> flow_;
};

} // namespace ember
