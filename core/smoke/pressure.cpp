#include "core/smoke/pressure.h"

#include "core/smoke/rows.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int coarsest_side = 4;

SmokeSize half_of(const SmokeSize& size) {
    return {(size.x + 1) / 2, (size.y + 1) / 2, (size.z + 1) / 2, size.cell * 2, size.low};
}

// One over the sum of each cell's open faces.
FloatCells per_open(const SmokeSize& size, const FloatCells (&open)[3]) {
    FloatCells result(size.plane_size(), 0.0f);
    each_row(size, [&](int y, int z) {
        for (int i = 0; i < size.x; ++i) {
            const size_t at = size.at(i, y, z);
            const float sum = open[0][at] + open[0][at + 1] + open[1][at] + open[1][at + size.stride()] +
                              open[2][at] + open[2][at + size.slice()];
            result[at] = sum > 1e-3f ? 1 / sum : 0.0f;
        }
    });
    return result;
}

// Beyond open sides there is no pressure, in the middle of the finest cells there, on coarser grids too: by how
// much a side of a grid is nearer to that than to the middle of its own cells beyond.
float nearer(size_t level) {
    const auto cells = float(1 << level);
    return 2 * cells / (cells + 1);
}

// A coarse face is as open as the four fine ones in it are in the mean. `by`: of those at the sides.
FloatCells coarser(const SmokeSize& fine, const SmokeSize& coarse, const FloatCells& open, int axis,
                   float by) {
    FloatCells result(coarse.plane_size(), 0.0f);
    const int counts[3] = {fine.x, fine.y, fine.z};
    each_row(
        coarse,
        [&](int y, int z) {
            for (int x = 0; x <= coarse.x; ++x) {
                const int lower[3] = {x * 2, y * 2, z * 2};
                float sum = 0;
                for (int corner = 0; corner < 4; ++corner) {
                    int at[3];
                    at[axis] = std::min(lower[axis], counts[axis]);
                    const int one = (axis + 1) % 3, two = (axis + 2) % 3;
                    at[one] = lower[one] + (corner & 1);
                    at[two] = lower[two] + (corner >> 1);
                    if (at[one] < counts[one] && at[two] < counts[two]) {
                        sum += open[fine.at(at[0], at[1], at[2])];
                    }
                }
                const int place = axis == 0 ? x : axis == 1 ? y : z;
                const int last = axis == 0 ? coarse.x : axis == 1 ? coarse.y : coarse.z;
                result[coarse.at(x, y, z)] = sum * 0.25f * (place == 0 || place == last ? by : 1.0f);
            }
        },
        1);
    return result;
}

} // namespace

void PressureSolver::set_open(const SmokeSize& size, const FloatCells (&open)[3]) {
    if (levels_.empty() || !(levels_.front().size == size)) {
        levels_.assign(1, {size, {}, {}, {}, {}, {}});
        while (std::max({levels_.back().size.x, levels_.back().size.y, levels_.back().size.z}) >
               coarsest_side) {
            levels_.push_back({half_of(levels_.back().size), {}, {}, {}, {}, {}});
        }
        for (Level& level : levels_) {
            for (FloatCells* plane : {&level.pressure, &level.outflow, &level.left}) {
                plane->assign(level.size.plane_size(), 0.0f);
            }
        }
        for (FloatCells* plane : {&remains_, &way_, &of_way_, &made_}) {
            plane->assign(size.plane_size(), 0.0f);
        }
    }
    for (size_t i = 0; i < levels_.size(); ++i) {
        Level& level = levels_[i];
        for (int axis = 0; axis < 3; ++axis) {
            level.open[axis] =
                i == 0 ? open[axis]
                       : coarser(levels_[i - 1].size, level.size, levels_[i - 1].open[axis], axis,
                                 nearer(i) / nearer(i - 1));
        }
        level.per_open = per_open(level.size, level.open);
    }
    open_cells_ = 0;
    bool opens[3][2] = {};
    const Level& finest = levels_.front();
    for (int z = 0; z < size.z; ++z) {
        for (int y = 0; y < size.y; ++y) {
            for (int x = 0; x < size.x; ++x) {
                open_cells_ += finest.per_open[size.at(x, y, z)] > 0 ? 1 : 0;
                const int place[3] = {x, y, z}, last[3] = {size.x - 1, size.y - 1, size.z - 1};
                const size_t steps[3] = {1, size.stride(), size.slice()};
                for (int axis = 0; axis < 3; ++axis) {
                    const size_t at = size.at(x, y, z);
                    opens[axis][0] = opens[axis][0] || (place[axis] == 0 && open[axis][at] > 0);
                    opens[axis][1] =
                        opens[axis][1] || (place[axis] == last[axis] && open[axis][at + steps[axis]] > 0);
                }
            }
        }
    }
    is_closed_ = true;
    for (int axis = 0; axis < 3; ++axis) {
        for (int end = 0; end < 2; ++end) {
            is_closed_ = is_closed_ && !opens[axis][end];
            for (size_t i = 0; i < levels_.size(); ++i) {
                levels_[i].beyond[axis][end] = opens[axis][end] ? 1 - nearer(i) : 1.0f;
            }
        }
    }
}

void PressureSolver::relax(Level& level, bool is_reversed) {
    const PressureGrid grid = level.grid();
    for (const int colour : {is_reversed ? 1 : 0, is_reversed ? 0 : 1}) {
        each_row(level.size, [&](int y, int z) {
            kernels_->relax(grid, level.outflow.data(), level.pressure.data(), colour, y, z);
        });
    }
}

// Coarse cells take half the sum of what their eight fine ones have left: four times the mean, since their
// faces are twice as far apart.
void PressureSolver::restrict_to(Level& coarse, const Level& fine) {
    each_row(coarse.size, [&](int y, int z) {
        const float* rows[4];
        for (int i = 0; i < 4; ++i) {
            // Beyond an odd side lies the rim, where nothing is left.
            rows[i] = fine.left.data() + fine.size.at(0, 2 * y + (i & 1), 2 * z + (i >> 1));
        }
        float* out = coarse.outflow.data() + coarse.size.at(0, y, z);
        for (int x = 0; x < coarse.size.x; ++x) {
            float sum = 0;
            for (const float* row : rows) {
                sum += row[2 * x] + row[2 * x + 1];
            }
            out[x] = 0.5f * sum;
        }
    });
}

// Fine cells lie a quarter of a coarse one off its middle: three quarters are its own, one the neighbour's.
// Beyond closed sides the pressure goes on, beyond open ones it falls below zero.
void PressureSolver::prolong_to(Level& fine, const Level& coarse) {
    each_slice(fine.size.cells(), fine.size.z, [&](int z) {
        std::vector<float> mean(size_t(coarse.size.x) + 2);
        struct Beside {
            int at;
            float share;
        };
        const auto beside = [&](int place, int count, int axis) {
            const int at = place / 2 + (place & 1) * 2 - 1;
            return at < 0        ? Beside{0, 0.25f * coarse.beyond[axis][0]}
                   : at >= count ? Beside{count - 1, 0.25f * coarse.beyond[axis][1]}
                                 : Beside{at, 0.25f};
        };
        const Beside far_z = beside(z, coarse.size.z, 2);
        for (int y = 0; y < fine.size.y; ++y) {
            const Beside far_y = beside(y, coarse.size.y, 1);
            const auto row = [&](int j, int k) { return coarse.pressure.data() + coarse.size.at(0, j, k); };
            const float *a = row(y / 2, z / 2), *b = row(far_y.at, z / 2), *c = row(y / 2, far_z.at),
                        *d = row(far_y.at, far_z.at);
            for (int x = 0; x < coarse.size.x; ++x) {
                mean[size_t(x) + 1] = 0.75f * (0.75f * a[x] + far_y.share * b[x]) +
                                      far_z.share * (0.75f * c[x] + far_y.share * d[x]);
            }
            mean.front() = mean[1] * coarse.beyond[0][0];
            mean.back() = mean[size_t(coarse.size.x)] * coarse.beyond[0][1];
            const float* own = mean.data() + 1;
            float* out = fine.pressure.data() + fine.size.at(0, y, z);
            const float* per_open = fine.per_open.data() + fine.size.at(0, y, z);
            for (int x = 0; x < coarse.size.x; ++x) {
                const float lower = 0.75f * own[x] + 0.25f * own[x - 1];
                const float upper = 0.75f * own[x] + 0.25f * own[x + 1];
                out[2 * x] += per_open[2 * x] > 0 ? lower : 0.0f;
                out[2 * x + 1] += per_open[2 * x + 1] > 0 ? upper : 0.0f;
            }
        }
    });
}

// Pressures that about balance the outflow of the level, from none.
void PressureSolver::cycle(size_t index) {
    Level& level = levels_[index];
    std::fill(level.pressure.begin(), level.pressure.end(), 0.0f);
    if (index + 1 == levels_.size()) {
        for (int i = 0; i < 8; ++i) {
            relax(level, false);
        }
        for (int i = 0; i < 8; ++i) {
            relax(level, true);
        }
        return;
    }
    relax(level, false);
    const PressureGrid grid = level.grid();
    each_row(level.size, [&](int y, int z) {
        kernels_->remains(grid, level.outflow.data(), level.pressure.data(), level.left.data(), y, z);
    });
    restrict_to(levels_[index + 1], level);
    cycle(index + 1);
    prolong_to(level, levels_[index + 1]);
    relax(level, true);
}

PressureSolver::Result PressureSolver::project(const SmokePlanes& faces, double tolerance, int most_rounds) {
    Level& finest = levels_.front();
    const SmokeSize& size = finest.size;
    const PressureGrid grid = finest.grid();
    const auto cells = double(std::max<size_t>(open_cells_, 1));
    // The finest level serves the cycles; the pressure that is looked for is `made_`.
    each_row(size, [&](int y, int z) { kernels_->outflow(size, faces, of_way_.data(), y, z); });
    if (is_closed_) {
        // What is nobody's pressure to balance: rounding, and solids that shut cells in.
        double sum = sum_rows(size, [&](int y, int z) {
            double part = 0;
            for (int x = 0; x < size.x; ++x) {
                const size_t at = size.at(x, y, z);
                part += finest.per_open[at] > 0 ? double(of_way_[at]) : 0;
            }
            return part;
        });
        const auto mean = float(sum / cells);
        each_row(size, [&](int y, int z) {
            for (int x = 0; x < size.x; ++x) {
                of_way_[size.at(x, y, z)] -= mean;
            }
        });
    }
    each_row(size, [&](int y, int z) {
        kernels_->remains(grid, of_way_.data(), made_.data(), remains_.data(), y, z);
    });
    const double stretch =
        sum_rows(size, [&](int y, int z) { return kernels_->stretch(size, faces, y, z); }) / (3 * cells);
    const auto remaining = [&] {
        const double square = sum_rows(size, [&](int y, int z) {
            return kernels_->product(size, remains_.data(), remains_.data(), y, z);
        });
        return std::sqrt(square / cells) / std::max(stretch, 1e-9);
    };

    Result result;
    result.remains = remaining();
    double along = 0, product_before = 0; // of the round before
    while (result.remains > tolerance && result.rounds < most_rounds) {
        std::copy(remains_.begin(), remains_.end(), finest.outflow.begin());
        cycle(0);
        const double product = sum_rows(size, [&](int y, int z) {
            return kernels_->product(size, finest.pressure.data(), remains_.data(), y, z);
        });
        // The cycle is not quite symmetric: ways are kept apart as Polak and Ribiere do (flexible CG).
        double keep = 0;
        if (result.rounds > 0 && product_before != 0) {
            const double of_before = sum_rows(size, [&](int y, int z) {
                return kernels_->product(size, finest.pressure.data(), of_way_.data(), y, z);
            });
            keep = -along * of_before / product_before;
        }
        each_row(size, [&](int y, int z) {
            kernels_->blend(size, float(keep), way_.data(), 1, finest.pressure.data(), y, z);
        });
        const double steepness = sum_rows(
            size, [&](int y, int z) { return kernels_->balances(grid, way_.data(), of_way_.data(), y, z); });
        if (steepness == 0) {
            break;
        }
        along = product / steepness;
        product_before = product;
        each_row(size, [&](int y, int z) {
            kernels_->blend(size, 1, made_.data(), float(along), way_.data(), y, z);
            kernels_->blend(size, 1, remains_.data(), float(-along), of_way_.data(), y, z);
        });
        ++result.rounds;
        result.remains = remaining();
    }
    press_again(faces);
    return result;
}

void PressureSolver::press_again(const SmokePlanes& faces) const {
    const Level& finest = levels_.front();
    each_row(
        finest.size, [&](int y, int z) { kernels_->press(finest.grid(), made_.data(), faces, y, z); }, 1);
}

size_t PressureSolver::bytes() const {
    size_t floats = remains_.size() * 4;
    for (const Level& level : levels_) {
        floats += level.size.plane_size() * 7;
    }
    return floats * sizeof(float);
}

} // namespace ember
