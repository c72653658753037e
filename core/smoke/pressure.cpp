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

// Of all slices, in their order: the same on any number of threads.
double sum_of(const std::vector<double>& slices) {
    return std::accumulate(slices.begin(), slices.end(), 0.0);
}
TwoSums sum_of(const std::vector<TwoSums>& slices) {
    TwoSums sum;
    for (const TwoSums& slice : slices) {
        sum.first += slice.first;
        sum.second += slice.second;
    }
    return sum;
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
            const auto is_open = [](float per_open) { return std::fabs(per_open - 1.0f / 6) < 1e-6f; };
            for (int x = box.low[0] / 8 * 8; x < std::min(box.high[0] + 1, size.x); x += 8) {
                const float* eight = level.per_open.data() + size.at(x, y, z);
                level.clear[size.at(x, y, z) / 8] = std::all_of(eight, eight + 8, is_open) ? 1 : 0;
            }
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
        open_cells_ = 0;
        levels_.front().size = size;
        while (std::max({levels_.back().size.x, levels_.back().size.y, levels_.back().size.z}) >
               coarsest_side) {
            Level coarser;
            coarser.size = half_of(levels_.back().size);
            levels_.push_back(std::move(coarser));
        }
        for (Level& level : levels_) {
            for (FloatCells* plane : {&level.open[0], &level.open[1], &level.open[2], &level.per_open,
                                      &level.pressure, &level.outflow}) {
                plane->assign(level.size.plane_size(), 0.0f);
            }
            level.clear.assign(level.size.plane_size() / 8, 0);
        }
        for (FloatCells* plane : {&remains_, &way_, &of_way_, &made_, &more_}) {
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
    const CellBox counted = box;
    open_cells_ -= count_open(counted);
    for (size_t i = 0; i < levels_.size(); ++i) {
        open_up(i, box);
        box = half_of(box);
    }
    open_cells_ += count_open(counted);
    find_open_sides();
}

// Cells that anything can flow through, in a box and behind its faces.
size_t PressureSolver::count_open(const CellBox& box) const {
    const Level& finest = levels_.front();
    const SmokeSize& size = finest.size;
    const int end = std::min(box.high[0] + 1, size.x);
    std::ptrdiff_t count = 0;
    for (int z = box.low[2]; z < std::min(box.high[2] + 1, size.z); ++z) {
        for (int y = box.low[1]; y < std::min(box.high[1] + 1, size.y); ++y) {
            const float* row = finest.per_open.data() + size.at(0, y, z);
            count += std::count_if(row + box.low[0], row + end, [](float each) { return each > 0; });
        }
    }
    return size_t(count);
}

SliceStage PressureSolver::relaxing(Level& level, const float* outflow, int colour) {
    return [this, &level, outflow, colour, grid = level.grid()](int z) {
        kernels_->relax(grid, outflow, level.pressure.data(), colour, z);
    };
}

// Fine cells lie a quarter of a coarse one off its middle: three quarters are its own, one the neighbour's.
// Beyond closed sides the pressure goes on, beyond open ones it falls below zero.
SliceStage PressureSolver::prolonging(Level& fine, const Level& coarse) {
    return [this, &fine, &coarse, grid = fine.grid()](int z) {
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
        std::vector<float> mean(coarse.size.stride());
        const Beside far_z = beside(z, coarse.size.z, 2);
        for (int y = 0; y < fine.size.y; ++y) {
            const Beside far_y = beside(y, coarse.size.y, 1);
            const auto row = [&](int j, int k) { return coarse.pressure.data() + coarse.size.at(0, j, k); };
            const float* const rows[4] = {row(y / 2, z / 2), row(far_y.at, z / 2), row(y / 2, far_z.at),
                                          row(far_y.at, far_z.at)};
            const float weights[4] = {0.75f * 0.75f, 0.75f * far_y.share, far_z.share * 0.75f,
                                      far_z.share * far_y.share};
            kernels_->prolong(grid, rows, weights, coarse.beyond[0], coarse.size.x, mean.data(),
                              fine.pressure.data(), y, z);
        }
    };
}

// Pressures that about balance the outflow of the level.
void PressureSolver::cycle(size_t index, const float* outflow) {
    Level& level = levels_[index];
    const PressureGrid grid = level.grid();
    const SliceStage begin = [&](int z) { kernels_->begin(grid, outflow, level.pressure.data(), 0, z); };
    const SliceStage even = relaxing(level, outflow, 0), odd = relaxing(level, outflow, 1);
    if (index + 1 == levels_.size()) {
        std::vector<SliceStage> stages = {begin};
        for (int i = 1; i < 16; ++i) {
            stages.push_back(odd);
            stages.push_back(even);
        }
        return run_stages(level.size, stages);
    }
    run_stages(level.size, {begin, odd, even});
    Level& coarse = levels_[index + 1];
    each_slice(coarse.size.cells(), coarse.size.z, [&](int z) {
        kernels_->restricted(grid, outflow, level.pressure.data(), coarse.size, coarse.outflow.data(), z);
    });
    cycle(index + 1, coarse.outflow.data());
    // What was set last is in balance but for what the coarser level adds, so that the others come first.
    run_stages(level.size, {prolonging(level, coarse), odd, even, odd});
}

// In a closed grid, what is nobody's pressure to balance: rounding, and solids that shut cells in.
void PressureSolver::level_outflow() {
    const Level& finest = levels_.front();
    const SmokeSize& size = finest.size;
    const double sum = sum_rows(size, [&](int y, int z) {
        double part = 0;
        for (int x = 0; x < size.x; ++x) {
            const size_t at = size.at(x, y, z);
            part += finest.per_open[at] > 0 ? double(of_way_[at]) : 0;
        }
        return part;
    });
    const auto mean = float(sum / double(std::max<size_t>(open_cells_, 1)));
    each_row(size, [&](int y, int z) {
        for (int x = 0; x < size.x; ++x) {
            of_way_[size.at(x, y, z)] -= mean;
        }
    });
}

// The pressure that is looked for is `made_` and `more_`; the finest level's serves the cycles.
PressureSolver::Result PressureSolver::solve(const SmokePlanes& faces, double tolerance, int most_rounds) {
    Level& finest = levels_.front();
    const SmokeSize& size = finest.size;
    const PressureGrid grid = finest.grid();
    const auto cells = double(std::max<size_t>(open_cells_, 1));
    // The last pressure has acted once more since it was found (see SmokeVolume::reflect()): what was too
    // much in one step is missing in the next, so that the answer is near the line from the last one to the
    // one before. That is the first way.
    way_.swap(more_);
    std::vector<double> stretches(size_t(size.z)), steeps(size_t(size.z));
    std::vector<TwoSums> found(size_t(size.z));
    const SliceStage find_outflow = [&](int z) {
        stretches[size_t(z)] = kernels_->outflow(size, faces, of_way_.data(), z);
    };
    const SliceStage find_remains = [&](int z) {
        found[size_t(z)] =
            kernels_->remains(grid, of_way_.data(), made_.data(), way_.data(), remains_.data(), z);
    };
    const SliceStage find_steepness = [&](int z) {
        steeps[size_t(z)] = kernels_->balances(grid, way_.data(), of_way_.data(), z);
    };
    if (is_closed_) {
        each_slice(size.cells(), size.z, find_outflow);
        level_outflow();
        run_stages(size, {find_remains, find_steepness});
    } else {
        run_stages(size, {find_outflow, find_remains, find_steepness});
    }
    const double stretch = sum_of(stretches) / (3 * cells);
    const auto share = [&](double square) { return std::sqrt(square / cells) / std::max(stretch, 1e-9); };
    Result result;
    TwoSums products = sum_of(found);
    result.remains = share(products.first);
    double steepness = sum_of(steeps);
    // As far along the way as does most good. `product`: of what remains and the way.
    more_kept_ = along_ = 0;
    const auto go_along = [&](double product) {
        along_ = float(steepness == 0 ? 0 : product / steepness);
        if (along_ == 0) {
            return;
        }
        std::vector<double> squares(size_t(size.z));
        each_slice(size.cells(), size.z, [&](int z) {
            squares[size_t(z)] = kernels_->take(size, remains_.data(), along_, of_way_.data(), z);
        });
        result.remains = share(sum_of(squares));
    };
    go_along(products.second);
    while (result.remains > tolerance && result.rounds < most_rounds) {
        cycle(0, remains_.data());
        const float* made = finest.pressure.data();
        each_slice(size.cells(), size.z, [&](int z) {
            found[size_t(z)] = kernels_->products(size, made, remains_.data(), of_way_.data(), z);
        });
        products = sum_of(found);
        // Cycles are not symmetric: ways are kept apart one by one (Y. Notay, "Flexible Conjugate Gradients",
        // 2000).
        const auto keep = float(steepness == 0 ? 0 : -products.second / steepness);
        const SliceStage turn = [&](int z) {
            follow_way(z);
            kernels_->blend(size, keep, way_.data(), 1, made, z);
        };
        run_stages(size, {turn, find_steepness});
        more_kept_ = 1;
        steepness = sum_of(steeps);
        if (steepness == 0) {
            along_ = 0;
            break;
        }
        go_along(products.first);
        ++result.rounds;
    }
    return result;
}

void PressureSolver::restore(const Kept& kept) {
    made_ = kept.made;
    more_ = kept.more;
    way_ = kept.way;
    remains_ = kept.remains;
}

void PressureSolver::follow_way(int z) {
    kernels_->blend(levels_.front().size, more_kept_, more_.data(), along_, way_.data(), z);
}

void PressureSolver::settle_slice(int z) {
    follow_way(z);
    kernels_->blend(levels_.front().size, 1, made_.data(), 1, more_.data(), z);
}

void PressureSolver::press_slice(const SmokePlanes& faces, int z) const {
    const Level& finest = levels_.front();
    const bool is_last = z + 1 == finest.size.z;
    for (int k = z; k <= z + (is_last ? 1 : 0); ++k) {
        kernels_->press(finest.grid(), made_.data(), faces, k);
    }
}

size_t PressureSolver::bytes() const {
    size_t floats = remains_.size() * 5;
    for (const Level& level : levels_) {
        floats += level.size.plane_size() * 6;
    }
    return floats * sizeof(float);
}

} // namespace ember
