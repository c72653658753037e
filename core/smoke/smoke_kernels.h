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

/// One step of being carried along.
struct SmokeTrace {
    const SmokeSize& size;
    SmokePlanes flow; // m/s, in the middles of cells
    const SmokeCell* cells;
    const SmokeCell* carried; // of carry(), for correct()
    SmokeCell* out;
    float cells_per_speed; // how many cells 1 m/s goes in the step
};

/// Cells of blocks that follow one another along x, from `x` to before `end`, and one block along y and z.
struct SmokeRun {
    int x, end, y, z;
};

/// What changes cells in a step besides being carried: see SmokeVolume::act().
struct SmokeChange {
    const SmokeSize& size;
    SmokeCell* cells;
    SmokePlanes push;   // m/s^2, of what is seen
    SmokePlanes before; // m/s, velocities in the middles of cells when the step began
    SmokePlanes won;    // m/s, what they have won since
    const uint8_t* solid;
    float step_s, keep, cool, settle; // factors
    float fastest;                    // m/s
    float lift, weight;               // m/s^2 for each kelvin, for each density
    float least_density, least_heat;  // less is nothing
    float most_density, most_heat;
};

/// A grid of pressures. Rows, slices and rims as in SmokeSize. `open_*`: how far the lower face of a cell is
/// open, 0..1; `per_open`: one over the sum of a cell's six, 0 for cells that are closed; `clear`: of each
/// eight cells that follow one another in memory, whether all their faces are open.
struct PressureGrid {
    SmokeSize size;
    const float *open_x, *open_y, *open_z, *per_open;
    const char* clear;

    bool is_clear(size_t at) const { return clear[at / 8] != 0; }
};

struct SmokeKernels {
    /// Each cell as it was where the flow brings it from. Returns the sum of the densities that the cells
    /// had.
    double (*carry)(const SmokeTrace& trace, const SmokeRun& run);
    /// The same, put right by carrying back. Returns the sum of the densities that they have now.
    double (*correct)(const SmokeTrace& trace, const SmokeRun& run);

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
    /// The mean of four rows by their weights.
    void (*spread)(const SmokeSize& size, const float* const (&rows)[4], const float (&weights)[4],
                   float* out, int y, int z);
    /// Changes the cells; `holds`: of each block, set to 1 if it holds something. Returns the density that
    /// was too thin to be kept.
    double (*act)(const SmokeChange& change, const SmokeRun& run, char* holds);
    /// Gives the faces half of what each of their two cells has won. `settle`: how far they take on what the
    /// cells say in place of that.
    void (*to_faces)(const SmokeSize& size, const SmokePlanes& before, const SmokePlanes& won, float settle,
                     const SmokePlanes& faces, int y, int z);

    /// What flows out of each cell, m/s. Returns the sum of the sizes of the three differences of velocity
    /// within each.
    double (*outflow)(const SmokeSize& size, const SmokePlanes& faces, float* out, int y, int z);
    /// Sets every other cell to what balances its outflow without any neighbours, the rest to 0.
    void (*begin)(const PressureGrid& grid, const float* outflow, float* pressure, int colour, int y, int z);
    /// Sets every other cell to what balances its neighbours. `colour`: 0 or 1.
    void (*relax)(const PressureGrid& grid, const float* outflow, float* pressure, int colour, int y, int z);
    /// What outflow these pressures leave; 0 in closed cells.
    void (*remains)(const PressureGrid& grid, const float* outflow, const float* pressure, float* out, int y,
                    int z);
    /// Half the sum of what the eight cells in each cell of the next coarser grid have left: four times the
    /// mean, since that one's faces are twice as far apart.
    void (*restricted)(const PressureGrid& fine, const float* outflow, const float* pressure,
                       const SmokeSize& coarse, float* out, int y, int z);
    /// Adds what lies between the cells of a coarser grid. `rows`: four of that, with their `weights`;
    /// `beyond`: share of the first and of the last of them that lies before and after it; `mean`: room for
    /// a coarse row and one at each end.
    void (*prolong)(const PressureGrid& fine, const float* const (&rows)[4], const float (&weights)[4],
                    const float (&beyond)[2], int coarse_x, float* mean, float* pressure, int y, int z);
    /// The outflow that these pressures balance, and its product with them, summed over the row.
    double (*balances)(const PressureGrid& grid, const float* pressure, float* out, int y, int z);
    double (*product)(const SmokeSize& size, const float* a, const float* b, int y, int z);
    /// `a` = `a` * keep + `b` * share; returns the sum of the squares.
    double (*blend)(const SmokeSize& size, float keep, float* a, float share, const float* b, int y, int z);
    /// Takes the difference of pressures from each face that is open.
    void (*press)(const PressureGrid& grid, const float* pressure, const SmokePlanes& faces, int y, int z);
};

const SmokeKernels& smoke_kernels(Isa isa);

} // namespace ember
