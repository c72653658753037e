// Loops over the rows of a grid of smoke, slice by slice on all threads.
#pragma once

#include "core/smoke/smoke_grid.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <numeric>
#include <vector>

namespace ember {

/// Small grids are done before other threads would have begun.
constexpr size_t cells_worth_threads = 8192;

/// `visit(slice)` for each of `count` slices of cells.
template <class Visit>
void each_slice(size_t cells, int count, Visit visit) {
    if (cells < cells_worth_threads) {
        for (int k = 0; k < count; ++k) {
            visit(k);
        }
    } else {
        tbb::parallel_for(0, count, visit);
    }
}

/// `visit(y, z)` for each row; of faces there are more.
template <class Visit>
void each_row(const SmokeSize& size, Visit visit, int more = 0) {
    each_slice(size.cells(), size.z + more, [&](int z) {
        for (int y = 0; y < size.y + more; ++y) {
            visit(y, z);
        }
    });
}

/// The stage that calls `visit(y, z)` for each row of a slice.
template <class Visit>
SliceStage by_rows(const SmokeSize& size, Visit visit) {
    return [count = size.y, visit](int z) {
        for (int y = 0; y < count; ++y) {
            visit(y, z);
        }
    };
}

/// The sum of `visit(y, z)`, the same on any number of threads.
template <class Visit>
auto sum_rows(const SmokeSize& size, Visit visit) {
    std::vector<decltype(visit(0, 0))> sums(size_t(size.z));
    each_slice(size.cells(), size.z, [&](int z) {
        for (int y = 0; y < size.y; ++y) {
            sums[size_t(z)] += visit(y, z);
        }
    });
    return std::accumulate(sums.begin(), sums.end(), decltype(visit(0, 0))());
}

/// Runs stages over all slices. A stage may read of a slice and of those beside it what the stages before it
/// made of them, and change its own slice: the result is that of stage after stage. Slabs of slices go
/// through all stages while a core's cache holds them; what lies between two slabs follows.
inline void run_stages(const SmokeSize& size, const std::vector<SliceStage>& stages) {
    const int count = int(stages.size()), deep = size.z;
    const int fit = size.cells() < cells_worth_threads ? 1 : std::max(deep / std::max(16, 2 * count), 1);
    const int slabs = fit > 2 ? fit / 2 * 2 : fit;
    const auto low_of = [&](int slab) { return deep * slab / slabs; };
    each_slice(size.cells(), slabs, [&](int slab) {
        const int low = low_of(slab), high = low_of(slab + 1);
        for (int front = low; front < high + count; ++front) {
            for (int k = 0; k < count; ++k) {
                const int z = front - k;
                const bool is_ready =
                    z >= (slab == 0 ? 0 : low + k) && z < (slab == slabs - 1 ? deep : high - k);
                if (is_ready) {
                    stages[size_t(k)](z);
                }
            }
        }
    });
    each_slice(size.cells(), slabs - 1, [&](int border) {
        const int between = low_of(border + 1);
        for (int k = 1; k < count; ++k) {
            for (int z = between - k; z < between + k; ++z) {
                stages[size_t(k)](z);
            }
        }
    });
}

/// The rim of a slice takes on what lies beside it, and what lies before the first slice and behind the last.
inline void copy_to_rim(const SmokeSize& size, FloatCells& plane, int z) {
    const auto copy = [&](size_t from, size_t to, size_t count) {
        std::copy_n(plane.begin() + std::ptrdiff_t(from), count, plane.begin() + std::ptrdiff_t(to));
    };
    for (int y = 0; y < size.y; ++y) {
        float* row = plane.data() + size.at(0, y, z);
        row[-1] = row[0];
        row[size.x] = row[size.x - 1];
    }
    const size_t with_rim = size_t(size.x) + 2;
    copy(size.at(-1, 0, z), size.at(-1, -1, z), with_rim);
    copy(size.at(-1, size.y - 1, z), size.at(-1, size.y, z), with_rim);
    const size_t slice = size.at(-1, size.y, z) + with_rim - size.at(-1, -1, z);
    if (z == 0) {
        copy(size.at(-1, -1, 0), size.at(-1, -1, -1), slice);
    }
    if (z == size.z - 1) {
        copy(size.at(-1, -1, z), size.at(-1, -1, size.z), slice);
    }
}

} // namespace ember
