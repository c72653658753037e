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

// The places that a row of a block's cells come from, or go to: the lowest of the eight cells round each,
// counted in floats, the weights of the four pairs of cells, and of each pair the share of its farther one.
struct Places {
    alignas(64) uint32_t at[smoke_block];
    alignas(64) float pairs[4][smoke_block];
    alignas(64) float farther[smoke_block];
};

// `times`: of the way that the flow takes them. What lies outside is taken from the rim.
template <bool weighs>
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
        if (weighs) {
            const real near_y = one - fy, near_z = one - fz;
            store_any(places.pairs[0] + i, near_y * near_z);
            store_any(places.pairs[1] + i, fy * near_z);
            store_any(places.pairs[2] + i, near_y * fz);
            store_any(places.pairs[3] + i, fy * fz);
            store_any(places.farther + i, fx);
        }
        const kuint rows = to_kuint(lower_z) * kuint(uint32_t(size.y + 2)) + to_kuint(lower_y);
        store_uint(places.at + i,
                   (rows * kuint(uint32_t(size.packed_row())) + to_kuint(lower_x)) * kuint(uint32_t(fields)));
    }
}

// Where the four pairs of cells round a place are, in floats from the lowest.
struct Pairs {
    size_t from[4];

    explicit Pairs(const SmokeSize& size)
        : from{0, fields * size.packed_row(), fields * size.packed_slice(),
               fields * (size.packed_row() + size.packed_slice())} {}
};

KERNEL real mixed(const float* lowest, const Places& places, int cell, const Pairs& pairs, int part) {
    real near = real(0.0f), far = real(0.0f);
    for (int i = 0; i < 4; ++i) {
        const float* pair = lowest + pairs.from[i];
        const real weight = real(places.pairs[i][cell]);
        near = near + load_any(pair + part) * weight;
        far = far + load_any(pair + fields + part) * weight;
    }
    return near + (far - near) * real(places.farther[cell]);
}

KERNEL const float* floats_of(const SmokeCell* cells) {
    return reinterpret_cast<const float*>(cells);
}

// Row by row, so that memory is read in long ways.
template <class Visit>
KERNEL void each_eight(const SmokeRun& run, Visit visit) {
    for (int k = run.z; k < run.z + smoke_block; ++k) {
        for (int j = run.y; j < run.y + smoke_block; ++j) {
            for (int x = run.x; x < run.end; x += smoke_block) {
                visit(x, j, k);
            }
        }
    }
}

// Rows are too short for the processor to see what comes next: the eight cells two rows on, and those that
// the next row writes, are asked for beforehand.
KERNEL void ask_for(const SmokeCell* cells, size_t at) {
    constexpr size_t cells_a_line = 64 / sizeof(SmokeCell);
    for (size_t i = 0; i < smoke_block; i += cells_a_line) {
        __builtin_prefetch(cells + at + i);
    }
}

// Of a cell that lies in registers.
KERNEL double density_of(const real (&cell)[fields / lanes]) {
    float parts[fields];
    for (int i = 0; i < fields / lanes; ++i) {
        store_any(parts + i * lanes, cell[i]);
    }
    return double(parts[offsetof(SmokeCell, density) / sizeof(float)]);
}

double carry(const SmokeTrace& trace, const SmokeRun& run) {
    const Pairs pairs(trace.size);
    const SmokeCell* const cells = trace.cells;
    const size_t ahead = trace.size.packed_slice() + 2 * trace.size.packed_row();
    Places from;
    double sum = 0;
    each_eight(run, [&](int x, int j, int k) {
        find_places<true>(trace, x, j, k, -1, from);
        const size_t first = trace.size.packed(x, j, k);
        ask_for(cells, first + ahead);
        ask_for(trace.out, first + trace.size.packed_row());
        auto* const out = reinterpret_cast<float*>(trace.out + first);
        for (int i = 0; i < smoke_block; ++i) {
            const float* lowest = floats_of(cells) + from.at[i];
            for (int part = 0; part < fields; part += lanes) {
                store_any(out + i * fields + part, mixed(lowest, from, i, pairs, part));
            }
        }
        for (int i = 0; i < smoke_block; ++i) {
            sum += double(cells[first + size_t(i)].density);
        }
    });
    return sum;
}

double correct(const SmokeTrace& trace, const SmokeRun& run) {
    const Pairs pairs(trace.size);
    const SmokeCell* const cells = trace.cells;
    const SmokeCell* const carried = trace.carried;
    const size_t ahead = trace.size.packed_slice() + 2 * trace.size.packed_row();
    Places from, to;
    double sum = 0;
    each_eight(run, [&](int x, int j, int k) {
        real sums[fields / lanes] = {};
        find_places<false>(trace, x, j, k, -1, from);
        find_places<true>(trace, x, j, k, 1, to);
        const size_t first = trace.size.packed(x, j, k);
        ask_for(cells, first + ahead);
        ask_for(carried, first + ahead);
        ask_for(trace.out, first + trace.size.packed_row());
        SmokeCell* const row = trace.out + first;
        for (int i = 0; i < smoke_block; ++i) {
            const float* source = floats_of(cells) + from.at[i];
            const float* target = floats_of(carried) + to.at[i];
            const float* own = floats_of(cells + first + i);
            const float* own_carried = floats_of(carried + first + i);
            auto* out = reinterpret_cast<float*>(row + i);
            for (int part = 0; part < fields; part += lanes) {
                real low[4], high[4];
                for (int pair = 0; pair < 4; ++pair) {
                    const float* cell = source + pairs.from[pair] + part;
                    const real near = load_any(cell), far = load_any(cell + fields);
                    low[pair] = min(near, far);
                    high[pair] = max(near, far);
                }
                const real now = put_right(load_any(own_carried + part), load_any(own + part),
                                           mixed(target, to, i, pairs, part),
                                           min(min(low[0], low[1]), min(low[2], low[3])),
                                           max(max(high[0], high[1]), max(high[2], high[3])));
                store_any(out + part, now);
                sums[part / lanes] = sums[part / lanes] + now;
            }
        }
        sum += density_of(sums);
    });
    return sum;
}

#include "core/smoke/kernel_rows.h"

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

// What is no number is nothing, what is too much is held.
KERNEL real held(real value, float most) {
    const real number = sel(abs(value) < real(3e38f), value, real(0.0f));
    return min(max(number, real(-most)), real(most));
}

// K. Each step carries a share of a share of heat one cell on: without an end, what is left falls below what
// processors can reckon with at full speed.
constexpr float least_warmth = 1e-6f;

double act(const SmokeChange& change, const SmokeRun& run, char* holds) {
    const SmokeSize& size = change.size;
    constexpr int velocities = 3;
    const float* const pushes[velocities] = {change.push.x, change.push.y, change.push.z};
    const float* const before[velocities] = {change.before.x, change.before.y, change.before.z};
    float* const won[velocities] = {change.won.x, change.won.y, change.won.z};
    const float pull[velocities] = {change.even.pull.x, change.even.pull.y, change.even.pull.z};
    const float flow[velocities] = {change.even.flow.x, change.even.flow.y, change.even.flow.z};
    const real each_cell = lane_index() * real(float(fields));
    alignas(64) float density[smoke_block], heat[smoke_block];
    double lost = 0;
    each_eight(run, [&](int x, int y, int z) {
        SmokeCell* cells = change.cells + size.packed(x, y, z);
        const size_t first = size.at(x, y, z);
        bool is_held = false, is_thin = false;
        for (int i = 0; i < smoke_block; i += lanes) {
            const SmokeCell& own = cells[i];
            const real was_dense = fetch(&own.density, each_cell);
            const real dense = max(held(was_dense * real(change.keep), change.most_density), real(0.0f));
            const real pulled = min(max(was_dense, real(0.0f)), real(change.most_pulled));
            const real warm = held(fetch(&own.heat, each_cell) * real(change.cool), change.most_heat);
            const real hot = sel(abs(warm) > real(least_warmth), warm, real(0.0f));
            const real rise = hot * real(change.lift) - dense * real(change.weight);
            // Clear air is let be: nobody would see it swirl.
            const real seen = min(dense * real(25.0f) + abs(hot) * real(0.2f), real(1.0f));
            for (int axis = 0; axis < velocities; ++axis) {
                const size_t at = first + size_t(i);
                const real push = load_any(pushes[axis] + at) * seen + (axis == 1 ? rise : real(0.0f));
                const real carried = fetch(&own.velocity[axis], each_cell);
                const real blown =
                    (carried + pulled * real(pull[axis])) * real(change.even.keep) + real(flow[axis]);
                const real now = (blown + push * real(change.step_s)) * real(change.settle);
                store_any(won[axis] + at, held(now, change.fastest) - load_any(before[axis] + at));
            }
            store_any(density + i, dense);
            store_any(heat + i, hot);
            const real least = real(change.least_density);
            is_thin = is_thin || any_lane(both(dense > real(0.0f), dense < least));
            is_held = is_held || any_lane(either(dense >= least, abs(hot) > real(change.least_heat)));
        }
        // What is too thin stays only in solid cells.
        for (int i = 0; i < smoke_block && is_thin; ++i) {
            const bool is_solid = change.solid[first + size_t(i)] != 0;
            if (density[i] < change.least_density && !is_solid) {
                lost += double(density[i]);
                density[i] = 0;
            }
            is_held = is_held || density[i] > 0;
        }
        for (int i = 0; i < smoke_block; ++i) {
            cells[i].density = density[i];
            cells[i].heat = heat[i];
        }
        char& block = holds[(x - run.x) / smoke_block];
        block = is_held ? 1 : block;
    });
    return lost;
}

void spread(const SmokeSize& size, const float* const (&rows)[4], const float (&weights)[4], float* out,
            int y, int z) {
    const size_t first = size.at(0, y, z);
    each_in_row(size, y, z, [&](size_t at) {
        real sum = load_any(rows[0] + (at - first)) * real(weights[0]);
        for (int i = 1; i < 4; ++i) {
            sum = sum + load_any(rows[i] + (at - first)) * real(weights[i]);
        }
        store_any(out + at, sum);
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

// Where the middle of a cell of a block lies between points, and how far beyond the first of them.
template <int side>
struct Between {
    static constexpr int spacing = smoke_block / (side - 1);
    static constexpr int low(int cell) { return cell / spacing; }
    static constexpr float share(int cell) { return (float(cell % spacing) + 0.5f) / float(spacing); }
};

template <int side>
void add_between_points(const float* points, float* cells) {
    using At = Between<side>;
    for (int k = 0; k < smoke_block; ++k) {
        float slice[side * side];
        const float* below = points + At::low(k) * side * side;
        for (int i = 0; i < side * side; ++i) {
            slice[i] = below[i] + (below[i + side * side] - below[i]) * At::share(k);
        }
        for (int j = 0; j < smoke_block; ++j) {
            float row[side], before[smoke_block], more[smoke_block];
            const float* near = slice + At::low(j) * side;
            for (int i = 0; i < side; ++i) {
                row[i] = near[i] + (near[i + side] - near[i]) * At::share(j);
            }
            for (int i = 0; i < smoke_block; ++i) {
                before[i] = row[At::low(i)];
                more[i] = (row[At::low(i) + 1] - row[At::low(i)]) * At::share(i);
            }
            for (int i = 0; i < smoke_block; ++i) {
                cells[i] += before[i] + more[i];
            }
            cells += smoke_block;
        }
    }
}

void add_between(const float* points, int side, float* cells) {
    switch (side) {
    case 2:
        return add_between_points<2>(points, cells);
    case 3:
        return add_between_points<3>(points, cells);
    case 5:
        return add_between_points<5>(points, cells);
    default:
        return;
    }
}

} // namespace

extern const PressureKernels pressure_kernel_set;
extern const BlockKernels kernel_set;
extern const SmokeKernels smoke_kernel_set;
const SmokeKernels smoke_kernel_set = {
    .carry = carry,
    .correct = correct,
    .middles = middles,
    .swirl = swirl,
    .confine = confine,
    .stir = stir,
    .spread = spread,
    .act = act,
    .to_faces = to_faces,
    .add_between = add_between,
    .pressure = &pressure_kernel_set,
    .blocks = &kernel_set,
};

} // namespace ember::EMBER_ISA
