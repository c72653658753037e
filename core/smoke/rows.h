// Loops over the rows of a grid of smoke, slice by slice on all threads.
#pragma once

#include "core/smoke/smoke_grid.h"

#include <oneapi/tbb/parallel_for.h>

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

/// The sum of `visit(y, z)`, the same on any number of threads.
template <class Visit>
double sum_rows(const SmokeSize& size, Visit visit) {
    std::vector<double> sums(size_t(size.z), 0.0);
    each_slice(size.cells(), size.z, [&](int z) {
        for (int y = 0; y < size.y; ++y) {
            sums[size_t(z)] += visit(y, z);
        }
    });
    return std::accumulate(sums.begin(), sums.end(), 0.0);
}

} // namespace ember
