// Compiled once for each instruction set; EMBER_ISA names the namespace (see core/CMakeLists.txt).
#include "core/smoke/pressure_kernels.h"

#include "kernels/prelude_cpp.h"

#include <cstddef>

namespace ember::EMBER_ISA {

#include "kernels/smoke.kern"

namespace {

#include "core/smoke/kernel_rows.h"

struct Around {
    rvec3 below, above, open_below, open_above;
};

KERNEL Around around(const PressureGrid& grid, const float* pressure, size_t at) {
    const size_t row = grid.size.stride(), slice = grid.size.slice();
    return {{load_any(pressure + at - 1), load_any(pressure + at - row), load_any(pressure + at - slice)},
            {load_any(pressure + at + 1), load_any(pressure + at + row), load_any(pressure + at + slice)},
            {load_any(grid.open_x + at), load_any(grid.open_y + at), load_any(grid.open_z + at)},
            {load_any(grid.open_x + at + 1), load_any(grid.open_y + at + row),
             load_any(grid.open_z + at + slice)}};
}

// The same where all faces are open.
KERNEL rvec3 sums_around(const PressureGrid& grid, const float* pressure, size_t at) {
    const size_t row = grid.size.stride(), slice = grid.size.slice();
    return {load_any(pressure + at - 1) + load_any(pressure + at + 1),
            load_any(pressure + at - row) + load_any(pressure + at + row),
            load_any(pressure + at - slice) + load_any(pressure + at + slice)};
}

// Where a row's cells of one colour are; they have only neighbours of the other: it does not matter which of
// them comes first.
KERNEL kmask own_cells(int colour, int y, int z) {
    alignas(64) static constexpr float even[17] = {1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1};
    return load_any(even + ((y + z + colour) & 1)) > real(0.5f);
}

// By how much cells are moved on towards balance: more than all the way, since both colours then do in two
// turns what would take them three (I. Yavneh, "On Red-Black SOR Smoothing in Multigrid", 1996).
constexpr float over = 1.15f;

void begin(const PressureGrid& grid, const float* outflow_of, float* pressure, int colour, int y, int z) {
    if constexpr (lanes == 1) {
        const size_t first = grid.size.at(0, y, z);
        for (int i = 0; i < grid.size.x; ++i) {
            const size_t at = first + size_t(i);
            pressure[at] =
                ((y + z + colour + i) & 1) == 0 ? -over * outflow_of[at] * grid.per_open[at] : 0.0f;
        }
        return;
    }
    const kmask is_own = own_cells(colour, y, z);
    each_in_row(grid.size, y, z, [&](size_t at) {
        const real value = real(0.0f) - load_any(outflow_of + at) * load_any(grid.per_open + at) * real(over);
        store_any(pressure + at, sel(is_own, value, real(0.0f)));
    });
}

void relax(const PressureGrid& grid, const float* outflow_of, float* pressure, int colour, int y, int z) {
    if constexpr (lanes == 1) {
        const size_t first = grid.size.at(0, y, z);
        for (int i = (y + z + colour) & 1; i < grid.size.x; i += 2) {
            const size_t at = first + size_t(i);
            const Around a = around(grid, pressure, at);
            const real own = load_any(pressure + at);
            const real value = balanced(a.below, a.above, a.open_below, a.open_above,
                                        load_any(outflow_of + at), load_any(grid.per_open + at));
            store_any(pressure + at, own + (value - own) * real(over));
        }
        return;
    }
    const kmask is_own = own_cells(colour, y, z);
    // What is written has to wait until the next cells are read: a load across what was just stored stalls.
    // It reads the same, since the cells beside it are of the other colour.
    real last = real(0.0f);
    size_t last_at = 0;
    each_in_row(grid.size, y, z, [&](size_t at) {
        real value;
        if (grid.is_clear(at)) {
            const rvec3 sums = sums_around(grid, pressure, at);
            value = (sums.x + sums.y + sums.z - load_any(outflow_of + at)) * real(1.0f / 6);
        } else {
            const Around a = around(grid, pressure, at);
            value = balanced(a.below, a.above, a.open_below, a.open_above, load_any(outflow_of + at),
                             load_any(grid.per_open + at));
        }
        const real own = load_any(pressure + at);
        const real mixed = sel(is_own, own + (value - own) * real(over), own);
        if (last_at != 0) {
            store_any(pressure + last_at, last);
        }
        last = mixed;
        last_at = at;
    });
    store_any(pressure + last_at, last);
}

KERNEL real left_at(const PressureGrid& grid, const float* outflow_of, const float* pressure, size_t at) {
    if (grid.is_clear(at)) {
        const rvec3 sums = sums_around(grid, pressure, at);
        return load_any(outflow_of + at) - (sums.x + sums.y + sums.z) + load_any(pressure + at) * real(6.0f);
    }
    const Around a = around(grid, pressure, at);
    const real left = left_outflow(load_any(pressure + at), a.below, a.above, a.open_below, a.open_above,
                                   load_any(outflow_of + at));
    return sel(load_any(grid.per_open + at) > real(0.0f), left, real(0.0f));
}

void remains(const PressureGrid& grid, const float* outflow_of, const float* pressure, float* out, int y,
             int z) {
    each_in_row(grid.size, y, z,
                [&](size_t at) { store_any(out + at, left_at(grid, outflow_of, pressure, at)); });
}

void restricted(const PressureGrid& fine, const float* outflow_of, const float* pressure,
                const SmokeSize& coarse, float* out, int y, int z) {
    const SmokeSize& size = fine.size;
    float* row = out + coarse.at(0, y, z);
    for (int i = 0; i < size.x; i += 2 * lanes) {
        real sums[2] = {real(0.0f), real(0.0f)};
        for (int k = 2 * z; k < std::min(2 * z + 2, size.z); ++k) {
            for (int j = 2 * y; j < std::min(2 * y + 2, size.y); ++j) {
                for (int half = 0; half < 2 && i + half * lanes < size.x; ++half) {
                    const size_t at = size.at(i + half * lanes, j, k);
                    sums[half] = sums[half] + left_at(fine, outflow_of, pressure, at);
                }
            }
        }
        float cells[2 * lanes];
        store_any(cells, sums[0]);
        store_any(cells + lanes, sums[1]);
        for (int c = 0; c < lanes && i / 2 + c < coarse.x; ++c) {
            row[i / 2 + c] = 0.5f * (cells[2 * c] + cells[2 * c + 1]);
        }
    }
}

void prolong(const PressureGrid& fine, const float* const (&rows)[4], const float (&weights)[4],
             const float (&beyond)[2], int coarse_x, float* mean, float* pressure, int y, int z) {
    for (int i = 0; i < coarse_x; i += lanes) {
        real sum = load_any(rows[0] + i) * real(weights[0]);
        for (int r = 1; r < 4; ++r) {
            sum = sum + load_any(rows[r] + i) * real(weights[r]);
        }
        store_any(mean + 1 + i, sum);
    }
    mean[0] = mean[1] * beyond[0];
    mean[coarse_x + 1] = mean[coarse_x] * beyond[1];
    const size_t first = fine.size.at(0, y, z);
    for (int i = 0; i < coarse_x; i += lanes) {
        const real own = load_any(mean + 1 + i) * real(0.75f);
        float lower[lanes], upper[lanes], both[2 * lanes];
        store_any(lower, own + load_any(mean + i) * real(0.25f));
        store_any(upper, own + load_any(mean + 2 + i) * real(0.25f));
        for (int c = 0; c < lanes; ++c) {
            both[2 * c] = lower[c];
            both[2 * c + 1] = upper[c];
        }
        for (int half = 0; half < 2 && 2 * i + half * lanes < fine.size.x; ++half) {
            const size_t at = first + size_t(2 * i + half * lanes);
            const real more =
                sel(load_any(fine.per_open + at) > real(0.0f), load_any(both + half * lanes), real(0.0f));
            store_any(pressure + at, load_any(pressure + at) + more);
        }
    }
}

// In the order of the cells, so that sums do not depend on the width of a register's.
KERNEL double row_sum(const float* values, int count) {
    double sum = 0;
    for (int i = 0; i < count; ++i) {
        sum += double(values[i]);
    }
    return sum;
}

// The lanes' sums over a row, added up.
template <class Value>
KERNEL double summed(const SmokeSize& size, int y, int z, Value value) {
    real sum = real(0.0f);
    each_in_row(size, y, z, [&](size_t at) { sum = sum + value(at); });
    float parts[16];
    store_any(parts, sum);
    return row_sum(parts, lanes);
}

double balances(const PressureGrid& grid, const float* pressure, float* out, int y, int z) {
    return summed(grid.size, y, z, [&](size_t at) {
        const real own = load_any(pressure + at);
        real value;
        if (grid.is_clear(at)) {
            const rvec3 sums = sums_around(grid, pressure, at);
            value = sums.x + sums.y + sums.z - own * real(6.0f);
        } else {
            const Around a = around(grid, pressure, at);
            const real all =
                real(0.0f) - left_outflow(own, a.below, a.above, a.open_below, a.open_above, real(0.0f));
            value = sel(load_any(grid.per_open + at) > real(0.0f), all, real(0.0f));
        }
        store_any(out + at, value);
        return value * own;
    });
}

double outflow(const SmokeSize& size, const SmokePlanes& faces, float* out, int y, int z) {
    const size_t row = size.stride(), slice = size.slice();
    return summed(size, y, z, [&](size_t at) {
        const real along_x = load_any(faces.x + at + 1) - load_any(faces.x + at);
        const real along_y = load_any(faces.y + at + row) - load_any(faces.y + at);
        const real along_z = load_any(faces.z + at + slice) - load_any(faces.z + at);
        store_any(out + at, along_x + along_y + along_z);
        return abs(along_x) + abs(along_y) + abs(along_z);
    });
}

double product(const SmokeSize& size, const float* a, const float* b, int y, int z) {
    return summed(size, y, z, [&](size_t at) { return load_any(a + at) * load_any(b + at); });
}

double blend(const SmokeSize& size, float keep, float* a, float share, const float* b, int y, int z) {
    return summed(size, y, z, [&](size_t at) {
        const real value = load_any(a + at) * real(keep) + load_any(b + at) * real(share);
        store_any(a + at, value);
        return value * value;
    });
}

void press(const PressureGrid& grid, const float* pressure, const SmokePlanes& faces, int y, int z) {
    const auto along = [&](const float* open, float* face, size_t step, size_t at) {
        const real difference = load_any(pressure + at) - load_any(pressure + at - step);
        store_any(face + at, load_any(face + at) - difference * load_any(open + at));
    };
    const auto along_all = [&](size_t at) {
        along(grid.open_x, faces.x, 1, at);
        along(grid.open_y, faces.y, grid.size.stride(), at);
        along(grid.open_z, faces.z, grid.size.slice(), at);
    };
    const auto along_open = [&](float* face, size_t step, size_t at) {
        store_any(face + at,
                  load_any(face + at) - (load_any(pressure + at) - load_any(pressure + at - step)));
    };
    each_in_row(
        grid.size, y, z,
        [&](size_t at) {
            if (grid.is_clear(at)) {
                along_open(faces.x, 1, at);
                along_open(faces.y, grid.size.stride(), at);
                along_open(faces.z, grid.size.slice(), at);
            } else {
                along_all(at);
            }
        },
        and_last_face);
}

} // namespace

extern const PressureKernels pressure_kernel_set;
const PressureKernels pressure_kernel_set = {
    .outflow = outflow,
    .begin = begin,
    .relax = relax,
    .remains = remains,
    .restricted = restricted,
    .prolong = prolong,
    .balances = balances,
    .product = product,
    .blend = blend,
    .press = press,
};

} // namespace ember::EMBER_ISA
