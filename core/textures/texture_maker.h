// Makes the pictures that textures describe.
//
//     const Image picture = made_texture(texture, 256, nullptr);
#pragma once

#include "core/assets/image.h"
#include "core/base/progress.h"
#include "core/effect/look.h"

namespace ember {

constexpr int least_texture_side = 16;
constexpr int most_texture_side = 4096;

/// The picture of a texture, `side` pixels wide and high (a power of two keeps patterns exact at the seam).
/// An image texture takes its pixels from `image` and keeps that one's own size; without one it is white.
/// Empty if it was cancelled.
Image made_texture(const Texture& texture, int side, const Image* image, const Progress& progress = {});

} // namespace ember
