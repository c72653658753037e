// What acts on each cell of a volume in a step: forces of the board, then what the gas does by itself; block
// by block, so that cells are still at hand for the second.
//
// The rows of forces run on blocks of particles, which take the gas's velocity and tell what becomes of it:
// smoke and particles feel the same.
//
// Pulls, springs and weight take hold of the gas by its density, as they do of a particle where that is 1;
// what stirs takes hold of what is seen, and what flows and drags of all gas, clear air too.
//
// Forces that change slowly from place to place are worked out at points that are two, four or eight cells
// apart, at most a sixth of the length over which they change (a core, a fade, an eddy), and mixed between
// them: the error is below a twentieth of the force, and largest at the rim of a core; of turbulence of
// several octaves it is below a seventh. Others are worked out in each cell, and so is what depends on the
// gas's velocity.
#include "core/base/stopwatch.h"
#include "core/blocks/block_kernels.h"
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

#include <oneapi/tbb/combinable.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <limits>
#include <numeric>
#include <tuple>
#include <utility>

namespace ember {

/// What of a cell a force takes hold of.
enum class SmokeHold { all, seen, by_density };

namespace {

constexpr int block_cells = smoke_block * smoke_block * smoke_block;
static_assert(block_cells == block_size);

SmokeHold hold_of(const ForceRow& row) {
    switch (row.kind) {
    case FORCE_PUSH:
    case FORCE_PULL:
    case FORCE_SPRING:
        return SmokeHold::by_density;
    case FORCE_TURBULENCE:
        return SmokeHold::seen;
    default:
        return SmokeHold::all;
    }
}

// Over which a force changes, in metres; 0: it is to be worked out in each cell.
float changes_over(const ForceRow& row) {
    constexpr float anywhere = std::numeric_limits<float>::infinity();
    const auto own = [&] {
        switch (row.kind) {
        case FORCE_PUSH:
        case FORCE_AIR:
            return anywhere;
        case FORCE_DRAG:
            return row.quadratic > 0 || row.brake > 0 ? 0.0f : anywhere;
        case FORCE_TURBULENCE: { // of several octaves the finest is a small part
            const float finest = 1 / (row.frequency * std::exp2(float(row.octaves - 1)));
            return row.octaves > 1 ? 2 * finest : 0.6f * finest;
        }
        case FORCE_VORTEX:
        case FORCE_PULL:
            return row.core;
        case FORCE_PATH: {
            constexpr float bend = 0.4f; // m
            return std::max(row.tube, bend);
        }
        case FORCE_GRID:
            return 1 / row.per_cell;
        default:
            return 0.0f;
        }
    };
    const bool is_cut_off = row.reach.fade == FADE_STOP;
    const float fade = row.reach.shape == REACH_EVERYWHERE ? anywhere
                       : is_cut_off                        ? 0.0f
                                                           : 1 / row.reach.per_distance;
    return std::min(own(), fade);
}

// Cells between two points at which a force is worked out.
int spacing_of(const ForceRow& row, float cell) {
    constexpr float points_a_change = 6;
    for (const int spacing : {8, 4, 2}) {
        if (float(spacing) * cell * points_a_change <= changes_over(row)) {
            return spacing;
        }
    }
    return 1;
}

// Less than this is nothing.
constexpr float least_density = 1e-3f;
constexpr float least_heat = 0.5f; // K
constexpr float most_way = 12;     // cells a step: what is faster is held to it
constexpr float most_density = 1000;
constexpr float most_heat = 10000; // K

// More of it is pulled no harder, so that the heaviest gas does not break loose in a step.
constexpr float most_held = 10;

} // namespace

bool SmokeInfluences::blow_air() const {
    return std::any_of(forces.begin(), forces.end(),
                       [](const Influence<ForceRow>& force) { return hold_of(force.row) == SmokeHold::all; });
}

namespace {

// Which of the forces are alike everywhere, all of their hold, and what they make of the gas.
struct Evenly {
    bool pulls = false, blows = false;
    EvenBlow blow;

    bool has(SmokeHold hold) const {
        return hold == SmokeHold::by_density ? pulls : hold == SmokeHold::all && blows;
    }
};

// What becomes of gas at rest, and of gas that moves at 1 m/s along x, by the forces of this hold.
std::pair<Vec3, float> blown(const SmokeInfluences& influences, SmokeHold hold, const BlockKernels& kernels,
                             float step_s) {
    ParticleBlock probes;
    ForceSums sums;
    PathStarts starts;
    probes.count = 2;
    probes.vx[1] = 1;
    kernels.clear({}, probes, sums);
    for (const Influence<ForceRow>& force : influences.forces) {
        if (hold_of(force.row) == hold) {
            kernels.add_force(force.row, probes, step_s, {}, sums);
        }
    }
    kernels.advance({}, sums, step_s, probes, starts);
    return {{probes.vx[0], probes.vy[0], probes.vz[0]}, probes.vx[1] - probes.vx[0]};
}

Evenly evenly(const SmokeInfluences& influences, const BlockKernels& kernels, float step_s) {
    const auto are_even = [&](SmokeHold hold) {
        return std::all_of(influences.forces.begin(), influences.forces.end(),
                           [&](const Influence<ForceRow>& force) {
                               return hold_of(force.row) != hold || std::isinf(changes_over(force.row));
                           });
    };
    Evenly even;
    even.blows = are_even(SmokeHold::all);
    even.pulls = even.blows && are_even(SmokeHold::by_density); // what pulls comes first
    if (even.blows) {
        std::tie(even.blow.flow, even.blow.keep) = blown(influences, SmokeHold::all, kernels, step_s);
    }
    if (even.pulls) {
        even.blow.pull = blown(influences, SmokeHold::by_density, kernels, step_s).first;
    }
    return even;
}

} // namespace

// The cells of a block as particles, and what the forces make of them. What is alike everywhere has been
// found for the whole step: cells with gas get it by SmokeKernels::act, clear air here.
class SmokeVolume::Blown {
  public:
    Blown(SmokeVolume& volume, const SmokeInfluences& influences, const Evenly& even, float step_s)
        : volume_(volume), size_(volume.size_), kernels_(*volume.kernels_->blocks), influences_(influences),
          even_(even.blow), step_s_(step_s), ms_(influences.forces.size() + 1) {
        gas_.count = block_cells;
        for (const Influence<ForceRow>& force : influences.forces) {
            const SmokeHold hold = hold_of(force.row);
            ways_.push_back({hold, even.has(hold) ? 0 : spacing_of(force.row, size_.cell)});
        }
        blows_air_ = has(SmokeHold::all);
    }

    /// Changes the velocities of a block's gas; of one that holds none, leaves what the air has won.
    void act(int block) {
        watch_ = Stopwatch();
        x_ = block % size_.blocks_x() * smoke_block;
        y_ = block / size_.blocks_x() % size_.blocks_y() * smoke_block;
        z_ = block / size_.blocks_x() / size_.blocks_y() * smoke_block;
        const bool holds_gas = volume_.active_[size_t(block)] != 0;
        if (!holds_gas && !blows_air_) {
            return let_air_be();
        }
        const bool is_pulled = holds_gas && has(SmokeHold::by_density),
                   is_stirred = holds_gas && has(SmokeHold::seen);
        if (is_pulled || is_stirred || blows_air_) {
            take(holds_gas);
        }
        if (is_stirred) {
            stir();
        }
        if (is_pulled || blows_air_) {
            if (is_pulled) {
                run(SmokeHold::by_density, [this](size_t packed) {
                    return std::clamp(volume_.next_[packed].density, 0.0f, most_held);
                });
            }
            if (blows_air_) {
                run(SmokeHold::all, [](size_t) { return 1.0f; });
            }
            give(holds_gas);
        }
        note_rest();
    }
    /// What has been done since the last act() is no force's.
    void note_rest() { ms_.back() += watch_.lap_ms(); }

    /// Milliseconds of each force, and last of all else.
    const std::vector<double>& ms() const { return ms_; }

  private:
    struct Way {
        SmokeHold hold;
        int spacing; // 0: it is done elsewhere
    };

    bool has(SmokeHold hold) const {
        return std::any_of(ways_.begin(), ways_.end(),
                           [&](const Way& way) { return way.hold == hold && way.spacing > 0; });
    }

    bool has(SmokeHold hold, int spacing) const {
        return std::any_of(ways_.begin(), ways_.end(),
                           [&](const Way& way) { return way.hold == hold && way.spacing == spacing; });
    }

    // `visit(at, packed, i)`: where a row's first cell is in planes and in cells, and its number in the
    // block.
    template <class Visit>
    void each_row_of_eight(Visit visit) const {
        for (int i = 0; i < block_cells; i += smoke_block) {
            const int y = y_ + i / smoke_block % smoke_block, z = z_ + i / smoke_block / smoke_block;
            visit(size_.at(x_, y, z), size_.packed(x_, y, z), i);
        }
    }

    // But for what is alike everywhere.
    void let_air_be() const {
        const float flow[3] = {even_.flow.x, even_.flow.y, even_.flow.z};
        each_row_of_eight([&](size_t at, size_t, int) {
            for (int axis = 0; axis < 3; ++axis) {
                const float* before = volume_.middles_[axis].data() + at;
                float* won = volume_.won_[axis].data() + at;
                for (int i = 0; i < smoke_block; ++i) {
                    won[i] = before[i] * (even_.keep - 1) + flow[axis];
                }
            }
        });
    }

    void take(bool holds_gas) {
        each_row_of_eight([&](size_t at, size_t packed, int first) {
            for (int i = 0; i < smoke_block; ++i) {
                const size_t cell = at + size_t(i);
                const float* carried = volume_.next_[packed + size_t(i)].velocity;
                gas_.vx[first + i] = holds_gas ? carried[0] : volume_.middles_[0][cell];
                gas_.vy[first + i] = holds_gas ? carried[1] : volume_.middles_[1][cell];
                gas_.vz[first + i] = holds_gas ? carried[2] : volume_.middles_[2][cell];
            }
        });
    }

    // Forces act where a particle is in the middle of a step: there is the middle of the cell.
    void place() {
        const float half = step_s_ * 0.5f;
        for (int i = 0; i < block_cells; i += smoke_block) {
            const Vec3 first =
                size_.middle(x_, y_ + i / smoke_block % smoke_block, z_ + i / smoke_block / smoke_block);
            for (int k = i; k < i + smoke_block; ++k) {
                gas_.x[k] = first.x + float(k - i) * size_.cell - gas_.vx[k] * half;
                gas_.y[k] = first.y - gas_.vy[k] * half;
                gas_.z[k] = first.z - gas_.vz[k] * half;
            }
        }
    }

    // From one corner of the block to the other, where nothing moves.
    int place_points(int spacing) {
        const int side = smoke_block / spacing + 1;
        const float apart = size_.cell * float(spacing);
        const Vec3 corner = size_.low + Vec3{float(x_), float(y_), float(z_)} * size_.cell;
        points_.count = side * side * side;
        for (int i = 0; i < points_.count; ++i) {
            points_.x[i] = corner.x + float(i % side) * apart;
            points_.y[i] = corner.y + float(i / side % side) * apart;
            points_.z[i] = corner.z + float(i / side / side) * apart;
        }
        return side;
    }

    void add_rows(const Way& way, ParticleBlock& block, ForceSums& sums) {
        note_rest();
        for (size_t i = 0; i < ways_.size(); ++i) {
            if (ways_[i].hold == way.hold && ways_[i].spacing == way.spacing) {
                kernels_.add_force(influences_.forces[i].row, block, step_s_, {}, sums);
                ms_[i] += watch_.lap_ms();
            }
        }
    }

    // The sums of all forces of this kind, in each cell.
    void add(SmokeHold hold) {
        kernels_.clear({}, gas_, sums_);
        for (const int spacing : {8, 4, 2}) {
            if (!has(hold, spacing)) {
                continue;
            }
            const int side = place_points(spacing);
            kernels_.clear({}, points_, of_points_);
            add_rows({hold, spacing}, points_, of_points_);
            const auto& add_between = volume_.kernels_->add_between;
            add_between(of_points_.push_x, side, sums_.push_x);
            add_between(of_points_.push_y, side, sums_.push_y);
            add_between(of_points_.push_z, side, sums_.push_z);
            if (hold == SmokeHold::all) { // the others do not damp but for springs, which are in each cell
                add_between(of_points_.damping, side, sums_.damping);
            }
        }
        if (has(hold, 1)) {
            place();
            add_rows({hold, 1}, gas_, sums_);
        }
    }

    // What is seen is known where the gas is pushed: see SmokeKernels::act.
    void stir() {
        add(SmokeHold::seen);
        const float* const pushes[3] = {sums_.push_x, sums_.push_y, sums_.push_z};
        each_row_of_eight([&](size_t at, size_t, int first) {
            for (int axis = 0; axis < 3; ++axis) {
                float* push = volume_.push_[axis].data() + at;
                for (int i = 0; i < smoke_block; ++i) {
                    push[i] += pushes[axis][first + i];
                }
            }
        });
    }

    template <class Share>
    void run(SmokeHold hold, Share share_of) {
        add(hold);
        kernels_.advance({}, sums_, step_s_, gas_, starts_);
        each_row_of_eight([&](size_t, size_t packed, int first) {
            for (int i = first; i < first + smoke_block; ++i) {
                const float share = share_of(packed + size_t(i - first));
                gas_.vx[i] = starts_.vx[i] + (gas_.vx[i] - starts_.vx[i]) * share;
                gas_.vy[i] = starts_.vy[i] + (gas_.vy[i] - starts_.vy[i]) * share;
                gas_.vz[i] = starts_.vz[i] + (gas_.vz[i] - starts_.vz[i]) * share;
            }
        });
    }

    void give(bool holds_gas) const {
        const float* const velocity[3] = {gas_.vx, gas_.vy, gas_.vz};
        each_row_of_eight([&](size_t at, size_t packed, int first) {
            for (int axis = 0; axis < 3; ++axis) {
                for (int i = 0; i < smoke_block; ++i) {
                    const size_t cell = at + size_t(i);
                    const float now = velocity[axis][first + i];
                    if (holds_gas) {
                        volume_.next_[packed + size_t(i)].velocity[axis] = now;
                    } else {
                        volume_.won_[axis][cell] = now - volume_.middles_[axis][cell];
                    }
                }
            }
        });
    }

    SmokeVolume& volume_;
    const SmokeSize& size_;
    const BlockKernels& kernels_;
    const SmokeInfluences& influences_;
    EvenBlow even_;
    bool blows_air_ = false;
    float step_s_;
    std::vector<Way> ways_; // of the forces
    std::vector<double> ms_;
    int x_ = 0, y_ = 0, z_ = 0;
    ParticleBlock gas_, points_;
    ForceSums sums_, of_points_;
    PathStarts starts_;
    Stopwatch watch_;
};

// Forces, fading, settling; what is no number or too much is held. Leaves what each cell's velocity has won.
void SmokeVolume::act(const SmokeInfluences& influences, double step_s) {
    const auto step = float(step_s);
    const float keep = std::exp(-smoke_.fade * step), cool = std::exp(-smoke_.cooling * step),
                settle = std::exp(-smoke_.settling * step);
    const float fastest = most_way * size_.cell / step;
    const Stopwatch watch;
    const Evenly even = evenly(influences, *kernels_->blocks, step);
    const SmokeChange change = {size_,         next_.data(),  planes(push_), planes(middles_),
                                planes(won_),  solid_.data(), step,          keep * restored_,
                                cool,          settle,        fastest,       smoke_.lift / 100,
                                smoke_.weight, least_density, least_heat,    most_density,
                                most_heat,     even.blow,     most_held};
    tbb::combinable<Blown> of_threads([&] { return Blown(*this, influences, even, step); });
    tbb::parallel_for(0, size_.blocks(), [&](int block) {
        if (active_[size_t(block)] == 0) {
            of_threads.local().act(block);
        }
    });
    std::vector<char> holds(active_.size(), 0);
    std::vector<double> thin(active_runs_.size());
    tbb::parallel_for(size_t(0), active_runs_.size(), [&](size_t i) {
        const SmokeRun& run = active_runs_[i];
        Blown& blown = of_threads.local();
        for (int x = run.x; x < run.end; x += smoke_block) {
            blown.act(size_.block_of(x, run.y, run.z));
        }
        thin[i] = kernels_->act(change, run, holds.data() + size_.block_of(run.x, run.y, run.z));
        blown.note_rest();
    });
    thin_ = std::accumulate(thin.begin(), thin.end(), 0.0);
    meter_.active_cells = 0;
    for (const SmokeRun& run : active_runs_) {
        meter_.active_cells += size_t(run.end - run.x) * smoke_block * smoke_block;
    }
    moved_ = std::exchange(active_, std::move(holds));
    cells_.swap(next_);

    // Processor time is scaled so that the parts add up to the time that is waited for.
    std::vector<double> ms(influences.forces.size() + 1, 0.0);
    of_threads.combine_each([&](const Blown& blown) {
        std::transform(ms.begin(), ms.end(), blown.ms().begin(), ms.begin(), std::plus<>());
    });
    const double scale = watch.elapsed_ms() / std::max(std::accumulate(ms.begin(), ms.end(), 0.0), 1e-9);
    force_ms_.clear();
    for (size_t i = 0; i < influences.forces.size(); ++i) {
        force_ms_.push_back(ms[i] * scale);
    }
}

} // namespace ember
