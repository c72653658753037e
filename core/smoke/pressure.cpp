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

// Beyond open sides there is no pressure, in the middle of the finest cells there, on coarser grids too: by
// how much a side of a grid is nearer to that than to the middle of its own cells beyond.
float nearer(size_t level) {
    const auto cells = float(1 << level);
    return 2 * cells / (cells + 1);
}

// A coarse face is as open as the four fine ones in it are in the mean.
float mean_open(const SmokeSize& fine, const FloatCells& open, int axis, const int (&coarse)[3]) {
    const int counts[3] = {fine.x, fine.y, fine.z};
    const int one = (axis + 1) % 3, two = (axis + 2) % 3;
    int at[3];
    at[axis] = std::min(2 * coarse[axis], counts[axis]);
    float sum = 0;
    for (int corner = 0; corner < 4; ++corner) {
        at[one] = 2 * coarse[one] + (corner & 1);
        at[two] = 2 * coarse[two] + (corner >> 1);
        if (at[one] < counts[one] && at[two] < counts[two]) {
            sum += open[fine.at(at[0], at[1], at[2])];
        }
    }
    return sum * 0.25f;
}

// The coarse cells that cells of a box are in.
CellBox half_of(const CellBox& box) {
    CellBox half;
    for (int axis = 0; axis < 3; ++axis) {
        half.low[axis] = box.low[axis] / 2;
        half.high[axis] = (box.high[axis] + 1) / 2;
    }
    return half;
}

} // namespace

// What follows from open faces of cells in a box: on coarser levels the faces themselves, and what their
// cells and rows have of them.
void PressureSolver::open_up(size_t index, const CellBox& box) {
    Level& level = levels_[index];
    const SmokeSize& size = level.size;
    const int counts[3] = {size.x, size.y, size.z};
    const int deep = box.high[2] - box.low[2] + 1;
    const size_t work = size_t(deep) * size_t(box.high[1] - box.low[1]) * size_t(box.high[0] - box.low[0]);
    if (index > 0) {
        const Level& finer = levels_[index - 1];
        const float at_sides = nearer(index) / nearer(index - 1);
        each_slice(work, deep, [&](int part) {
            const int z = box.low[2] + part;
            for (int y = box.low[1]; y <= box.high[1]; ++y) {
                for (int x = box.low[0]; x <= box.high[0]; ++x) {
                    const int place[3] = {x, y, z};
                    for (int axis = 0; axis < 3; ++axis) {
                        const bool is_side = place[axis] == 0 || place[axis] == counts[axis];
                        level.open[axis][size.at(x, y, z)] =
                            mean_open(finer.size, finer.open[axis], axis, place) *
                            (is_side ? at_sides : 1.0f);
                    }
                }
            }
        });
    }
    each_slice(work, std::min(deep, size.z - box.low[2]), [&](int part) {
        const int z = box.low[2] + part;
        for (int y = box.low[1]; y < std::min(box.high[1] + 1, size.y); ++y) {
            for (int x = box.low[0]; x < std::min(box.high[0] + 1, size.x); ++x) {
                const size_t at = size.at(x, y, z);
                const float sum = level.open[0][at] + level.open[0][at + 1] + level.open[1][at] +
                                  level.open[1][at + size.stride()] + level.open[2][at] +
                                  level.open[2][at + size.slice()];
                level.per_open[at] = sum > 1e-3f ? 1 / sum : 0.0f;
            }
            const float* of_row = level.per_open.data() + size.at(0, y, z);
            const auto is_open = [](float per_open) { return std::fabs(per_open - 1.0f / 6) < 1e-6f; };
            level.clear[size_t(z) * size_t(size.y) + size_t(y)] =
                size.x % 8 == 0 && std::all_of(of_row, of_row + size.x, is_open) ? 1 : 0;
        }
    });
}

void PressureSolver::find_open_sides() {
    const Level& finest = levels_.front();
    const SmokeSize& size = finest.size;
    const int counts[3] = {size.x, size.y, size.z};
    is_closed_ = true;
    for (int axis = 0; axis < 3; ++axis) {
        const int one = (axis + 1) % 3, two = (axis + 2) % 3;
        for (int end = 0; end < 2; ++end) {
            bool opens = false;
            int at[3];
            at[axis] = end * counts[axis];
            for (at[one] = 0; at[one] < counts[one] && !opens; ++at[one]) {
                for (at[two] = 0; at[two] < counts[two] && !opens; ++at[two]) {
                    opens = finest.open[axis][size.at(at[0], at[1], at[2])] > 0;
                }
            }
            is_closed_ = is_closed_ && !opens;
            for (size_t i = 0; i < levels_.size(); ++i) {
                levels_[i].beyond[axis][end] = opens ? 1 - nearer(i) : 1.0f;
            }
        }
    }
}

void PressureSolver::set_open(const SmokeSize& size, const FloatCells (&open)[3], const CellBox& changed) {
    CellBox box = changed;
    if (levels_.empty() || !(levels_.front().size == size)) {
        levels_.assign(1, {});
        levels_.front().size = size;
        while (std::max({levels_.back().size.x, levels_.back().size.y, levels_.back().size.z}) >
               coarsest_side) {
            Level coarser;
            coarser.size = half_of(levels_.back().size);
            levels_.push_back(std::move(coarser));
        }
        for (Level& level : levels_) {
            for (FloatCells* plane : {&level.open[0], &level.open[1], &level.open[2], &level.per_open,
                                      &level.pressure, &level.outflow, &level.left}) {
                plane->assign(level.size.plane_size(), 0.0f);
            }
            level.clear.assign(size_t(level.size.y) * size_t(level.size.z), 0);
        }
        for (FloatCells* plane : {&remains_, &way_, &of_way_, &made_}) {
            plane->assign(size.plane_size(), 0.0f);
        }
        box = CellBox::whole(size);
    }
    if (box.is_empty()) {
        return;
    }
    Level& finest = levels_.front();
    for (int axis = 0; axis < 3; ++axis) {
        for (int z = box.low[2]; z <= box.high[2]; ++z) {
            for (int y = box.low[1]; y <= box.high[1]; ++y) {
                const auto first = std::ptrdiff_t(size.at(box.low[0], y, z));
                std::copy_n(open[axis].begin() + first, box.high[0] - box.low[0] + 1,
                            finest.open[axis].begin() + first);
            }
        }
    }
    for (size_t i = 0; i < levels_.size(); ++i) {
        open_up(i, box);
        box = half_of(box);
    }
    open_cells_ = size_t(sum_rows(size, [&](int y, int z) {
        const float* of_row = finest.per_open.data() + size.at(0, y, z);
        return double(std::count_if(of_row, of_row + size.x, [](float each) { return each > 0; }));
    }));
    find_open_sides();
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
    relax(level, false);
    const PressureGrid grid = level.grid();
    each_row(level.size, [&](int y, int z) {
        kernels_->remains(grid, level.outflow.data(), level.pressure.data(), level.left.data(), y, z);
    });
    restrict_to(levels_[index + 1], level);
    cycle(index + 1);
    prolong_to(level, levels_[index + 1]);
    relax(level, true);
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
    const auto share = [&](double square) { return std::sqrt(square / cells) / std::max(stretch, 1e-9); };

    Result result;
    result.remains = share(sum_rows(
        size, [&](int y, int z) { return kernels_->product(size, remains_.data(), remains_.data(), y, z); }));
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
        result.remains = share(sum_rows(size, [&](int y, int z) {
            kernels_->blend(size, 1, made_.data(), float(along), way_.data(), y, z);
            return kernels_->blend(size, 1, remains_.data(), float(-along), of_way_.data(), y, z);
        }));
        ++result.rounds;
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
