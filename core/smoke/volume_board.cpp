// What forces of the board do to the gas. Their rows run on blocks of particles, one in the middle of each
// cell, which take the gas's velocity and tell what becomes of it: smoke and particles feel the same, to the
// cell.
//
// Pulls, springs and weight take hold of the gas by its density, as they do of a particle where that is 1;
// what stirs takes hold of what is seen, and what flows and drags of all gas, clear air too.
#include "core/base/stopwatch.h"
#include "core/blocks/block_kernels.h"
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

#include <algorithm>
#include <array>

namespace ember {

namespace {

constexpr int block_cells = smoke_block * smoke_block * smoke_block;
static_assert(block_cells == block_size);

enum class Hold { all, seen, by_density };

Hold hold_of(const ForceRow& row) {
    switch (row.kind) {
    case FORCE_PUSH:
    case FORCE_PULL:
    case FORCE_SPRING:
        return Hold::by_density;
    case FORCE_TURBULENCE:
        return Hold::seen;
    default:
        return Hold::all;
    }
}

// More of it is pulled no harder, so that the heaviest gas does not break loose in a step.
constexpr float most_held = 10;

} // namespace

bool SmokeInfluences::blow_air() const {
    return std::any_of(forces.begin(), forces.end(),
                       [](const Influence<ForceRow>& force) { return hold_of(force.row) == Hold::all; });
}

// The cells of a block as particles, and what the forces make of them.
class SmokeVolume::Blown {
  public:
    Blown(SmokeVolume& volume, const SmokeInfluences& influences, float step_s)
        : volume_(volume), size_(volume.size_), kernels_(*volume.kernels_->blocks), influences_(influences),
          blows_air_(influences.blow_air()), step_s_(step_s) {
        gas_.count = block_cells;
    }

    // `ms`: of each force, and last of what all have in common; is added to.
    void act(int block, double* ms) {
        x_ = block % size_.blocks_x() * smoke_block;
        y_ = block / size_.blocks_x() % size_.blocks_y() * smoke_block;
        z_ = block / size_.blocks_x() / size_.blocks_y() * smoke_block;
        const bool holds_gas = volume_.active_[size_t(block)] != 0;
        if (!holds_gas && !blows_air_) {
            return stand_still();
        }
        if (influences_.forces.empty()) {
            return;
        }
        take(holds_gas);
        if (holds_gas) {
            stir(ms);
            run(Hold::by_density, ms,
                [this](size_t packed) { return std::clamp(volume_.next_[packed].density, 0.0f, most_held); });
        }
        run(Hold::all, ms, [](size_t) { return 1.0f; });
        give(holds_gas);
        ms[influences_.forces.size()] += watch_.lap_ms();
    }

  private:
    // `visit(at, packed, i)`: where a row's first cell is in planes and in cells, and its number in the
    // block.
    template <class Visit>
    void each_row_of_eight(Visit visit) const {
        for (int i = 0; i < block_cells; i += smoke_block) {
            const int y = y_ + i / smoke_block % smoke_block, z = z_ + i / smoke_block / smoke_block;
            visit(size_.at(x_, y, z), size_.packed(x_, y, z), i);
        }
    }

    void stand_still() const {
        each_row_of_eight([&](size_t at, size_t, int) {
            for (FloatCells& plane : volume_.won_) {
                std::fill_n(plane.begin() + std::ptrdiff_t(at), smoke_block, 0.0f);
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
        const Vec3 first = size_.middle(x_, y_, z_);
        for (int i = 0; i < block_cells; ++i) {
            const Vec3 steps = {float(i % smoke_block), float(i / smoke_block % smoke_block),
                                float(i / smoke_block / smoke_block)};
            gas_.x[i] = first.x + steps.x * size_.cell - gas_.vx[i] * half;
            gas_.y[i] = first.y + steps.y * size_.cell - gas_.vy[i] * half;
            gas_.z[i] = first.z + steps.z * size_.cell - gas_.vz[i] * half;
            gas_.age[i] = 0;
        }
    }

    // False if there are none of this kind.
    bool add(Hold hold, double* ms) {
        bool has_some = false;
        for (size_t i = 0; i < influences_.forces.size(); ++i) {
            const ForceRow& row = influences_.forces[i].row;
            if (hold_of(row) != hold) {
                continue;
            }
            if (!has_some) {
                place();
                kernels_.clear({}, gas_, sums_);
                ms[influences_.forces.size()] += watch_.lap_ms();
            }
            has_some = true;
            kernels_.add_force(row, gas_, step_s_, {}, sums_);
            ms[i] += watch_.lap_ms();
        }
        return has_some;
    }

    // What is seen is known where the gas is pushed: see SmokeKernels::act.
    void stir(double* ms) {
        if (!add(Hold::seen, ms)) {
            return;
        }
        const float* const pushes[3] = {sums_.push_x, sums_.push_y, sums_.push_z};
        each_row_of_eight([&](size_t at, size_t, int first) {
            for (int axis = 0; axis < 3; ++axis) {
                for (int i = 0; i < smoke_block; ++i) {
                    volume_.push_[axis][at + size_t(i)] += pushes[axis][first + i];
                }
            }
        });
    }

    template <class Share>
    void run(Hold hold, double* ms, Share share_of) {
        if (!add(hold, ms)) {
            return;
        }
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
    bool blows_air_;
    float step_s_;
    int x_ = 0, y_ = 0, z_ = 0;
    ParticleBlock gas_;
    ForceSums sums_;
    PathStarts starts_;
    Stopwatch watch_;
};

// Changes the velocities of gas that acts, and leaves what clear air has won.
void SmokeVolume::blow(const SmokeInfluences& influences, double step_s) {
    const size_t columns = influences.forces.size() + 1;
    const Stopwatch watch;
    const int rows = size_.blocks_y() * size_.blocks_z();
    std::vector<double> all_ms(size_t(rows) * columns);
    each_slice(size_.cells(), rows, [&](int row) {
        Blown blown(*this, influences, float(step_s));
        for (int x = 0; x < size_.blocks_x(); ++x) {
            blown.act(row * size_.blocks_x() + x, all_ms.data() + size_t(row) * columns);
        }
    });
    // Processor time is scaled so that the parts add up to the time that is waited for.
    force_ms_.assign(influences.forces.size(), 0.0);
    double processor_ms = 1e-9;
    for (size_t i = 0; i < all_ms.size(); ++i) {
        processor_ms += all_ms[i];
        if (i % columns < force_ms_.size()) {
            force_ms_[i % columns] += all_ms[i];
        }
    }
    for (double& ms : force_ms_) {
        ms *= watch.elapsed_ms() / processor_ms;
    }
}

} // namespace ember
