// The kernels of kernels/ as functions on blocks, one set for each instruction set.
//
//     const BlockKernels& run = block_kernels(best_isa());
//     run.clear(life, block, sums);
//     run.add_force(row, block, step_s, found, sums);
//     run.advance(life, sums, step_s, block, starts);
//     run.collide(collider, starts, step_s, block, impacts);
#pragma once

#include "core/base/isa.h"
#include "core/blocks/block.h"
#include "core/blocks/neighbours.h"
#include "kernels/rows.h"

namespace ember {

/// Where newborns come from: the middle of the birth shape, the velocity that they take over, and how much
/// earlier than the end of the step each is born.
struct alignas(64) BirthOrigins {
    float x[block_size], y[block_size], z[block_size];
    float vx[block_size], vy[block_size], vz[block_size];
    float moment[block_size]; // s after the start of the step
};

/// What the age and the own mass of a source's particles change, and which parts of a step it needs at all.
struct LifeUse {
    LifeRow row;
    bool holds = false;   // forces take hold by mass or over life
    bool limits = false;  // there is a speed limit
    bool carries = false; // a force displaces
};

/// How the particles of a block lie in space: a quaternion from their own axes to the world, and factors on
/// their size along their own axes.
struct alignas(64) BlockForms {
    float turn_x[block_size], turn_y[block_size], turn_z[block_size], turn_w[block_size];
    float stretch_x[block_size], stretch_y[block_size], stretch_z[block_size];
};

/// How a collider met the particles of a block.
struct alignas(64) Impacts {
    float speed[block_size]; // m/s: tiny for what rests or slides, 0 for what was not stopped
    float normal_x[block_size], normal_y[block_size], normal_z[block_size]; // where it was; else not written

    Vec3 normal(int i) const { return {normal_x[i], normal_y[i], normal_z[i]}; }
};

struct BlockKernels {
    /// Writes `count` newborns, numbered from `first`, to the start of an empty block. Their age is minus
    /// their moment.
    void (*give_birth)(const BirthRow& row, uint32_t first, int count, const BirthOrigins& origins,
                       ParticleBlock& block);
    void (*clear)(const LifeUse& life, const ParticleBlock& block, ForceSums& sums);
    /// `found`: of FORCE_FOUND, accelerations x, y, z for each particle of the block; else not read.
    void (*add_force)(const ForceRow& row, const ParticleBlock& block, float step_s, const FoundPush& found,
                      ForceSums& sums);
    /// Moves and ages the particles; keeps where they started.
    void (*advance)(const LifeUse& life, const ForceSums& sums, float step_s, ParticleBlock& block,
                    PathStarts& starts);
    /// `impacts`: if not null, receives how each particle was met.
    void (*collide)(const ColliderRow& row, const PathStarts& starts, float step_s, ParticleBlock& block,
                    Impacts* impacts);
    /// Of a hull, in which order paths meet it and others: the share of the step before they do, less how
    /// deep (m) one is inside that starts there; 2 for those that do not.
    void (*meet_hull)(const ColliderRow& row, const PathStarts& starts, const ParticleBlock& block,
                      float* order);
    void (*form)(const FormRow& row, const ParticleBlock& block, BlockForms& forms);
    void (*flock)(const FlockRow& row, const Neighbours& all, size_t first, size_t last,
                  FlockResult* results);
    /// How many touch each particle, by its sorted place.
    void (*count_contacts)(const ContactRow& row, const Neighbours& all, float step_s, size_t first,
                           size_t last, float* counts);
    /// `counts`: of all particles, padded like the arrays of `all`.
    void (*contacts)(const ContactRow& row, const Neighbours& all, const std::vector<float>& counts,
                     float step_s, size_t first, size_t last, ContactResult* results);
    /// Values that tests and lenses look at.
    float (*reach_share)(const ReachRow& row, const Vec3& place);
    float (*chance)(uint32_t seed, uint32_t number, uint32_t purpose);
};

const BlockKernels& block_kernels(Isa isa);

} // namespace ember
