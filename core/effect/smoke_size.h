// How many cells a volume of smoke has, where they are, and what they cost.
#pragma once

#include "core/effect/smoke.h"

#include <cstddef>
#include <cstdint>

namespace ember {

/// Cells are worked on in blocks of this many along each side; blocks that hold nothing are skipped.
constexpr int smoke_block = 8;

/// How many cells a volume has and where they are. Planes hold a float for each cell, or for the lower face
/// of each cell along one axis, with a rim round all: one cell along y and z, eight along x, so that loops
/// may run over the end of a row.
struct SmokeSize {
    int x = smoke_block, y = smoke_block, z = smoke_block; // cells
    float cell = 0.1f;                                     // m
    Vec3 low;                                              // m, the lower corner

    bool operator==(const SmokeSize&) const = default;
    size_t cells() const { return size_t(x) * size_t(y) * size_t(z); }
    size_t stride() const { return size_t((x + 7) / 8 * 8 + 16); }
    size_t slice() const { return stride() * size_t(y + 2); }
    size_t plane_size() const { return slice() * size_t(z + 2); }
    size_t at(int i, int j, int k) const {
        return size_t(k + 1) * slice() + size_t(j + 1) * stride() + size_t(i + 8);
    }
    Vec3 middle(int i, int j, int k) const {
        return low + Vec3{float(i) + 0.5f, float(j) + 0.5f, float(k) + 0.5f} * cell;
    }

    // Of cells with all their fields, with a rim of one.
    size_t packed_row() const { return size_t(x + 2); }
    size_t packed_slice() const { return packed_row() * size_t(y + 2); }
    size_t packed_size() const { return packed_slice() * size_t(z + 2); }
    size_t packed(int i, int j, int k) const {
        return size_t(k + 1) * packed_slice() + size_t(j + 1) * packed_row() + size_t(i + 1);
    }

    int blocks_x() const { return x / smoke_block; }
    int blocks_y() const { return y / smoke_block; }
    int blocks_z() const { return z / smoke_block; }
    /// The number of the block that a cell is in.
    int block_of(int i, int j, int k) const {
        return (k / smoke_block * blocks_y() + j / smoke_block) * blocks_x() + i / smoke_block;
    }
    int blocks() const { return blocks_x() * blocks_y() * blocks_z(); }
};

/// The cells of a volume: as many along the longest side as its resolution says, whole blocks of them. What
/// is more than the bound lies evenly at its sides and above it.
SmokeSize size_of(const Smoke& smoke);

/// Memory that a cell takes in the solver and in what is handed to the picture, in bytes.
constexpr size_t bytes_a_smoke_cell = 240;

/// The most cells that the volumes of an effect may have, in all.
constexpr int64_t most_smoke_cells = 8'000'000;

} // namespace ember
