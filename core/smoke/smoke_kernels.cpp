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

// A place between eight cells: the lowest of them, and the weight of each.
struct Between {
    const float* at;
    float weights[8];
};

struct Corners {
    size_t offsets[8];

    explicit Corners(const SmokeSize& size) {
        for (size_t i = 0; i < 8; ++i) {
            offsets[i] =
                fields * ((i & 1) + (i >> 1 & 1) * size.packed_row() + (i >> 2 & 1) * size.packed_slice());
        }
    }
};

// `x`, `y`, `z`: in cells, whole numbers in their middles. What lies outside is taken from the rim.
KERNEL Between between(const SmokeSize& size, const SmokeCell* cells, float x, float y, float z) {
    const auto split = [](float place, int count, float& share) {
        const float held = std::min(std::max(place, -1.0f), float(count) - 0.001f);
        const int lower = int(held + 1.0f) - 1;
        share = held - float(lower);
        return lower;
    };
    float fx, fy, fz;
    const int i = split(x, size.x, fx), j = split(y, size.y, fy), k = split(z, size.z, fz);
    Between place;
    place.at = reinterpret_cast<const float*>(cells + size.packed(i, j, k));
    const float near_y = 1 - fy, near_z = 1 - fz;
    const float rows[4] = {near_y * near_z, fy * near_z, near_y * fz, fy * fz};
    for (int row = 0; row < 4; ++row) {
        place.weights[2 * row] = (1 - fx) * rows[row];
        place.weights[2 * row + 1] = fx * rows[row];
    }
    return place;
}

KERNEL real mixed(const Between& place, const Corners& corners, int part) {
    real sum = load_any(place.at + corners.offsets[0] + part) * real(place.weights[0]);
    for (int i = 1; i < 8; ++i) {
        sum = sum + load_any(place.at + corners.offsets[i] + part) * real(place.weights[i]);
    }
    return sum;
}

// Visits the cells of a block with the way that the flow takes them, in cells.
template <class Visit>
void each_cell(const SmokeTrace& trace, int x, int y, int z, Visit visit) {
    for (int k = z; k < z + smoke_block; ++k) {
        for (int j = y; j < y + smoke_block; ++j) {
            for (int i = x; i < x + smoke_block; ++i) {
                const size_t at = trace.size.packed(i, j, k);
                const SmokeCell& own = trace.cells[at];
                const Vec3 way = Vec3{own.flow[0], own.flow[1], own.flow[2]} * trace.cells_per_speed;
                visit(at, Vec3{float(i), float(j), float(k)}, way);
            }
        }
    }
}

void carry(const SmokeTrace& trace, int x, int y, int z) {
    const Corners corners(trace.size);
    each_cell(trace, x, y, z, [&](size_t at, const Vec3& place, const Vec3& way) {
        const Vec3 from = place - way;
        const Between source = between(trace.size, trace.cells, from.x, from.y, from.z);
        auto* out = reinterpret_cast<float*>(trace.out + at);
        for (int part = 0; part < fields; part += lanes) {
            store_any(out + part, mixed(source, corners, part));
        }
    });
}

void correct(const SmokeTrace& trace, int x, int y, int z) {
    const Corners corners(trace.size);
    each_cell(trace, x, y, z, [&](size_t at, const Vec3& place, const Vec3& way) {
        const Vec3 from = place - way, to = place + way;
        const Between source = between(trace.size, trace.cells, from.x, from.y, from.z);
        const Between back = between(trace.size, trace.carried, to.x, to.y, to.z);
        const auto* own = reinterpret_cast<const float*>(trace.cells + at);
        const auto* carried = reinterpret_cast<const float*>(trace.carried + at);
        auto* out = reinterpret_cast<float*>(trace.out + at);
        for (int part = 0; part < fields; part += lanes) {
            real low = load_any(source.at + corners.offsets[0] + part), high = low;
            for (int i = 1; i < 8; ++i) {
                const real value = load_any(source.at + corners.offsets[i] + part);
                low = min(low, value);
                high = max(high, value);
            }
            store_any(out + part, put_right(load_any(carried + part), load_any(own + part),
                                            mixed(back, corners, part), low, high));
        }
    });
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
    each_in_row(grid.size, y, z, [&](size_t at) {
        const Around a = around(grid, pressure, at);
        const real value = balanced(a.below, a.above, a.open_below, a.open_above, load_any(outflow_of + at),
                                    load_any(grid.per_open + at));
        store_any(pressure + at, sel(is_own, value, load_any(pressure + at)));
    });
}

void remains(const PressureGrid& grid, const float* outflow_of, const float* pressure, float* out, int y,
             int z) {
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

void blend(const SmokeSize& size, float keep, float* a, float share, const float* b, int y, int z) {
    each_in_row(size, y, z, [&](size_t at) {
        store_any(a + at, load_any(a + at) * real(keep) + load_any(b + at) * real(share));
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
