// The inner loops of smoke, compiled once for each instruction set like the particle kernels.
#pragma once

#include "core/base/isa.h"
#include "core/smoke/pressure_kernels.h"
#include "kernels/rows.h"

namespace ember {

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

/// What forces that are alike everywhere make of a velocity v: v + pull * density, and then that * keep +
/// flow.
struct EvenBlow {
    Vec3 pull; // m/s for a density of 1
    float keep = 1;
    Vec3 flow; // m/s
};

/// What changes cells in a step besides being carried: see SmokeVolume::act().
struct SmokeChange {
    const SmokeSize& size;
    SmokeCell* cells;
    SmokePlanes push;   // m/s^2, of what is seen
    SmokePlanes before; // m/s, velocities in the middles of cells when the step began
    SmokePlanes won;    // m/s, what they have won since
    const uint16_t* solid;
    float step_s, keep, cool, settle; // factors
    float fastest;                    // m/s
    float lift, weight;               // m/s^2 for each kelvin, for each density
    float least_density, least_heat;  // less is nothing
    float most_density, most_heat;
    EvenBlow even;
    float most_pulled; // density: more is pulled no harder
};

struct BlockKernels;

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

    /// Adds to the middles of a block's cells what lies between even points, `side` of them along each side
    /// (2, 3 or 5) from one corner of the block to the other; x fastest.
    void (*add_between)(const float* points, int side, float* cells);

    const PressureKernels* pressure; // these two are compiled for the same instruction set
    const BlockKernels* blocks;
};

const SmokeKernels& smoke_kernels(Isa isa);

} // namespace ember
