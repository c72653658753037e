// Particles live in blocks: plain arrays short enough that a block stays in a core's cache while every force
// and collider runs over it.
#pragma once

#include "core/blocks/mark.h"

#include <cstdint>
#include <memory>
#include <vector>

namespace ember {

constexpr int block_size = 512;

/// The first `count` entries of each array are live. The rest holds old or zero numbers: kernels may compute
/// on them (whole registers), nobody reads the result.
struct alignas(64) ParticleBlock {
    float x[block_size] = {}, y[block_size] = {}, z[block_size] = {};    // m
    float vx[block_size] = {}, vy[block_size] = {}, vz[block_size] = {}; // m/s
    float age[block_size] = {};       // s; negative: born within the coming step, that much after its start
    float lifetime[block_size] = {};  // s
    float size[block_size] = {};      // m, diameter at birth
    uint32_t number[block_size] = {}; // how many this source bore before it
    Mark mark[block_size] = {};       // own tint, and what it sticks to
    int count = 0;
};

/// Of one source, in order of birth.
using ParticleBlocks = std::vector<std::unique_ptr<ParticleBlock>>;

/// Bytes of one particle's state.
constexpr int particle_bytes = int(sizeof(ParticleBlock)) / block_size;

/// What acts on the particles of a block within a step: v' = push - damping v.
struct alignas(64) ForceSums {
    float push_x[block_size], push_y[block_size], push_z[block_size]; // m/s^2
    float damping[block_size];                                        // 1/s
    float carry_x[block_size], carry_y[block_size],
        carry_z[block_size]; // m/s beside the velocity; only written where it is used
    float hold[block_size];  // factor on all forces but gravity; only written where it is used
    float same_x[block_size], same_y[block_size], same_z[block_size]; // how springs resist: see springs.kern;
    float mixed_x[block_size], mixed_y[block_size], mixed_z[block_size]; // only written where there are some
    float ends[block_size]; // 1 for what a force ends; only written where one does
    bool has_springs = false;
    bool has_ends = false;
};

/// Accelerations found for the particles of a block beforehand, m/s^2; null pointers: none.
struct FoundPush {
    const float* x = nullptr;
    const float* y = nullptr;
    const float* z = nullptr;
};

/// Where the particles of a block were at the start of the step.
struct alignas(64) PathStarts {
    float x[block_size], y[block_size], z[block_size];
    float vx[block_size], vy[block_size], vz[block_size];
};

} // namespace ember
