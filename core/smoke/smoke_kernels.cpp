// Compiled once for each instruction set; EMBER_ISA names the namespace (see core/CMakeLists.txt).
#include "core/smoke/smoke_kernels.h"

#include "kernels/prelude_cpp.h"

#include <algorithm>
#include <cstddef>

namespace ember::EMBER_ISA {

#include "kernels/common.kern"

#include "kernels/random.kern"

#include "kernels/noise.kern"

#include "kernels/smoke.kern"

namespace {

constexpr int fields = sizeof(SmokeCell) / sizeof(float);
static_assert(smoke_block % lanes == 0);

// The places that a row of a block's cells come from, or go to: the lowest of the eight cells round each, and
// the weight of each of the eight.
struct Places {
    size_t at[smoke_block];
    alignas(64) float weights[8][smoke_block];
};

// `times`: of the way that the flow takes them. What lies outside is taken from the rim.
KERNEL void find_places(const SmokeTrace& trace, int x, int y, int z, float times, Places& places) {
    const SmokeSize& size = trace.size;
    const size_t first = size.at(x, y, z);
    const real one = real(1.0f), by = real(times * trace.cells_per_speed);
    for (int i = 0; i < smoke_block; i += lanes) {
        // Counted from the rim.
        const auto split = [&](const float* flow, real own, int count, real& lower) {
            const real place = own + load_any(flow + first + size_t(i)) * by;
            const real held = min(max(place + one, real(0.0f)), real(float(count) + 0.999f));
            lower = floor(held);
            return held - lower;
        };
        real lower_x, lower_y, lower_z;
        const real fx = split(trace.flow.x, lane_index() + real(float(x + i)), size.x, lower_x);
        const real fy = split(trace.flow.y, real(float(y)), size.y, lower_y);
        const real fz = split(trace.flow.z, real(float(z)), size.z, lower_z);
        const real near_x = one - fx, near_y = one - fy, near_z = one - fz;
        const real rows[4] = {near_y * near_z, fy * near_z, near_y * fz, fy * fz};
        for (int row = 0; row < 4; ++row) {
            store_any(places.weights[2 * row] + i, near_x * rows[row]);
            store_any(places.weights[2 * row + 1] + i, fx * rows[row]);
        }
        float whole[3][lanes];
        store_any(whole[0], lower_x);
        store_any(whole[1], lower_y);
        store_any(whole[2], lower_z);
        for (int lane = 0; lane < lanes; ++lane) {
            places.at[i + lane] =
                (size_t(int(whole[2][lane])) * size_t(size.y + 2) + size_t(int(whole[1][lane]))) *
                    size.packed_row() +
                size_t(int(whole[0][lane]));
        }
    }
}

// How far the eight corners are from the lowest, in floats.
struct Corners {
    size_t offsets[8];

    explicit Corners(const SmokeSize& size) {
        for (size_t i = 0; i < 8; ++i) {
            offsets[i] =
                fields * ((i & 1) + (i >> 1 & 1) * size.packed_row() + (i >> 2 & 1) * size.packed_slice());
        }
    }
};

KERNEL real mixed(const float* lowest, const Places& places, int cell, const Corners& corners, int part) {
    real sum = load_any(lowest + part) * real(places.weights[0][cell]);
    for (int i = 1; i < 8; ++i) {
        sum = sum + load_any(lowest + corners.offsets[i] + part) * real(places.weights[i][cell]);
    }
    return sum;
}

KERNEL const float* floats_of(const SmokeCell* cells, size_t at) {
    return reinterpret_cast<const float*>(cells + at);
}

double carry(const SmokeTrace& trace, int x, int y, int z) {
    const Corners corners(trace.size);
    const SmokeCell* cells = trace.cells;
    Places from;
    double sum = 0;
    for (int k = z; k < z + smoke_block; ++k) {
        for (int j = y; j < y + smoke_block; ++j) {
            find_places(trace, x, j, k, -1, from);
            const size_t first = trace.size.packed(x, j, k);
            for (int i = 0; i < smoke_block; ++i) {
                const float* lowest = floats_of(cells, from.at[i]);
                auto* out = reinterpret_cast<float*>(trace.out + first + size_t(i));
                for (int part = 0; part < fields; part += lanes) {
                    store_any(out + part, mixed(lowest, from, i, corners, part));
                }
                sum += double(cells[first + size_t(i)].density);
            }
        }
    }
    return sum;
}

double correct(const SmokeTrace& trace, int x, int y, int z) {
    const Corners corners(trace.size);
    Places from, to;
    double sum = 0;
    for (int k = z; k < z + smoke_block; ++k) {
        for (int j = y; j < y + smoke_block; ++j) {
            find_places(trace, x, j, k, -1, from);
            find_places(trace, x, j, k, 1, to);
            const size_t first = trace.size.packed(x, j, k);
            for (int i = 0; i < smoke_block; ++i) {
                const size_t at = first + size_t(i);
                const float* source = floats_of(trace.cells, from.at[i]);
                const float* target = floats_of(trace.carried, to.at[i]);
                auto* out = reinterpret_cast<float*>(trace.out + at);
                for (int part = 0; part < fields; part += lanes) {
                    real low = load_any(source + part), high = low;
                    for (int corner = 1; corner < 8; ++corner) {
                        const real value = load_any(source + corners.offsets[corner] + part);
                        low = min(low, value);
                        high = max(high, value);
                    }
                    store_any(out + part, put_right(load_any(floats_of(trace.carried, at) + part),
                                                    load_any(floats_of(trace.cells, at) + part),
                                                    mixed(target, to, i, corners, part), low, high));
                }
                sum += double(trace.out[at].density);
            }
        }
    }
    return sum;
}

template <class Visit>
KERNEL void each_in_row(const SmokeSize& size, int y, int z, Visit visit, int more = 0) {
    const size_t first = size.at(0, y, z);
    for (int i = 0; i < size.x + more; i += lanes) {
        visit(first + size_t(i));
    }
}
constexpr int and_last_face = 1;

KERNEL rvec3 load_at(const SmokePlanes& planes, size_t at) {
    return {load_any(planes.x + at), load_any(planes.y + at), load_any(planes.z + at)};
}
KERNEL void store_at(const SmokePlanes& planes, size_t at, const rvec3& value) {
    store_any(planes.x + at, value.x);
    store_any(planes.y + at, value.y);
    store_any(planes.z + at, value.z);
}

void middles(const SmokeSize& size, const SmokePlanes& faces, const SmokePlanes& out, int y, int z) {
    const size_t row = size.stride(), slice = size.slice();
    each_in_row(size, y, z, [&](size_t at) {
        const rvec3 below = load_at(faces, at);
        const rvec3 above = {load_any(faces.x + at + 1), load_any(faces.y + at + row),
                             load_any(faces.z + at + slice)};
        store_at(out, at, (below + above) * real(0.5f));
    });
}

void swirl(const SmokeSize& size, const SmokePlanes& velocity, const SmokePlanes& out, float* strength, int y,
           int z) {
    const size_t row = size.stride(), slice = size.slice();
    const real per_two_cells = real(0.5f / size.cell);
    each_in_row(size, y, z, [&](size_t at) {
        const rvec3 curl =
            swirl_of(load_at(velocity, at + 1) - load_at(velocity, at - 1),
                     load_at(velocity, at + row) - load_at(velocity, at - row),
                     load_at(velocity, at + slice) - load_at(velocity, at - slice), per_two_cells);
        store_at(out, at, curl);
        store_any(strength + at, sqrt(dot(curl, curl)));
    });
}

void confine(const SmokeSize& size, const SmokePlanes& swirl_planes, const float* strength, float amount,
             const SmokePlanes& out, int y, int z) {
    const size_t row = size.stride(), slice = size.slice();
    const auto slope = [&](size_t at, size_t step) {
        return load_any(strength + at + step) - load_any(strength + at - step);
    };
    each_in_row(size, y, z, [&](size_t at) {
        const rvec3 push = confinement(rvec3(slope(at, 1), slope(at, row), slope(at, slice)),
                                       load_at(swirl_planes, at), real(amount * size.cell));
        store_at(out, at, load_at(out, at) + push);
    });
}

void stir(const SmokeSize& size, const ForceRow& row, float amount, const SmokePlanes& out, int y, int z) {
    const Vec3 first = size.middle(0, y, z);
    const size_t start = size.at(0, y, z);
    each_in_row(size, y, z, [&](size_t at) {
        const real x = (lane_index() + real(float(at - start))) * real(size.cell) + real(first.x);
        const rvec3 place = {x, real(first.y), real(first.z)};
        store_at(out, at, load_at(out, at) + turbulence(place, row) * real(amount));
    });
}

void to_faces(const SmokeSize& size, const SmokePlanes& before, const SmokePlanes& won, float settle,
              const SmokePlanes& faces, int y, int z) {
    const auto along = [&](const float* was, const float* more, float* face, size_t step, size_t at) {
        const real mean_won = (load_any(more + at) + load_any(more + at - step)) * real(0.5f);
        const real mean_was = (load_any(was + at) + load_any(was + at - step)) * real(0.5f);
        const real own = load_any(face + at);
        store_any(face + at, own + mean_won + (mean_was - own) * real(settle));
    };
    each_in_row(
        size, y, z,
        [&](size_t at) {
            along(before.x, won.x, faces.x, 1, at);
            along(before.y, won.y, faces.y, size.stride(), at);
            along(before.z, won.z, faces.z, size.slice(), at);
        },
        and_last_face);
}

void outflow(const SmokeSize& size, const SmokePlanes& faces, float* out, int y, int z) {
    const size_t row = size.stride(), slice = size.slice();
    each_in_row(size, y, z, [&](size_t at) {
        store_any(out + at, load_any(faces.x + at + 1) - load_any(faces.x + at) +
                                load_any(faces.y + at + row) - load_any(faces.y + at) +
                                load_any(faces.z + at + slice) - load_any(faces.z + at));
    });
}

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

void relax(const PressureGrid& grid, const float* outflow_of, float* pressure, int colour, int y, int z) {
    // Cells of one colour have only neighbours of the other: it does not matter which of them comes first.
    const bool starts_even = ((y + z + colour) & 1) == 0;
    alignas(64) static constexpr float even[17] = {1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1, 0, 1};
    if constexpr (lanes == 1) {
        const size_t first = grid.size.at(0, y, z);
        for (int i = starts_even ? 0 : 1; i < grid.size.x; i += 2) {
            const size_t at = first + size_t(i);
            const Around a = around(grid, pressure, at);
            store_any(pressure + at, balanced(a.below, a.above, a.open_below, a.open_above,
                                              load_any(outflow_of + at), load_any(grid.per_open + at)));
        }
        return;
    }
    const kmask is_own = load_any(even + (starts_even ? 0 : 1)) > real(0.5f);
    if (grid.is_clear(y, z)) {
        return each_in_row(grid.size, y, z, [&](size_t at) {
            const rvec3 sums = sums_around(grid, pressure, at);
            const real value = (sums.x + sums.y + sums.z - load_any(outflow_of + at)) * real(1.0f / 6);
            store_any(pressure + at, sel(is_own, value, load_any(pressure + at)));
        });
    }
    each_in_row(grid.size, y, z, [&](size_t at) {
        const Around a = around(grid, pressure, at);
        const real value = balanced(a.below, a.above, a.open_below, a.open_above, load_any(outflow_of + at),
                                    load_any(grid.per_open + at));
        store_any(pressure + at, sel(is_own, value, load_any(pressure + at)));
    });
}

void remains(const PressureGrid& grid, const float* outflow_of, const float* pressure, float* out, int y,
             int z) {
    if (grid.is_clear(y, z)) {
        return each_in_row(grid.size, y, z, [&](size_t at) {
            const rvec3 sums = sums_around(grid, pressure, at);
            store_any(out + at, load_any(outflow_of + at) - (sums.x + sums.y + sums.z) +
                                    load_any(pressure + at) * real(6.0f));
        });
    }
    each_in_row(grid.size, y, z, [&](size_t at) {
        const Around a = around(grid, pressure, at);
        const real left = left_outflow(load_any(pressure + at), a.below, a.above, a.open_below, a.open_above,
                                       load_any(outflow_of + at));
        store_any(out + at, sel(load_any(grid.per_open + at) > real(0.0f), left, real(0.0f)));
    });
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
    if (grid.is_clear(y, z)) {
        return summed(grid.size, y, z, [&](size_t at) {
            const rvec3 sums = sums_around(grid, pressure, at);
            const real own = load_any(pressure + at);
            const real value = sums.x + sums.y + sums.z - own * real(6.0f);
            store_any(out + at, value);
            return value * own;
        });
    }
    return summed(grid.size, y, z, [&](size_t at) {
        const Around a = around(grid, pressure, at);
        const real own = load_any(pressure + at);
        const real value =
            real(0.0f) - left_outflow(own, a.below, a.above, a.open_below, a.open_above, real(0.0f));
        const real kept = sel(load_any(grid.per_open + at) > real(0.0f), value, real(0.0f));
        store_any(out + at, kept);
        return kept * own;
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
    each_in_row(
        grid.size, y, z,
        [&](size_t at) {
            along(grid.open_x, faces.x, 1, at);
            along(grid.open_y, faces.y, grid.size.stride(), at);
            along(grid.open_z, faces.z, grid.size.slice(), at);
        },
        and_last_face);
}

double stretch(const SmokeSize& size, const SmokePlanes& faces, int y, int z) {
    const size_t row = size.stride(), slice = size.slice();
    return summed(size, y, z, [&](size_t at) {
        return abs(load_any(faces.x + at + 1) - load_any(faces.x + at)) +
               abs(load_any(faces.y + at + row) - load_any(faces.y + at)) +
               abs(load_any(faces.z + at + slice) - load_any(faces.z + at));
    });
}

} // namespace

extern const SmokeKernels smoke_kernel_set;
const SmokeKernels smoke_kernel_set = {
    .carry = carry,
    .correct = correct,
    .middles = middles,
    .swirl = swirl,
    .confine = confine,
    .stir = stir,
    .to_faces = to_faces,
    .outflow = outflow,
    .relax = relax,
    .remains = remains,
    .balances = balances,
    .product = product,
    .blend = blend,
    .press = press,
    .stretch = stretch,
};

} // namespace ember::EMBER_ISA
