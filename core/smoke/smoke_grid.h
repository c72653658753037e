// The cells of a volume of smoke, and how they lie in memory.
#pragma once

#include "core/base/staggered.h"
#include "core/effect/smoke_size.h"

#include <cstddef>
#include <functional>

namespace ember {

/// Cells from `low` to before `high`.
struct CellBox {
    int low[3] = {0, 0, 0}, high[3] = {0, 0, 0};

    static CellBox whole(const SmokeSize& size) { return {{0, 0, 0}, {size.x, size.y, size.z}}; }
    bool is_empty() const { return low[0] >= high[0] || low[1] >= high[1] || low[2] >= high[2]; }
};

/// All fields of a cell together, so that one place in memory answers for all of them.
struct alignas(32) SmokeCell {
    float velocity[3] = {}; // m/s, as it is carried: see SmokeVolume::reflect()
    float density = 0;
    float heat = 0; // K
    float unused[3] = {};
};

/// Cells along each side of those of the grid that stirs what is large.
constexpr int broad_cells = 4;

/// Does something to one slice of cells.
using SliceStage = std::function<void(int z)>;

using FloatCells = StaggeredVector<float>; // a plane
using SmokeCells = StaggeredVector<SmokeCell>;

} // namespace ember
