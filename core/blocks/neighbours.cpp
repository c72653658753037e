#include "core/blocks/neighbours.h"

#include "kernels/rows.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <bit>
#include <cmath>

namespace ember {

namespace {

// Runs begin at most one hash before the first and end one behind the last.
constexpr size_t hash_padding = 4;
// More than any register holds.
constexpr size_t lane_padding = 16;

} // namespace

int32_t Neighbours::cell_of(float place) const {
    return int32_t(std::floor(std::clamp(place / cell_m, -1e9f, 1e9f)));
}

uint32_t Neighbours::hash_of(int32_t cell_x, uint32_t row) const {
    uint32_t h = row * 0x9e3779b9u;
    h = (h ^ (h >> 15)) * 0x2c1b3c6du;
    return ((h ^ (h >> 14)) + uint32_t(cell_x)) & hash_mask;
}

Neighbours neighbours_of(const std::vector<NeighbourSource>& sources, float cell_m,
                         float (*chance)(uint32_t seed, uint32_t number, uint32_t purpose)) {
    struct Stretch {
        const ParticleBlock* block;
        const NeighbourSource* source;
        size_t first;
    };
    std::vector<Stretch> stretches;
    size_t count = 0;
    for (const NeighbourSource& source : sources) {
        for (const auto& block : *source.blocks) {
            stretches.push_back({block.get(), &source, count});
            count += size_t(block->count);
        }
    }
    Neighbours all;
    all.count = count;
    all.cell_m = cell_m;
    all.hash_mask = uint32_t(std::bit_ceil(std::max<size_t>(count, 64)) - 1);
    const size_t hashes = size_t(all.hash_mask) + 1;

    std::vector<uint32_t> hash(count), row(count);
    tbb::parallel_for(size_t(0), stretches.size(), [&](size_t s) {
        const ParticleBlock& block = *stretches[s].block;
        for (int i = 0; i < block.count; ++i) {
            const size_t at = stretches[s].first + size_t(i);
            row[at] = Neighbours::row_of(all.cell_of(block.y[i]), all.cell_of(block.z[i]));
            hash[at] = all.hash_of(all.cell_of(block.x[i]), row[at]);
        }
    });

    std::vector<uint32_t> next(hashes + 1, 0);
    for (const uint32_t h : hash) {
        ++next[h + 1];
    }
    for (size_t h = 0; h < hashes; ++h) {
        next[h + 1] += next[h];
    }
    all.starts.assign(next.begin(), next.end());
    all.starts.resize(hashes + hash_padding, uint32_t(count));

    for (auto* values : {&all.x, &all.y, &all.z, &all.vx, &all.vy, &all.vz, &all.radius, &all.mass}) {
        values->resize(count + lane_padding);
    }
    all.rows.resize(count + lane_padding);
    all.originals.resize(count);
    for (size_t i = 0; i < count; ++i) {
        all.originals[next[hash[i]]++] = uint32_t(i);
    }
    std::vector<uint32_t> sorted_place(count);
    for (size_t i = 0; i < count; ++i) {
        sorted_place[all.originals[i]] = uint32_t(i);
    }
    tbb::parallel_for(size_t(0), stretches.size(), [&](size_t s) {
        const ParticleBlock& block = *stretches[s].block;
        const NeighbourSource& source = *stretches[s].source;
        for (int i = 0; i < block.count; ++i) {
            const size_t from = stretches[s].first + size_t(i);
            const size_t to = sorted_place[from];
            all.x[to] = block.x[i];
            all.y[to] = block.y[i];
            all.z[to] = block.z[i];
            all.vx[to] = block.vx[i];
            all.vy[to] = block.vy[i];
            all.vz[to] = block.vz[i];
            all.radius[to] = block.size[i] * 0.5f;
            all.mass[to] = source.mass_low + (source.mass_high - source.mass_low) *
                                                 chance(source.seed, block.number[i], FOR_MASS);
            all.rows[to] = row[from];
        }
    });
    return all;
}

} // namespace ember
