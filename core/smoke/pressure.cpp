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

SliceStage PressureSolver::relaxing(Level& level, const float* outflow, int colour) {
    return by_rows(level.size, [this, &level, outflow, colour, grid = level.grid()](int y, int z) {
        kernels_->relax(grid, outflow, level.pressure.data(), colour, y, z);
    });
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
    const SliceStage begin = by_rows(
        level.size, [&](int y, int z) { kernels_->begin(grid, outflow, level.pressure.data(), 0, y, z); });
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
    each_row(coarse.size, [&](int y, int z) {
        kernels_->restricted(grid, outflow, level.pressure.data(), coarse.size, coarse.outflow.data(), y, z);
    });
    cycle(index + 1, coarse.outflow.data());
    // What was set last is in balance but for what the coarser level adds, so that the others come first.
    run_stages(level.size, {prolonging(level, coarse), odd, even, odd});
}

namespace {

// A sum over slices, the same on any number of threads.
class SliceSum {
  public:
    explicit SliceSum(const SmokeSize& size) : parts_(size_t(size.z), 0.0) {}
    double& operator[](int z) { return parts_[size_t(z)]; }
    double all() const { return std::accumulate(parts_.begin(), parts_.end(), 0.0); }

  private:
    std::vector<double> parts_;
};

} // namespace

// What flows out of each cell, into `of_way_`. Returns the mean difference of velocity within cells.
double PressureSolver::find_outflow(const SmokePlanes& faces) {
    const Level& finest = levels_.front();
    const SmokeSize& size = finest.size;
    const auto cells = double(std::max<size_t>(open_cells_, 1));
    const double stretch =
        sum_rows(size, [&](int y, int z) { return kernels_->outflow(size, faces, of_way_.data(), y, z); });
    if (is_closed_) {
        // What is nobody's pressure to balance: rounding, and solids that shut cells in.
        const double sum = sum_rows(size, [&](int y, int z) {
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
    return stretch / (3 * cells);
}

// The pressure that is looked for is `made_` and `more_`; the finest level's serves the cycles.
PressureSolver::Result PressureSolver::project(const SmokePlanes& faces, double tolerance, int most_rounds) {
    Level& finest = levels_.front();
    const SmokeSize& size = finest.size;
    const PressureGrid grid = finest.grid();
    const auto cells = double(std::max<size_t>(open_cells_, 1));
    const double stretch = find_outflow(faces);
    const auto share = [&](double square) { return std::sqrt(square / cells) / std::max(stretch, 1e-9); };
    // The last pressure has acted once more since it was found (see SmokeVolume::reflect()): what was too
    // much in one step is missing in the next, so that the answer is near the line from the last one to the
    // one before. That is the first way.
    way_.swap(more_);
    SliceSum squares(size), back(size), steep(size);
    const SliceStage find_steepness = by_rows(
        size, [&](int y, int z) { steep[z] += kernels_->balances(grid, way_.data(), of_way_.data(), y, z); });
    const SliceStage find_remains = by_rows(size, [&](int y, int z) {
        kernels_->remains(grid, of_way_.data(), made_.data(), remains_.data(), y, z);
        squares[z] += kernels_->product(size, remains_.data(), remains_.data(), y, z);
        back[z] += kernels_->product(size, remains_.data(), way_.data(), y, z);
    });
    run_stages(size, {find_remains, find_steepness});
    Result result;
    result.remains = share(squares.all());
    double steepness = steep.all();
    // As far along the way as does most good. `product`: of what remains and the way.
    const auto go_along = [&](double product, float keep) {
        const auto along = float(steepness == 0 ? 0 : product / steepness);
        result.remains = share(sum_rows(size, [&](int y, int z) {
            kernels_->blend(size, keep, more_.data(), along, way_.data(), y, z);
            return kernels_->blend(size, 1, remains_.data(), -along, of_way_.data(), y, z);
        }));
    };
    go_along(back.all(), 0);
    while (result.remains > tolerance && result.rounds < most_rounds) {
        cycle(0, remains_.data());
        const float* made = finest.pressure.data();
        SliceSum product(size), of_before(size);
        each_row(size, [&](int y, int z) {
            product[z] += kernels_->product(size, made, remains_.data(), y, z);
            of_before[z] += kernels_->product(size, made, of_way_.data(), y, z);
        });
        // Cycles are not symmetric: ways are kept apart one by one (Y. Notay, "Flexible Conjugate Gradients",
        // 2000).
        const auto keep = float(steepness == 0 ? 0 : -of_before.all() / steepness);
        steep = SliceSum(size);
        const SliceStage turn =
            by_rows(size, [&](int y, int z) { kernels_->blend(size, keep, way_.data(), 1, made, y, z); });
        run_stages(size, {turn, find_steepness});
        steepness = steep.all();
        if (steepness == 0) {
            break;
        }
        go_along(product.all(), 1);
        ++result.rounds;
    }
    each_row(size, [&](int y, int z) { kernels_->blend(size, 1, made_.data(), 1, more_.data(), y, z); });
    return result;
}

void PressureSolver::press_slice(const SmokePlanes& faces, int z) const {
    const Level& finest = levels_.front();
    const bool is_last = z + 1 == finest.size.z;
    for (int k = z; k <= z + (is_last ? 1 : 0); ++k) {
        for (int y = 0; y <= finest.size.y; ++y) {
            kernels_->press(finest.grid(), made_.data(), faces, y, k);
        }
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
