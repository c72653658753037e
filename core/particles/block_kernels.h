// The kernels of kernels/ as functions on blocks, one set for each instruction set.
//
//     const BlockKernels& run = block_kernels(best_isa());
//     run.clear(block, sums);
//     run.add_force(row, block, sums);
//     run.advance(sums, step_s, block, starts);
//     run.collide(collider, starts, step_s, block);
#pragma once

#include "core/base/isa.h"
#include "core/particles/block.h"
#include "kernels/rows.h"

namespace ember {

struct BlockKernels {
    /// Writes `count` newborns, numbered from `first`, to the start of an empty block. `waits[i]` (s, 0 or
    /// less) goes to age.
    void (*give_birth)(const BirthRow& row, uint32_t first, int count, const float* waits,
                       ParticleBlock& block);
    void (*clear)(const ParticleBlock& block, ForceSums& sums);
    void (*add_force)(const ForceRow& row, const ParticleBlock& block, ForceSums& sums);
    /// Moves and ages the particles; keeps where they started.
    void (*advance)(const ForceSums& sums, float step_s, ParticleBlock& block, PathStarts& starts);
    void (*collide)(const ColliderRow& row, const PathStarts& starts, float step_s, ParticleBlock& block);
};

const BlockKernels& block_kernels(Isa isa);

} // namespace ember
