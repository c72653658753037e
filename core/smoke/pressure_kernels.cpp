// Compiled once for each instruction set; EMBER_ISA names the namespace (see core/CMakeLists.txt).
#include "core/smoke/pressure_kernels.h"

#include "kernels/prelude_cpp.h"

#include <cstddef>

namespace ember::EMBER_ISA {

#include "kernels/smoke.kern"

namespace {

#include "core/smoke/kernel_rows.h"

template <class Visit>
KERNEL void each_in_slice(const SmokeSize& size, int z, Visit visit) {
    for (int y = 0; y < size.y; ++y) {
        each_in_row(size, y, z, visit);
    }
}

// How far the next row and the next slice are: worked out once for a slice, not for each cell.
struct Steps {
    size_t row, slice;

    explicit Steps(const PressureGrid& grid) : row(grid.size.stride()), slice(grid.size.slice()) {}
};

struct Around {
    rvec3 below, above, open_below, open_above;
};

KERNEL Around around(const PressureGrid& grid, Steps to, const float* pressure, size_t at) {
    return {
        {load_any(pressure + at - 1), load_any(pressure + at - to.row), load_any(pressure + at - to.slice)},
        {load_any(pressure + at + 1), load_any(pressure + at + to.row), load_any(pressure + at + to.slice)},
        {load_any(grid.open_x + at), load_any(grid.open_y + at), load_any(grid.open_z + at)},
        {load_any(grid.open_x + at + 1), load_any(grid.open_y + at + to.row),
         load_any(grid.open_z + at + to.slice)}};
}

// The same where all faces are open.
KERNEL real sum_around(Steps to, const float* pressure, size_t at) {
    const real along_x = load_any(pressure + at - 1) + load_any(pressure + at + 1);
    const real along_y = load_any(pressure + at - to.row) + load_any(pressure + at + to.row);
    const real along_z = load_any(pressure + at - to.slice) + load_any(pressure + at + to.slice);
    return along_x + along_y + along_z;
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

// `visit(at)` for the cells of one colour, one by one.
template <class Visit>
KERNEL void each_of_colour(const SmokeSize& size, int colour, int z, Visit visit) {
    for (int y = 0; y < size.y; ++y) {
        const size_t first = size.at(0, y, z);
        for (int i = (y + z + colour) & 1; i < size.x; i += 2) {
            visit(first + size_t(i));
        }
    }
}

void begin(const PressureGrid& grid, const float* outflow_of, float* pressure, int colour, int z) {
    const auto alone = [&](size_t at) {
        return real(0.0f) - load_any(outflow_of + at) * load_any(grid.per_open + at) * real(over);
    };
    if constexpr (lanes == 1) {
        each_of_colour(grid.size, colour, z, [&](size_t at) { store_any(pressure + at, alone(at)); });
        each_of_colour(grid.size, 1 - colour, z, [&](size_t at) { pressure[at] = 0; });
        return;
    }
    for (int y = 0; y < grid.size.y; ++y) {
        const kmask is_own = own_cells(colour, y, z);
        each_in_row(grid.size, y, z,
                    [&](size_t at) { store_any(pressure + at, sel(is_own, alone(at), real(0.0f))); });
    }
}

void relax(const PressureGrid& grid, const float* outflow_of, float* pressure, int colour, int z) {
    const Steps to(grid);
    const auto relaxed = [&](size_t at, real own) {
        real value;
        if (grid.is_clear(at)) {
            value = (sum_around(to, pressure, at) - load_any(outflow_of + at)) * real(1.0f / 6);
        } else {
            const Around a = around(grid, to, pressure, at);
            value = balanced(a.below, a.above, a.open_below, a.open_above, load_any(outflow_of + at),
                             load_any(grid.per_open + at));
        }
        return own + (value - own) * real(over);
    };
    if constexpr (lanes == 1) {
        each_of_colour(grid.size, colour, z,
                       [&](size_t at) { store_any(pressure + at, relaxed(at, load_any(pressure + at))); });
        return;
    }
    // What is written has to wait until the next cells are read: a load across what was just stored stalls.
    // It reads the same, since the cells beside it are of the other colour.
    real last = load_any(pressure + grid.size.at(0, 0, z));
    size_t last_at = grid.size.at(0, 0, z);
    for (int y = 0; y < grid.size.y; ++y) {
        const kmask is_own = own_cells(colour, y, z);
        each_in_row(grid.size, y, z, [&](size_t at) {
            const real own = load_any(pressure + at);
            const real mixed = sel(is_own, relaxed(at, own), own);
            store_any(pressure + last_at, last);
            last = mixed;
            last_at = at;
        });
    }
    store_any(pressure + last_at, last);
}

KERNEL real left_at(const PressureGrid& grid, Steps to, const float* outflow_of, const float* pressure,
                    size_t at) {
    if (grid.is_clear(at)) {
        return load_any(outflow_of + at) - sum_around(to, pressure, at) +
               load_any(pressure + at) * real(6.0f);
    }
    const Around a = around(grid, to, pressure, at);
    const real left = left_outflow(load_any(pressure + at), a.below, a.above, a.open_below, a.open_above,
                                   load_any(outflow_of + at));
    return sel(load_any(grid.per_open + at) > real(0.0f), left, real(0.0f));
}

// In the order of the lanes, so that sums do not depend on the compiler's.
KERNEL double sum_of(real lanes_of) {
    float parts[lanes];
    store_any(parts, lanes_of);
    double sum = 0;
    for (const float part : parts) {
        sum += double(part);
    }
    return sum;
}

TwoSums remains(const PressureGrid& grid, const float* outflow_of, const float* pressure, const float* other,
                float* out, int z) {
    const Steps to(grid);
    real own = real(0.0f), with_other = real(0.0f);
    each_in_slice(grid.size, z, [&](size_t at) {
        const real left = left_at(grid, to, outflow_of, pressure, at);
        store_any(out + at, left);
        own = own + left * left;
        with_other = with_other + left * load_any(other + at);
    });
    return {sum_of(own), sum_of(with_other)};
}

void restricted(const PressureGrid& fine, const float* outflow_of, const float* pressure,
                const SmokeSize& coarse, float* out, int z) {
    const SmokeSize& size = fine.size;
    const Steps to(fine);
    const bool has_slice_on = 2 * z + 1 < size.z;
    for (int y = 0; y < coarse.y; ++y) {
        const bool has_row_on = 2 * y + 1 < size.y;
        const size_t first = size.at(0, 2 * y, 2 * z);
        const auto left = [&](size_t at) { return left_at(fine, to, outflow_of, pressure, at); };
        const auto left_in_rows = [&](size_t at) {
            return has_row_on ? left(at) + left(at + to.row) : left(at);
        };
        const auto left_in_slices = [&](int i) {
            const size_t at = first + size_t(i);
            return has_slice_on ? left_in_rows(at) + left_in_rows(at + to.slice) : left_in_rows(at);
        };
        float* row = out + coarse.at(0, y, z);
        for (int i = 0; i < size.x; i += 2 * lanes) {
            float cells[2 * lanes] = {};
            store_any(cells, left_in_slices(i));
            if (i + lanes < size.x) {
                store_any(cells + lanes, left_in_slices(i + lanes));
            }
            for (int c = 0; c < lanes && i / 2 + c < coarse.x; ++c) {
                row[i / 2 + c] = 0.5f * (cells[2 * c] + cells[2 * c + 1]);
            }
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

double balances(const PressureGrid& grid, const float* pressure, float* out, int z) {
    const Steps to(grid);
    real sum = real(0.0f);
    each_in_slice(grid.size, z, [&](size_t at) {
        const real own = load_any(pressure + at);
        real value;
        if (grid.is_clear(at)) {
            value = sum_around(to, pressure, at) - own * real(6.0f);
        } else {
            const Around a = around(grid, to, pressure, at);
            const real all =
                real(0.0f) - left_outflow(own, a.below, a.above, a.open_below, a.open_above, real(0.0f));
            value = sel(load_any(grid.per_open + at) > real(0.0f), all, real(0.0f));
        }
        store_any(out + at, value);
        sum = sum + value * own;
    });
    return sum_of(sum);
}

double outflow(const SmokeSize& size, const SmokePlanes& faces, float* out, int z) {
    const size_t row = size.stride(), slice = size.slice();
    real sum = real(0.0f);
    each_in_slice(size, z, [&](size_t at) {
        const real along_x = load_any(faces.x + at + 1) - load_any(faces.x + at);
        const real along_y = load_any(faces.y + at + row) - load_any(faces.y + at);
        const real along_z = load_any(faces.z + at + slice) - load_any(faces.z + at);
        store_any(out + at, along_x + along_y + along_z);
        sum = sum + abs(along_x) + abs(along_y) + abs(along_z);
    });
    return sum_of(sum);
}

TwoSums products(const SmokeSize& size, const float* a, const float* b, const float* c, int z) {
    real with_b = real(0.0f), with_c = real(0.0f);
    each_in_slice(size, z, [&](size_t at) {
        const real own = load_any(a + at);
        with_b = with_b + own * load_any(b + at);
        with_c = with_c + own * load_any(c + at);
    });
    return {sum_of(with_b), sum_of(with_c)};
}

void blend(const SmokeSize& size, float keep, float* a, float share, const float* b, int z) {
    each_in_slice(size, z, [&](size_t at) {
        store_any(a + at, load_any(a + at) * real(keep) + load_any(b + at) * real(share));
    });
}

double take(const SmokeSize& size, float* a, float share, const float* b, int z) {
    real sum = real(0.0f);
    each_in_slice(size, z, [&](size_t at) {
        const real left = load_any(a + at) - load_any(b + at) * real(share);
        store_any(a + at, left);
        sum = sum + left * left;
    });
    return sum_of(sum);
}

void press(const PressureGrid& grid, const float* pressure, const SmokePlanes& faces, int z) {
    const Steps to(grid);
    const auto along = [&](const float* open, float* face, size_t step, size_t at) {
        const real difference = load_any(pressure + at) - load_any(pressure + at - step);
        store_any(face + at, load_any(face + at) - difference * load_any(open + at));
    };
    const auto along_all = [&](size_t at) {
        along(grid.open_x, faces.x, 1, at);
        along(grid.open_y, faces.y, to.row, at);
        along(grid.open_z, faces.z, to.slice, at);
    };
    const auto along_open = [&](float* face, size_t step, size_t at) {
        store_any(face + at,
                  load_any(face + at) - (load_any(pressure + at) - load_any(pressure + at - step)));
    };
    const auto press_at = [&](size_t at) {
        if (grid.is_clear(at)) {
            along_open(faces.x, 1, at);
            along_open(faces.y, to.row, at);
            along_open(faces.z, to.slice, at);
        } else {
            along_all(at);
        }
    };
    for (int y = 0; y <= grid.size.y; ++y) {
        each_in_row(grid.size, y, z, press_at, and_last_face);
    }
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
    .products = products,
    .blend = blend,
    .take = take,
    .press = press,
};

} // namespace ember::EMBER_ISA
