// A picture is worked on in tiles.
#pragma once

#include "render/render_kernels.h"

#include <algorithm>

namespace ember {

// Pixels. A tile's light, 24 kB, stays in a core's first-level cache while its sprites are drawn.
constexpr int tile_width = 64;
constexpr int tile_height = 32;

inline int tiles_across(const LightPlanes& light) {
    return (light.width + tile_width - 1) / tile_width;
}

inline int tiles_down(const LightPlanes& light) {
    return (light.height + tile_height - 1) / tile_height;
}

inline Tile tile_at(const LightPlanes& light, int index, float nearest) {
    const int left = index % tiles_across(light) * tile_width;
    const int top = index / tiles_across(light) * tile_height;
    return {left, top, std::min(left + tile_width, light.stride), std::min(top + tile_height, light.height),
            nearest};
}

} // namespace ember
