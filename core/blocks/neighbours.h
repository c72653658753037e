// Finding the particles near a particle, on a hash grid.
//
// All particles of the sources that take part are sorted by the cell they are in (a counting sort: linear,
// and the same on any number of threads). Cells in a row along x follow one another, so that what is near a
// particle lies in nine runs of memory.
//
//     Neighbours all = neighbours_of(pools, view_m);
//     // all.x[all.starts[h]] ... all.x[all.starts[h + 1] - 1]: the particles whose cell has the hash h
#pragma once

#include "core/blocks/block.h"
#include "kernels/vec3.h"

#include <cstddef>
#include <cstdint>
#include <vector>

namespace ember {

struct FlockResult {
    Vec3 apart, heading, middle;
    float seen;
};

struct ContactResult {
    Vec3 kick, shift;
};

/// Sorted by cell. The arrays are padded, so that whole registers may be read beyond the end.
struct Neighbours {
    float cell_m = 1;
    uint32_t hash_mask = 0;
    std::vector<uint32_t> starts; // by hash, one more than there are hashes, and a few beyond for runs
    std::vector<float> x, y, z, vx, vy, vz, radius, mass;
    std::vector<uint32_t> rows;      // which row of cells along x, to tell apart rows with one hash
    std::vector<uint32_t> originals; // place in the order of pools, blocks and particles
    size_t count = 0;

    int32_t cell_of(float place) const;
    static uint32_t row_of(int32_t y, int32_t z) { return uint32_t(y & 0xffff) | uint32_t(z & 0xffff) << 16; }
    uint32_t hash_of(int32_t cell_x, uint32_t row) const;
};

/// A source that takes part, and the masses of its particles.
struct NeighbourSource {
    const ParticleBlocks* blocks = nullptr;
    uint32_t seed = 0;
    float mass_low = 1, mass_high = 1;
};

/// `chance`: the hash of the kernels (BlockKernels::chance), for masses.
Neighbours neighbours_of(const std::vector<NeighbourSource>& sources, float cell_m,
                         float (*chance)(uint32_t seed, uint32_t number, uint32_t purpose));

} // namespace ember
