// The pressure that leaves a flow without sources: what flows into each cell flows out of it again.
//
// Conjugate gradients, each direction made by one cycle of multigrid (A. McAdams, E. Sifakis, J. Teran, "A
// Parallel Multigrid Poisson Solver for Fluids Simulation on Large Grids", 2010). The grid is staggered:
// velocities lie on faces, so that what a cell loses is exactly the sum over its faces and no second flow can
// hide between cells, as it can where all lie in the middle.
#pragma once

#include "core/smoke/pressure_kernels.h"

#include <vector>

namespace ember {

/// Which faces are open, on the grid and on ever coarser ones.
class PressureSolver {
  public:
    explicit PressureSolver(const PressureKernels& kernels) : kernels_(&kernels) {}

    /// `open`: 0 or 1 for each face, in planes of this size. Keeps the pressures if the size stays; then only
    /// the faces of cells in `changed` may be others than before.
    void set_open(const SmokeSize& size, const FloatCells (&open)[3], const CellBox& changed);
    /// Whether all faces of eight cells are open, from `x` on, a multiple of eight.
    bool is_clear(int x, int y, int z) const {
        const Level& finest = levels_.front();
        return finest.clear[finest.size.at(x, y, z) / 8] != 0;
    }

    struct Result {
        int rounds = 0;
        double remains =
            0; // root mean square of what flows out of cells, over the mean difference of velocity
    };
    /// Finds the pressures that take the outflow from the velocities of the faces (m/s), down to `tolerance`
    /// of the mean difference of velocity within a cell, or as far as `most_rounds` go.
    Result solve(const SmokePlanes& faces, double tolerance, int most_rounds);
    /// What has to follow for each slice: it takes on the pressures that solve() has found.
    void settle_slice(int z);
    /// Takes the differences of pressures from the faces of a slice; with the last slice from those behind
    /// it, too.
    void press_slice(const SmokePlanes& faces, int z) const;

    /// What the next solve() begins from, and what remains().
    struct Kept {
        FloatCells made, more, way, remains;
    };
    Kept kept() const { return {made_, more_, way_, remains_}; }
    /// The faces are set by set_open() before.
    void restore(const Kept& kept);

    /// What flows out of each cell after the last solve(), m/s.
    const FloatCells& remains() const { return remains_; }
    size_t bytes() const;

  private:
    struct Level {
        SmokeSize size;
        FloatCells open[3], per_open;
        FloatCells pressure, outflow; // of the finest: remains_
        std::vector<char> clear;
        float beyond[3][2] = {}; // share of a side's pressure that lies beyond it: see prolonging()

        PressureGrid grid() const {
            return {size, open[0].data(), open[1].data(), open[2].data(), per_open.data(), clear.data()};
        }
    };

    void level_outflow();
    void follow_way(int z);
    void open_up(size_t level, const CellBox& changed);
    size_t count_open(const CellBox& box) const;
    void find_open_sides();
    void cycle(size_t level, const float* outflow);
    SliceStage relaxing(Level& level, const float* outflow, int colour);
    SliceStage prolonging(Level& fine, const Level& coarse);

    const PressureKernels* kernels_;
    std::vector<Level> levels_; // the finest first
    FloatCells made_;           // the pressures of the last step
    FloatCells more_;           // what they are more than those of the step before
    FloatCells remains_, way_, of_way_;
    // The pressures follow the last way when it is read next: they are `more_` times this, and so far along
    // it.
    float more_kept_ = 0, along_ = 0;
    size_t open_cells_ = 0;
    bool is_closed_ = false; // nothing flows in or out
};

} // namespace ember
