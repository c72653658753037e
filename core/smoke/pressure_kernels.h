// The inner loops of the pressure's solver, compiled once for each instruction set like those of smoke.
#pragma once

#include "core/smoke/smoke_grid.h"

#include <cstddef>

namespace ember {

/// Three planes, one for each axis.
struct SmokePlanes {
    float* x;
    float* y;
    float* z;
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

/// Of the row at y, z.
struct PressureKernels {
    /// What flows out of each cell, m/s. Returns the sum of the sizes of the three differences of velocity
    /// within each.
    double (*outflow)(const SmokeSize& size, const SmokePlanes& faces, float* out, int y, int z);
    /// Moves every other cell towards what balances its outflow without any neighbours; the rest is set to 0.
    void (*begin)(const PressureGrid& grid, const float* outflow, float* pressure, int colour, int y, int z);
    /// Moves every other cell towards what balances its neighbours, and a little beyond. `colour`: 0 or 1.
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

} // namespace ember
