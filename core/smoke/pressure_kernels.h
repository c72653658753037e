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

struct TwoSums {
    double first = 0, second = 0;
};

/// Of the slice at z, unless said otherwise.
struct PressureKernels {
    /// What flows out of each cell, m/s. Returns the sum of the sizes of the three differences of velocity
    /// within each.
    double (*outflow)(const SmokeSize& size, const SmokePlanes& faces, float* out, int z);
    /// Moves every other cell towards what balances its outflow without any neighbours; the rest is set to 0.
    void (*begin)(const PressureGrid& grid, const float* outflow, float* pressure, int colour, int z);
    /// Moves every other cell towards what balances its neighbours, and a little beyond. `colour`: 0 or 1.
    void (*relax)(const PressureGrid& grid, const float* outflow, float* pressure, int colour, int z);
    /// What outflow these pressures leave, 0 in closed cells; returns its products with itself and `other`.
    TwoSums (*remains)(const PressureGrid& grid, const float* outflow, const float* pressure,
                       const float* other, float* out, int z);
    /// Half the sum of what the eight cells in each cell of the next coarser grid have left: four times the
    /// mean, since that one's faces are twice as far apart. `z`: of the coarser grid.
    void (*restricted)(const PressureGrid& grid, const float* outflow, const float* pressure,
                       const SmokeSize& coarse, float* out, int z);
    /// Adds what lies between the cells of a coarser grid, to the row at y, z. `rows`: four of that, with
    /// their `weights`; `beyond`: share of the first and of the last of them that lies before and after it;
    /// `mean`: room for a coarse row and one at each end.
    void (*prolong)(const PressureGrid& fine, const float* const (&rows)[4], const float (&weights)[4],
                    const float (&beyond)[2], int coarse_x, float* mean, float* pressure, int y, int z);
    /// The outflow that these pressures balance, and its product with them.
    double (*balances)(const PressureGrid& grid, const float* pressure, float* out, int z);
    /// The product of `a` with `b`, and that with `c`.
    TwoSums (*products)(const SmokeSize& size, const float* a, const float* b, const float* c, int z);
    /// `a` = `a` * keep + `b` * share.
    void (*blend)(const SmokeSize& size, float keep, float* a, float share, const float* b, int z);
    /// `a` = `a` - `b` * share; returns the sum of the squares.
    double (*take)(const SmokeSize& size, float* a, float share, const float* b, int z);
    /// Takes the difference of pressures from each face that is open.
    void (*press)(const PressureGrid& grid, const float* pressure, const SmokePlanes& faces, int z);
};

} // namespace ember
