#include "core/effect/smoke_size.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

int whole_blocks(float length, float cell) {
    // Rounding must not take a block more for what just fits.
    const auto blocks = int(std::ceil(double(length) / (double(cell) * smoke_block) - 1e-3));
    return std::max(blocks, 1) * smoke_block;
}

} // namespace

SmokeSize size_of(const Smoke& smoke) {
    SmokeSize size;
    size.cell = std::max({smoke.size.x, smoke.size.y, smoke.size.z}) / float(smoke.resolution);
    size.x = whole_blocks(smoke.size.x, size.cell);
    size.y = whole_blocks(smoke.size.y, size.cell);
    size.z = whole_blocks(smoke.size.z, size.cell);
    size.low = {smoke.position.x - 0.5f * float(size.x) * size.cell, smoke.position.y - 0.5f * smoke.size.y,
                smoke.position.z - 0.5f * float(size.z) * size.cell};
    return size;
}

} // namespace ember
