// The inner loops of smoke, compiled once for each instruction set like the particle kernels.
#pragma once

#include "core/base/isa.h"
#include "core/smoke/smoke_grid.h"
#include "kernels/rows.h"

namespace ember {

/// Three planes, one for each axis.
struct SmokePlanes {
    float* x;
    float* y;
    float* z;
};

/// One step of being carried along, for the cells of a block.
struct SmokeTrace {
    const SmokeSize& size;
    SmokePlanes flow; // m/s, in the middles of cells
    const SmokeCell* cells;
    const SmokeCell* carried; // of carry(), for correct()
    SmokeCell* out;
    float cells_per_speed; // how many cells 1 m/s goes in the step
};

/// A grid of pressures. Rows, slices and rims as in SmokeSize. `open_*`: how far the lower face of a cell is
/// open, 0..1; `per_open`: one over the sum of a cell's six, 0 for cells that are closed; `clear`: of each
/// row, whether all its faces are open.
struct PressureGrid {
    SmokeSize size;
    const float *open_x, *open_y, *open_z, *per_open;
    const char* clear;

    bool is_clear(int y, int z) const { return clear[size_t(z) * size_t(size.y) + size_t(y)] != 0; }
};

struct SmokeKernels {
    /// Each cell of the block at x, y, z (its lowest cell) as it was where the flow brings it from. Returns
    /// the sum of the densities that the block's cells had.
    double (*carry)(const SmokeTrace& trace, int x, int y, int z);
    /// The same, put right by carrying back. Returns the sum of the densities that they have now.
    double (*correct)(const SmokeTrace& trace, int x, int y, int z);

    // Of the row at y, z:
    /// Velocities in the middles of cells from those of their faces.
    void (*middles)(const SmokeSize& size, const SmokePlanes& faces, const SmokePlanes& out, int y, int z);
    /// The curl of the velocity, 1/s, and how strong it is.
    void (*swirl)(const SmokeSize& size, const SmokePlanes& velocity, const SmokePlanes& out, float* strength,
                  int y, int z);
    /// Adds the push that keeps swirls alive, m/s^2.
    void (*confine)(const SmokeSize& size, const SmokePlanes& swirl, const float* strength, float amount,
                    const SmokePlanes& out, int y, int z);
    /// Adds turbulence of root mean square `amount`.
    void (*stir)(const SmokeSize& size, const ForceRow& row, float amount, const SmokePlanes& out, int y,
                 int z);
    /// Gives the faces half of what each of their two cells has won. `settle`: how far they take on what the
    /// cells say in place of that.
    void (*to_faces)(const SmokeSize& size, const SmokePlanes& before, const SmokePlanes& won, float settle,
                     const SmokePlanes& faces, int y, int z);

    /// What flows out of each cell, m/s.
    void (*outflow)(const SmokeSize& size, const SmokePlanes& faces, float* out, int y, int z);
    /// Sets every other cell to what balances its neighbours. `colour`: 0 or 1.
    void (*relax)(const PressureGrid& grid, const float* outflow, float* pressure, int colour, int y, int z);
    /// What outflow these pressures leave; 0 in closed cells.
    void (*remains)(const PressureGrid& grid, const float* outflow, const float* pressure, float* out, int y,
                    int z);
    /// The outflow that these pressures balance, and its product with them, summed over the row.
    double (*balances)(const PressureGrid& grid, const float* pressure, float* out, int y, int z);
    double (*product)(const SmokeSize& size, const float* a, const float* b, int y, int z);
    /// `a` = `a` * keep + `b` * share; returns the sum of the squares.
    double (*blend)(const SmokeSize& size, float keep, float* a, float share, const float* b, int y, int z);
    /// Takes the difference of pressures from each face that is open.
    void (*press)(const PressureGrid& grid, const float* pressure, const SmokePlanes& faces, int y, int z);
    /// The sum of the sizes of the three differences of velocity within each cell.
    double (*stretch)(const SmokeSize& size, const SmokePlanes& faces, int y, int z);
};

const SmokeKernels& smoke_kernels(Isa isa);

} // namespace ember
