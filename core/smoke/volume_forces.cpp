// What stirs a volume: eddies that are kept alive, on its own grid and on one of wider cells, and curl noise.
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

#include <cmath>
#include <numbers>
#include <utility>

namespace ember {

namespace {

// To the end of what the kernels' registers reach over.
void clear_row(const SmokeSize& size, FloatCells (&planes)[3], int y, int z) {
    for (FloatCells& plane : planes) {
        std::fill_n(plane.begin() + std::ptrdiff_t(size.at(0, y, z)), size.stride() - 8, 0.0f);
    }
}

ForceRow stirring(const Smoke& smoke, uint32_t seed, double time_s) {
    ForceRow row{};
    row.seed = seed;
    row.frequency = 1 / smoke.curl_size;
    row.octaves = 1;
    row.roughness = 0.5f;
    const double phase = double(smoke.curl_pace) * time_s;
    const double slice = std::floor(phase), between = phase - slice;
    const double eased = between * between * (3 - 2 * between);
    row.slice = uint32_t(int64_t(slice));
    row.now_share = float(std::cos(eased * std::numbers::pi / 2));
    row.next_share = smoke.curl_pace > 0 ? float(std::sin(eased * std::numbers::pi / 2)) : 0.0f;
    return row;
}

// The broad cell before the middle of a fine one, and how far that is from its middle to the next one's.
std::pair<int, float> between_broad(int fine) {
    const float at = (float(fine) + 0.5f) / broad_cells - 0.5f;
    const float low = std::floor(at);
    return {int(low), at - low};
}

} // namespace

// What keeps eddies alive, and stirring, as accelerations: on the grid itself, and on one of wider cells for
// what is large.
void SmokeVolume::add_forces(const SmokeInfluences& influences) {
    const bool has_broad = smoke_.broad_swirl > 0 || smoke_.curl > 0;
    if (has_broad) {
        find_broad_push(influences);
    }
    const auto begin = [&](int y, int z) {
        if (has_broad) {
            spread_broad(y, z);
        } else {
            clear_row(size_, push_, y, z);
        }
    };
    add_swirls(size_, smoke_.fine_swirl, flow_, won_, strength_, push_, begin);
}

// Adds to `out` what keeps swirls of this size of cells alive; `begin(y, z)` makes the row that it is added
// to.
template <class Begin>
void SmokeVolume::add_swirls(const SmokeSize& size, float amount, FloatCells (&velocity)[3],
                             FloatCells (&swirl)[3], FloatCells& strength, FloatCells (&out)[3],
                             const Begin& begin) {
    if (amount <= 0) {
        return each_row(size, begin);
    }
    // A swirl of 1/s pushes by its strength times a cell's side, in a second; amounts are per cell of 10 cm.
    const float per_cell = amount * 0.6f / size.cell;
    const SliceStage find = by_rows(size, [&](int y, int z) {
        kernels_->swirl(size, planes(velocity), planes(swirl), strength.data(), y, z);
    });
    const SliceStage confine = by_rows(size, [&](int y, int z) {
        begin(y, z);
        kernels_->confine(size, planes(swirl), strength.data(), per_cell, planes(out), y, z);
    });
    run_stages(size, {find, [&](int z) { copy_to_rim(size, strength, z); }, confine});
}

// The push of what is large, along rows as long as the grid's own.
void SmokeVolume::find_broad_push(const SmokeInfluences& influences) {
    if (smoke_.broad_swirl > 0) {
        each_slice(size_.cells(), broad_.z, [&](int z) { find_broad(z); });
    }
    add_swirls(broad_, smoke_.broad_swirl, broad_middles_, broad_swirl_, broad_strength_, broad_push_,
               [&](int y, int z) { clear_row(broad_, broad_push_, y, z); });
    if (smoke_.curl > 0) {
        const ForceRow row = stirring(smoke_, influences.seed, influences.time_s);
        each_row(broad_,
                 [&](int y, int z) { kernels_->stir(broad_, row, smoke_.curl, planes(broad_push_), y, z); });
    }
    each_slice(broad_.cells(), broad_.z, [&](int z) {
        for (FloatCells& plane : broad_push_) {
            copy_to_rim(broad_, plane, z);
        }
    });
    // Between the middles of the wide cells: first along their rows, then between these.
    std::vector<std::pair<int, float>> along(size_t(size_.x));
    for (int x = 0; x < size_.x; ++x) {
        along[size_t(x)] = between_broad(x);
    }
    each_slice(size_.cells(), broad_.z + 2, [&](int slice) {
        for (int y = -1; y <= broad_.y; ++y) {
            for (int axis = 0; axis < 3; ++axis) {
                const float* row = broad_push_[axis].data() + broad_.at(0, y, slice - 1);
                float* wide = wide_push_[axis].data() + wide_row(y, slice - 1);
                for (int x = 0; x < size_.x; ++x) {
                    const auto [low, share] = along[size_t(x)];
                    wide[x] = row[low] + (row[low + 1] - row[low]) * share;
                }
            }
        }
    });
}

// A slice of the velocities of wide cells: means of the fine ones in them.
void SmokeVolume::find_broad(int z) {
    for (int axis = 0; axis < 3; ++axis) {
        for (int y = 0; y < broad_.y; ++y) {
            for (int x = 0; x < broad_.x; ++x) {
                float sums[broad_cells] = {};
                for (int k = 0; k < broad_cells; ++k) {
                    for (int j = 0; j < broad_cells; ++j) {
                        const float* row = flow_[axis].data() + size_.at(x * broad_cells, y * broad_cells + j,
                                                                         z * broad_cells + k);
                        for (int i = 0; i < broad_cells; ++i) {
                            sums[i] += row[i];
                        }
                    }
                }
                broad_middles_[axis][broad_.at(x, y, z)] =
                    (sums[0] + sums[1] + sums[2] + sums[3]) * (1.0f / 64);
            }
        }
        copy_to_rim(broad_, broad_middles_[axis], z);
    }
}

// Where a row of the broad grid is that is as long as the fine one's.
size_t SmokeVolume::wide_row(int y, int z) const {
    return (size_t(z + 1) * size_t(broad_.y + 2) + size_t(y + 1)) * size_.stride();
}

void SmokeVolume::spread_broad(int y, int z) {
    const auto [j, fy] = between_broad(y);
    const auto [k, fz] = between_broad(z);
    const float weights[4] = {(1 - fy) * (1 - fz), fy * (1 - fz), (1 - fy) * fz, fy * fz};
    for (int axis = 0; axis < 3; ++axis) {
        const float* wide = wide_push_[axis].data();
        const float* const rows[4] = {wide + wide_row(j, k), wide + wide_row(j + 1, k),
                                      wide + wide_row(j, k + 1), wide + wide_row(j + 1, k + 1)};
        kernels_->spread(size_, rows, weights, push_[axis].data(), y, z);
    }
}

} // namespace ember
