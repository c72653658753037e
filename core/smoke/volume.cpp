#include "core/smoke/volume.h"

#include "core/base/stopwatch.h"
#include "core/smoke/rows.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <utility>

namespace ember {

namespace {

constexpr float settle_faces = 0.02f; // see SmokeKernels::to_faces
constexpr double pressure_tolerance = 8e-4;
constexpr int most_pressure_rounds = 14;

void resize(FloatCells (&planes)[3], size_t size) {
    for (FloatCells& plane : planes) {
        plane.assign(size, 0.0f);
    }
}

} // namespace

bool SmokeVolume::set(const Smoke& smoke) {
    const SmokeSize size = size_of(smoke);
    const bool is_same_bound = smoke.position == smoke_.position && smoke.size == smoke_.size;
    const bool begins = !is_set_ || !(is_same_bound || size == size_) || smoke.sides != smoke_.sides ||
                        smoke.clip.empty() != smoke_.clip.empty();
    smoke_ = smoke;
    is_set_ = true;
    if (begins) {
        size_ = size;
        clear();
    } else if (!(size == size_)) {
        change_cells(size);
    }
    return begins;
}

void SmokeVolume::clear() {
    for (auto* cells : {&cells_, &carried_, &next_}) {
        cells->assign(size_.packed_size(), SmokeCell());
    }
    broad_ = {size_.x / broad_cells, size_.y / broad_cells, size_.z / broad_cells, size_.cell * broad_cells,
              size_.low};
    for (auto* planes : {&faces_, &flow_, &middles_, &won_, &push_, &open_}) {
        resize(*planes, size_.plane_size());
    }
    for (FloatCells& plane : wide_push_) {
        plane.assign(size_t(broad_.z + 2) * size_t(broad_.y + 2) * size_.stride(), 0.0f);
    }
    for (auto* planes : {&broad_middles_, &broad_swirl_, &broad_push_}) {
        resize(*planes, broad_.plane_size());
    }
    strength_.assign(size_.plane_size(), 0.0f);
    broad_strength_.assign(broad_.plane_size(), 0.0f);
    solid_.assign(size_.plane_size(), 0);
    obstacles_.clear();
    active_.assign(size_t(size_.blocks()), 0);
    moved_.assign(active_.size(), 1);
    active_runs_.clear();
    restored_ = 1;
    thin_ = 0;
    pressure_ = PressureSolver(*kernels_->pressure);
    open_faces(CellBox::whole(size_));
}

template <class Visit>
double SmokeVolume::sum_runs(Visit visit) const {
    std::vector<double> sums(active_runs_.size(), 0.0);
    tbb::parallel_for(size_t(0), active_runs_.size(), [&](size_t i) { sums[i] = visit(active_runs_[i]); });
    return std::accumulate(sums.begin(), sums.end(), 0.0);
}

// Beyond closed sides the gas is as it is before them; beyond open ones there is clear air. `rests`: that air
// stands still, so that what flows in brings no motion along: else a draught would feed itself.
void SmokeVolume::fill_rim(SmokeCells& cells, bool rests) const {
    const bool sides = smoke_.sides != SmokeSides::closed, floor = smoke_.sides == SmokeSides::open;
    const auto fill = [&](int first, int count, int j, int k) {
        const int from_j = std::clamp(j, 0, size_.y - 1), from_k = std::clamp(k, 0, size_.z - 1);
        const bool is_clear = (sides && (first != 0 || k != from_k || j > from_j)) || (floor && j < 0);
        const SmokeCell* from = &cells[size_.packed(std::clamp(first, 0, size_.x - 1), from_j, from_k)];
        SmokeCell* rim = &cells[size_.packed(first, j, k)];
        if (is_clear && rests) {
            std::fill_n(rim, count, SmokeCell());
            return;
        }
        std::copy_n(from, count, rim);
        for (int i = 0; i < count && is_clear; ++i) {
            rim[i].density = rim[i].heat = 0;
        }
    };
    each_slice(size_.cells(), size_.z + 2, [&](int slice) {
        const int k = slice - 1;
        for (int j = -1; j <= size_.y; ++j) {
            if (k < 0 || k == size_.z || j < 0 || j == size_.y) {
                fill(0, size_.x, j, k);
            }
            fill(-1, 1, j, k);
            fill(size_.x, 1, j, k);
        }
    });
}

// Velocities as they are carried: with the last step's pressure once more.
void SmokeVolume::reflect() {
    const SliceStage take_over = by_rows(size_, [&](int y, int z) {
        kernels_->middles(size_, planes(faces_), planes(middles_), y, z);
        SmokeCell* row = cells_.data() + size_.packed(0, y, z);
        const size_t first = size_.at(0, y, z);
        for (int x = 0; x < size_.x; ++x) {
            row[x].velocity[0] = middles_[0][first + size_t(x)];
            row[x].velocity[1] = middles_[1][first + size_t(x)];
            row[x].velocity[2] = middles_[2][first + size_t(x)];
        }
    });
    run_stages(size_, {pressing(), take_over});
}

// How much density leaves by the sides in a step, summed over cells.
double SmokeVolume::leaving(double step_s) const {
    if (smoke_.sides == SmokeSides::closed) {
        return 0;
    }
    const auto per_speed = float(step_s / double(size_.cell));
    const int counts[3] = {size_.x, size_.y, size_.z};
    double sums[6] = {}; // by each side
    each_slice(size_.cells(), 6, [&](int side) {
        const int axis = side / 2, end = side % 2;
        // Memory is read along rows.
        const int inner = axis == 0 ? 1 : 0, outer = axis == 2 ? 1 : 2;
        int face[3], cell[3];
        face[axis] = end * counts[axis];
        cell[axis] = end * (counts[axis] - 1);
        for (face[outer] = cell[outer] = 0; face[outer] < counts[outer]; cell[outer] = ++face[outer]) {
            for (face[inner] = cell[inner] = 0; face[inner] < counts[inner]; cell[inner] = ++face[inner]) {
                const float speed =
                    flow_[axis][size_.at(cell[0], cell[1], cell[2])] * (end == 0 ? -1.0f : 1.0f);
                if (speed > 0 && open_[axis][size_.at(face[0], face[1], face[2])] > 0) {
                    sums[side] +=
                        double(speed * per_speed * cells_[size_.packed(cell[0], cell[1], cell[2])].density);
                }
            }
        }
    });
    return std::accumulate(std::begin(sums), std::end(sums), 0.0);
}

// `visit(x, y, z)` for each row of eight cells of blocks that hold nothing, and have none beside them that
// do.
template <class Visit>
void SmokeVolume::each_still(Visit visit) const {
    tbb::parallel_for(size_t(0), active_.size(), [&](size_t block) {
        if (active_[block] != 0) {
            return;
        }
        const auto index = int(block);
        const int x = index % size_.blocks_x() * smoke_block,
                  y = index / size_.blocks_x() % size_.blocks_y() * smoke_block,
                  z = index / size_.blocks_x() / size_.blocks_y() * smoke_block;
        for (int k = z; k < z + smoke_block; ++k) {
            for (int j = y; j < y + smoke_block; ++j) {
                visit(x, j, k);
            }
        }
    });
}

// Still blocks keep their cells: there is nothing to be carried but clear air, whose flow only the pressure
// changes. `if_moved`: only those that were not still in the last step, since when both hold nothing.
void SmokeVolume::copy_still(const SmokeCells& from, SmokeCells& to, bool if_moved) const {
    each_still([&](int x, int y, int z) {
        if (if_moved && moved_[size_t(size_.block_of(x, y, z))] == 0) {
            return;
        }
        const auto at = std::ptrdiff_t(size_.packed(x, y, z));
        std::copy_n(from.begin() + at, smoke_block, to.begin() + at);
    });
}

void SmokeVolume::carry(double step_s) {
    reflect();
    spread_into_solids();
    fill_rim(cells_, true);
    const auto per_speed = float(step_s / double(size_.cell));
    const auto run = [&](auto kernel, const SmokeTrace& trace) {
        return sum_runs([&](const SmokeRun& cells) { return kernel(trace, cells); });
    };
    // What solid cells hold, between which and the gas nothing moves, does not count.
    const auto within_solids = [&](const SmokeCells& cells) {
        return sum_rows(size_, [&](int y, int z) {
            double sum = 0;
            each_hemmed_in(y, z, [&](int x) {
                sum += solid_[size_.at(x, y, z)] != 0 ? double(cells[size_.packed(x, y, z)].density) : 0;
            });
            return sum;
        });
    };
    copy_still(cells_, carried_, false);
    const double before =
        run(kernels_->carry, {size_, planes(flow_), cells_.data(), nullptr, carried_.data(), per_speed});
    fill_rim(carried_, false);
    copy_still(cells_, next_, true);
    const double after = run(kernels_->correct,
                             {size_, planes(flow_), cells_.data(), carried_.data(), next_.data(), per_speed});
    // What being carried has lost or made of the smoke is spread over all of it.
    const double expected = before - within_solids(cells_) + thin_ - leaving(step_s);
    const double found = after - within_solids(next_);
    restored_ = found > 1e-9 ? float(std::clamp(expected / found, 0.5, 2.0)) : 1.0f;
}

double SmokeVolume::mass() const {
    return sum_rows(size_, [&](int y, int z) {
        double sum = 0;
        for (int x = 0; x < size_.x; ++x) {
            sum += solid_[size_.at(x, y, z)] == 0 ? double(cells_[size_.packed(x, y, z)].density) : 0;
        }
        return sum;
    });
}

void SmokeVolume::move_faces() {
    each_slice(size_.cells(), size_.z, [&](int z) {
        for (int axis = 0; axis < 3; ++axis) {
            copy_to_rim(size_, won_[axis], z);
            copy_to_rim(size_, middles_[axis], z);
        }
    });
    each_row(
        size_,
        [&](int y, int z) {
            kernels_->to_faces(size_, planes(middles_), planes(won_), settle_faces, planes(faces_), y, z);
        },
        1);
}

SliceStage SmokeVolume::pressing() {
    return [this](int z) { pressure_.press_slice(planes(faces_), z); };
}

SliceStage SmokeVolume::reading_flow() {
    return [this](int z) {
        for (int y = 0; y < size_.y; ++y) {
            kernels_->middles(size_, planes(faces_), planes(flow_), y, z);
        }
        for (FloatCells& plane : flow_) {
            copy_to_rim(size_, plane, z);
        }
    };
}

bool SmokeVolume::has_nothing_to_do(const SmokeInfluences& influences) const {
    const bool holds_gas = std::any_of(active_.begin(), active_.end(), [](char holds) { return holds != 0; });
    const bool is_fed =
        std::any_of(influences.feeds.begin(), influences.feeds.end(), [](const SmokeFeed& feed) {
            return feed.shape != FeedShape::particles || !feed.particles.empty();
        });
    const bool is_stirred =
        influences.carries &&
        (!is_still_ || !influences.pushes.empty() || influences.blow_air() ||
         std::any_of(influences.obstacles.begin(), influences.obstacles.end(),
                     [](const ColliderRow& obstacle) { return obstacle.is_moving != 0; }));
    return !holds_gas && !is_fed && !is_stirred;
}

void SmokeVolume::begin_meter() {
    force_ms_.clear();
    meter_ = {};
    meter_.cells = size_.cells();
    meter_.bytes =
        3 * cells_.size() * sizeof(SmokeCell) + 16 * size_.plane_size() * sizeof(float) + pressure_.bytes();
}

bool SmokeVolume::step(const SmokeInfluences& influences, double step_s) {
    Stopwatch watch;
    begin_meter();
    if (has_nothing_to_do(influences)) {
        if (!std::exchange(is_still_, true)) {
            clear();
            return true;
        }
        return false;
    }
    is_still_ = false;
    mark_obstacles(influences.obstacles);
    meter_.obstacle_ms = watch.lap_ms();
    add_forces(influences);
    meter_.force_ms = watch.lap_ms();
    mark_active(influences);
    carry(step_s);
    meter_.carry_ms = watch.lap_ms();
    feed(influences, step_s);
    meter_.feed_ms = watch.lap_ms();
    act(influences, step_s);
    move_faces();
    meter_.force_ms += watch.lap_ms();
    hold_solids();
    const PressureSolver::Result found =
        pressure_.solve(planes(faces_), pressure_tolerance, most_pressure_rounds);
    run_stages(size_, {[this](int z) { pressure_.settle_slice(z); }, pressing(), reading_flow()});
    meter_.pressure_ms = watch.lap_ms();
    meter_.pressure_rounds = found.rounds;
    meter_.remains = found.remains;
    return true;
}

void SmokeVolume::set_faces(const FloatCells (&faces)[3]) {
    for (int axis = 0; axis < 3; ++axis) {
        faces_[axis] = faces[axis];
    }
    pressure_ = PressureSolver(*kernels_->pressure);
    pressure_.set_open(size_, open_, CellBox::whole(size_));
    hold_solids();
    each_slice(size_.cells(), size_.z, reading_flow());
    std::fill(active_.begin(), active_.end(), char(1));
    is_still_ = false;
}

} // namespace ember
