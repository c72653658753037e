// Compiled once for each instruction set; EMBER_ISA names the namespace (see render/CMakeLists.txt).
#include "render/render_kernels.h"

#include "kernels/prelude_cpp.h"

#include <algorithm>
#include <cmath>

namespace ember::EMBER_ISA {

#include "kernels/common.kern"

#include "kernels/random.kern"

#include "kernels/surfaces.kern"

#include "render/shade.h"

namespace {

void stage_row(const StageScene& scene, int y, int left, int right, float share, float* red, float* green,
               float* blue, float* depth) {
    const float scale = 2 / (float(scene.height) * scene.focal);
    const float up = (float(scene.height) * 0.5f - float(y) - scene.shift_y) * scale;
    const rvec3 row_direction = every_lane(scene.forward + scene.up * up);
    for (int x = left; x < right; x += lanes) {
        const real column =
            (lane_index() + real(float(x) + scene.shift_x - float(scene.width) * 0.5f)) * real(scale);
        const rvec3 direction = row_direction + every_lane(scene.right) * column;
        const real size = sqrt(dot(direction, direction));
        real distance = real(far_away);
        const rvec3 light = seen_light(scene, every_lane(scene.eye), direction / size, distance);
        const real keep = real(1 - share);
        store(red + x, load(red + x) * keep + light.x * real(share));
        store(green + x, load(green + x) * keep + light.y * real(share));
        store(blue + x, load(blue + x) * keep + light.z * real(share));
        if (share == 1) {
            store(depth + x, distance / size);
        }
    }
}

// The pixel that an edge falls into, within the tile; edges may lie far outside of what an int holds.
int pixel_at(float edge, int low, int high) {
    return int(std::clamp(edge, float(low), float(high)));
}

// One sprite, clipped to the tile. `covers`: it hides what is behind it; `fades`: surfaces may be in front of
// it or near. `slants`: its rows do not all have the same middle.
template <bool covers, bool fades, bool slants>
void splat_one(const Sprite& sprite, const Tile& tile, int stride, float* red, float* green, float* blue,
               const float* depth) {
    const real zero = real(0.0f);
    const real one = real(1.0f);
    // Rows and columns whose pixels have their middle inside.
    const int top = pixel_at(sprite.y - sprite.height + 0.5f, tile.top, tile.bottom);
    const int bottom = pixel_at(sprite.y + sprite.height + 0.5f, tile.top, tile.bottom);
    int left = pixel_at(sprite.x - sprite.width + 0.5f, tile.left, tile.right);
    int right = pixel_at(sprite.x + sprite.width + 0.5f, tile.left, tile.right);
    // What fits into one register takes one from wherever it begins, but none beyond the tile; wider ones
    // begin on a boundary.
    left = right - left <= lanes ? std::min(left, tile.right - lanes) : left / lanes * lanes;
    const real steepness = real(sprite.steepness);
    const real sprite_depth = real(sprite.depth);
    const real fade = real(sprite.fade);
    const real cover = real(sprite.cover);
    const rvec3 colour = every_lane({sprite.red, sprite.green, sprite.blue});
    // Small ones take the same columns in every row, which the processor predicts; large ones only what they
    // cover.
    const bool is_large = sprite.width > 16;
    for (int y = top; y < bottom; ++y) {
        const float dy = float(y) + 0.5f - sprite.y;
        const float chord = sprite.square - dy * dy * sprite.narrowing;
        const float middle = slants ? sprite.x + dy * sprite.slant : sprite.x;
        if (is_large) {
            const float reach = std::sqrt(std::max(chord, 0.0f));
            left = pixel_at(middle - reach + 0.5f, tile.left, tile.right) / lanes * lanes;
            right = pixel_at(middle + reach + 0.5f, tile.left, tile.right);
        }
        const size_t row = size_t(y) * size_t(stride);
        const real chords = real(chord);
        real dx = lane_index() + real(float(left) + 0.5f - middle);
        for (int x = left; x < right; x += lanes) {
            const size_t at = row + size_t(x);
            const real root = min(max((chords - dx * dx) * steepness, zero), one);
            real amount = root * root;
            if constexpr (fades) {
                amount =
                    amount * min(max((real::load_unaligned(depth + at) - sprite_depth) * fade, zero), one);
            }
            const real keep = one - amount * cover;
            const auto blend = [&](float* light, real added) {
                const real before = real::load_unaligned(light + at);
                const real after = (covers ? before * keep : before) + amount * added;
                after.store_unaligned(light + at);
            };
            blend(red, colour.x);
            blend(green, colour.y);
            blend(blue, colour.z);
            dx = dx + real(float(lanes));
        }
    }
}

void splat(std::span<const Sprite> sprites, std::span<const uint32_t> order, const Tile& tile, int stride,
           float* red, float* green, float* blue, const float* depth) {
    constexpr size_t ahead = 6;
    for (size_t i = 0; i < order.size(); ++i) {
        // A tile's sprites lie scattered in memory: fetched some turns early, none is waited for.
        __builtin_prefetch(&sprites[order[std::min(i + ahead, order.size() - 1)]]);
        const Sprite sprite = sprites[order[i]]; // a copy, which the stores below cannot touch
        const bool fades = (tile.nearest - sprite.depth) * sprite.fade < 1;
        const auto pick = [&]<bool slants>() {
            return sprite.cover > 0
                       ? (fades ? splat_one<true, true, slants> : splat_one<true, false, slants>)
                       : (fades ? splat_one<false, true, slants> : splat_one<false, false, slants>);
        };
        const auto draw =
            sprite.slant != 0 ? pick.template operator()<true>() : pick.template operator()<false>();
        draw(sprite, tile, stride, red, green, blue, depth);
    }
}

void halve_row(const float* upper, const float* lower, int half_width, float threshold, float* out) {
    for (int x = 0; x < half_width; ++x) {
        const float mean = (upper[2 * x] + upper[2 * x + 1] + lower[2 * x] + lower[2 * x + 1]) * 0.25f;
        out[x] = mean > threshold ? mean - threshold : 0.0f;
    }
}

void enlarge_row(const float* near, const float* far, int half_width, int width, float gain, float* scratch,
                 float* out) {
    // scratch holds the blended row with its ends repeated.
    for (int x = 0; x < half_width; ++x) {
        scratch[x + 1] = (near[x] * 0.75f + far[x] * 0.25f) * gain;
    }
    scratch[0] = scratch[1];
    scratch[half_width + 1] = scratch[half_width];
    const int pairs = std::min(width / 2, half_width);
    for (int x = 0; x < pairs; ++x) {
        const float middle = scratch[x + 1] * 0.75f;
        out[2 * x] += middle + scratch[x] * 0.25f;
        out[2 * x + 1] += middle + scratch[x + 2] * 0.25f;
    }
    if (width % 2 != 0) {
        out[width - 1] += scratch[half_width];
    }
}

// The 8-bit value of light in every lane. The floating-point bits of the light are the place in the table.
KERNEL kuint toned(real light, const int32_t* tone, kuint dither) {
    // Written so that a NaN becomes black.
    const real exposed =
        min(sel(light > real(ToneTable::lowest), light, real(ToneTable::lowest)), real(ToneTable::highest));
    const auto entry = xsimd::bitwise_cast<xsimd::batch<int32_t>>(exposed) >> ToneTable::shift;
    const auto value = xsimd::batch<int32_t>::gather(tone, entry - int32_t(ToneTable::first_bits));
    return (xsimd::bitwise_cast<kuint>(value) + dither) >> 8;
}

void resolve_row(const float* red, const float* green, const float* blue, int width, int y, float exposure,
                 const int32_t* tone, uint32_t* pixels) {
    for (int x = 0; x < width; x += lanes) {
        // Interleaved gradient noise (J. Jimenez, 2014: frac(52.98 frac(0.0671 x + 0.0058 y))) in fixed
        // point: less than one step of 8 bits, so that dark gradients do not band.
        const kuint column = lane_index_uint() + kuint(uint32_t(x));
        const kuint inner = (column * kuint(4398u) + kuint(uint32_t(y) * 382u)) & kuint(0xffffu);
        const kuint dither = ((inner * kuint(53u)) >> 8) & kuint(255u);
        const kuint pixel = kuint(0xff000000u) | (toned(load(red + x) * real(exposure), tone, dither) << 16) |
                            (toned(load(green + x) * real(exposure), tone, dither) << 8) |
                            toned(load(blue + x) * real(exposure), tone, dither);
        if (x + lanes <= width) {
            pixel.store_unaligned(pixels + x);
        } else {
            alignas(64) uint32_t last[lanes];
            pixel.store_aligned(last);
            std::copy_n(last, width - x, pixels + x);
        }
    }
}

} // namespace

extern const RenderKernels render_set = {stage_row, splat, halve_row, enlarge_row, resolve_row};

} // namespace ember::EMBER_ISA
