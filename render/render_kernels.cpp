// Compiled once for each instruction set; EMBER_ISA names the namespace (see render/CMakeLists.txt).
#include "render/render_kernels.h"

#include "core/effect/effect.h"

#include "kernels/prelude_cpp.h"

#include <algorithm>
#include <cmath>

namespace ember::EMBER_ISA {

#include "kernels/common.kern"

#include "kernels/random.kern"

#include "kernels/surfaces.kern"

#include "render/shade.h"

#include "render/coats.h"

#include "render/paint.h"

#include "render/paint_cards.h"

#include "render/paint_bodies.h"

namespace {

void stage_row(const StageScene& scene, int y, int left, int right, float share, float* red, float* green,
               float* blue, float* depth, float* mirror) {
    const float scale = 2 / (float(scene.height) * scene.focal);
    const float up = (float(scene.height) * 0.5f * (1 + scene.lowered) - float(y) - scene.shift_y) * scale;
    const rvec3 row_direction = every_lane(scene.forward + scene.up * up);
    for (int x = left; x < right; x += lanes) {
        const real column =
            (lane_index() + real(float(x) + scene.shift_x - float(scene.width) * 0.5f)) * real(scale);
        const rvec3 direction = row_direction + every_lane(scene.right) * column;
        const real size = sqrt(dot(direction, direction));
        real distance = real(far_away);
        real mirrored = real(0.0f);
        const rvec3 light = seen_light(scene, every_lane(scene.eye), direction / size, distance, mirrored);
        const real keep = real(1 - share);
        store(red + x, load(red + x) * keep + light.x * real(share));
        store(green + x, load(green + x) * keep + light.y * real(share));
        store(blue + x, load(blue + x) * keep + light.z * real(share));
        if (share == 1) {
            store(depth + x, distance / size);
            store(mirror + x, mirrored);
        }
    }
}

void arrives_row(const StageScene& scene, const Vec3* lamp, const float* x, const float* y, const float* z,
                 int count, float* shares) {
    for (int i = 0; i < count; i += lanes) {
        const rvec3 place = {load_any(x + i), load_any(y + i), load_any(z + i)};
        real share;
        if (lamp != nullptr) {
            const rvec3 way = every_lane(*lamp) - place;
            const real distance = sqrt(max(dot(way, way), real(1e-6f)));
            share = lamp_share(scene, place, way / distance, distance);
        } else {
            share = sun_share(scene, place);
        }
        store_any(shares + i, share);
    }
}

// How far places on a grid across the sun's light are lit, between four cells, each lit or not.
KERNEL real lit_between(const float* depths, const SunRow& row, real u, real v, real level) {
    const real x = u - real(0.5f), y = v - real(0.5f), last = real(float(row.size - 1));
    const kmask inside = both(both(x >= real(0.0f), y >= real(0.0f)), both(x < last, y < last));
    const real left = floor(x), top = floor(y), fx = x - left, fy = y - top;
    const real first = sel(inside, top * real(float(row.size)) + left, real(0.0f));
    const auto seen = [&](int beyond) {
        const real reached = fetch(depths, first + real(float(beyond)));
        return unit(real(2.0f) - (reached - level) * real(1 / row.softness));
    };
    const real lit = mixed(mixed(seen(0), seen(1), fx), mixed(seen(row.size), seen(row.size + 1), fx), fy);
    return sel(inside, lit, real(1.0f));
}

void darken_row(const SunRow& row, int count, const float* depths, float* red, float* green, float* blue) {
    const real zero = real(0.0f), size = real(float(row.size));
    for (int i = 0; i < count; i += lanes) {
        const real x = lane_index() + real(float(i)), depth = load(depths + i);
        const auto at = [&](int axis) {
            return real(row.from[axis]) + depth * (real(row.ray[axis]) + x * real(row.step[axis]));
        };
        const real u = at(0), v = at(1), level = at(2);
        const kmask inside = both(both(u > zero, v > zero), both(u < size, v < size));
        if (!any_lane(inside)) {
            continue;
        }
        // Most patches hold nothing that is nearer to the sun.
        const real per_patch = real(1 / float(row.patch));
        const real patch =
            sel(inside, floor(v * per_patch) * (size * per_patch) + floor(u * per_patch), zero);
        if (!any_lane(both(inside, fetch(row.highest, patch) > level))) {
            continue;
        }
        real dark = sel(inside, real(1.0f) - lit_between(row.pieces, row, u, v, level), zero);
        if (!any_lane(dark > zero)) {
            continue;
        }
        dark = dark * lit_between(row.colliders, row, u, v, level); // less where the stage's own shadows are
        const auto darken = [&](float* light, float kept) {
            store(light + i, load(light + i) * (real(1.0f) - dark * real(1 - kept)));
        };
        darken(red, row.kept.x);
        darken(green, row.kept.y);
        darken(blue, row.kept.z);
    }
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

void draw_segment(const Segment& s, const Tile& tile, int stride, float* red, float* green, float* blue,
                  const float* depth) {
    const real zero = real(0.0f), one = real(1.0f);
    const float wide = std::max(s.half_a, s.half_b);
    const int top = pixel_at(std::min(s.ay, s.by) - wide + 0.5f, tile.top, tile.bottom);
    const int bottom = pixel_at(std::max(s.ay, s.by) + wide + 0.5f, tile.top, tile.bottom);
    const float first = std::min(s.ax, s.bx) - wide, last = std::max(s.ax, s.bx) + wide;
    const float way_x = s.bx - s.ax, way_y = s.by - s.ay;
    const float size = std::max(std::sqrt(way_x * way_x + way_y * way_y), 1e-3f);
    const real along_x = real(way_x / (size * size)), aside_y = real(way_y / size);
    // Along a row the ribbon is as long as its width and slant make it.
    const bool is_steep = std::fabs(way_y) > 0.2f * size;
    const float slant = is_steep ? way_x / way_y : 0;
    const float reach = is_steep ? wide * size / std::fabs(way_y) : 0;
    const real half_a = real(s.half_a), half_more = real(s.half_b - s.half_a);
    const real depth_a = real(s.depth_a), depth_more = real(s.depth_b - s.depth_a);
    const real before_a = real(s.ends_at_a ? -wide : 0), beyond_b = real(s.ends_at_b ? wide : 0);
    const real rounded_a = real(s.ends_at_a ? size : 0), rounded_b = real(s.ends_at_b ? size : 0);
    const real cover_a = real(s.cover_a), cover_more = real(s.cover_b - s.cover_a);
    for (int y = top; y < bottom; ++y) {
        const size_t row = size_t(y) * size_t(stride);
        const float from_a = float(y) + 0.5f - s.ay, from_b = float(y) + 0.5f - s.by;
        const float middle = s.ax + from_a * slant;
        int left =
            pixel_at((is_steep ? std::max(middle - reach, first) : first) + 0.5f, tile.left, tile.right);
        const int right =
            pixel_at((is_steep ? std::min(middle + reach, last) : last) + 0.5f, tile.left, tile.right);
        // What fits into one register takes one, but none beyond the tile; wider ones begin on a boundary.
        left = right - left <= lanes ? std::min(left, tile.right - lanes) : left / lanes * lanes;
        for (int x = left; x < right; x += lanes) {
            const size_t at = row + size_t(x);
            const real dx = lane_index() + real(float(x) + 0.5f - s.ax);
            const real dx_b = lane_index() + real(float(x) + 0.5f - s.bx);
            const kmask inside = both(dx * real(s.a_normal_x) + real(from_a * s.a_normal_y) >= before_a,
                                      dx_b * real(s.b_normal_x) + real(from_b * s.b_normal_y) < beyond_b);
            // How far along, how far aside, and how far beyond an end.
            const real along = dx * along_x + real(from_a * way_y / (size * size));
            const real t = min(max(along, zero), one);
            const real aside = dx * aside_y - real(from_a * way_x / size);
            const real beyond = min(along, zero) * rounded_a + max(along - one, zero) * rounded_b;
            const real half = half_a + half_more * t;
            const real share = (aside * aside + beyond * beyond) / (half * half);
            const real root = min(max((one - share) * real(s.sharpness), zero), one);
            const real before_surface = real::load_unaligned(depth + at) - (depth_a + depth_more * t);
            const real amount =
                sel(inside, root * root * min(max(before_surface * real(s.fade), zero), one), zero);
            const real keep = one - amount * (cover_a + cover_more * t);
            const auto blend = [&](float* light, int channel) {
                const real added =
                    real(s.colour_a[channel]) + real(s.colour_b[channel] - s.colour_a[channel]) * t;
                const real after = real::load_unaligned(light + at) * keep + amount * added;
                after.store_unaligned(light + at);
            };
            blend(red, 0);
            blend(green, 1);
            blend(blue, 2);
        }
    }
}

void draw_segments(std::span<const Segment> segments, std::span<const uint32_t> order, const Tile& tile,
                   int stride, float* red, float* green, float* blue, const float* depth) {
    for (const uint32_t index : order) {
        draw_segment(segments[index], tile, stride, red, green, blue, depth);
    }
}

void halve_row(const float* upper, const float* lower, int half_width, float threshold, float* out) {
    for (int x = 0; x < half_width; ++x) {
        const auto over = [threshold](float light) { return light > threshold ? light - threshold : 0.0f; };
        out[x] = (over(upper[2 * x]) + over(upper[2 * x + 1]) + over(lower[2 * x]) + over(lower[2 * x + 1])) *
                 0.25f;
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

void take_row(float* light, float threshold, float share, int count) {
    for (int x = 0; x < count; x += lanes) {
        const real before = load(light + x);
        store(light + x, before - max(before - real(threshold), real(0.0f)) * real(share));
    }
}

void add_row(const float* in, float gain, int count, float* out) {
    int x = 0;
    for (; x + lanes <= count; x += lanes) {
        const real sum = real::load_unaligned(out + x) + real::load_unaligned(in + x) * real(gain);
        sum.store_unaligned(out + x);
    }
    for (; x < count; ++x) {
        out[x] += gain * in[x];
    }
}

void blur_row(const float* depth, int count, const FocusBlur& focus, float* share) {
    for (int x = 0; x < count; x += lanes) {
        const real d = load(depth + x);
        const real blur = real(focus.half_aperture_px) * abs(d - real(focus.focus_m)) / d;
        store(share + x, min(max(blur * real(focus.per_pixel) - real(1.0f), real(0.0f)), real(1.0f)));
    }
}

void mix_row(const float* share, const float* one, const float* other, int count, float* out) {
    for (int x = 0; x < count; x += lanes) {
        const real from = load(one + x);
        store(out + x, from + load(share + x) * (load(other + x) - from));
    }
}

// The 8-bit value of light in every lane. The floating-point bits of the light are the place in the table.
// `added`, less `taken`: in 256ths of a step.
KERNEL kuint toned(real light, const int32_t* tone, kuint added, kuint taken) {
    // Written so that a NaN becomes black.
    const real exposed =
        min(sel(light > real(ToneTable::lowest), light, real(ToneTable::lowest)), real(ToneTable::highest));
    const auto entry = xsimd::bitwise_cast<xsimd::batch<int32_t>>(exposed) >> ToneTable::shift;
    const kuint value = fetch_bits(reinterpret_cast<const uint32_t*>(tone),
                                   xsimd::bitwise_cast<kuint>(entry - int32_t(ToneTable::first_bits)));
    // From 0 to 255 whatever was added and taken.
    const auto sum = xsimd::bitwise_cast<xsimd::batch<int32_t>>(value + added - taken);
    const auto kept = xsimd::min(xsimd::max(sum, xsimd::batch<int32_t>(0)), xsimd::batch<int32_t>(0xffff));
    return xsimd::bitwise_cast<kuint>(kept) >> 8;
}

template <bool has_vignette, bool has_grain>
void resolve(const float* red, const float* green, const float* blue, int y, const Finish& finish,
             uint32_t* pixels) {
    // Light falls off towards the corners by the fourth power of the cosine of its slant.
    const float half =
        std::sqrt(float(finish.width) * float(finish.width) + float(finish.height) * float(finish.height)) *
        0.5f;
    const float up = (float(y) + 0.5f - float(finish.height) * 0.5f) / half;
    const int32_t grain = int32_t(finish.grain * 96);
    for (int x = 0; x < finish.width; x += lanes) {
        // Interleaved gradient noise (J. Jimenez, 2014: frac(52.98 frac(0.0671 x + 0.0058 y))) in fixed
        // point: less than one step of 8 bits, so that dark gradients do not band.
        const kuint column = lane_index_uint() + kuint(uint32_t(x));
        const kuint inner = (column * kuint(4398u) + kuint(uint32_t(y) * 382u)) & kuint(0xffffu);
        kuint dither = ((inner * kuint(53u)) >> 8) & kuint(255u);
        real gain = real(finish.exposure);
        if constexpr (has_vignette) {
            const real across =
                (lane_index() + real(float(x) + 0.5f - float(finish.width) * 0.5f)) / real(half);
            const real slant = real(1.0f) + (across * across + real(up * up)) * real(finish.vignette * 1.2f);
            gain = gain / (slant * slant);
        }
        if constexpr (has_grain) {
            // Up to a few steps of 8 bits, darker or brighter; what would be below black is cut off below.
            const kuint noise =
                scramble(column + kuint(uint32_t(y) * 0x9e3779b9u + finish.picture * 0x85ebca6bu)) &
                kuint(255u);
            dither = dither + noise * kuint(uint32_t(grain));
        }
        const kuint offset = kuint(has_grain ? uint32_t(grain) * 128u : 0u);
        const auto pixel_of = [&](const float* light, int channel) {
            return toned(load(light + x) * gain, finish.tone[channel], dither, offset);
        };
        const kuint pixel =
            kuint(0xff000000u) | (pixel_of(red, 0) << 16) | (pixel_of(green, 1) << 8) | pixel_of(blue, 2);
        if (x + lanes <= finish.width) {
            pixel.store_unaligned(pixels + x);
        } else {
            alignas(64) uint32_t last[lanes];
            pixel.store_aligned(last);
            std::copy_n(last, finish.width - x, pixels + x);
        }
    }
}

void resolve_row(const float* red, const float* green, const float* blue, int y, const Finish& finish,
                 uint32_t* pixels) {
    const bool has_grain = finish.grain > 0;
    const auto resolve_with = finish.vignette > 0
                                  ? (has_grain ? resolve<true, true> : resolve<true, false>)
                                  : (has_grain ? resolve<false, true> : resolve<false, false>);
    resolve_with(red, green, blue, y, finish, pixels);
}

} // namespace

extern const RenderKernels render_set = {stage_row,    arrives_row,    darken_row, splat,       draw_segments,
                                         draw_patches, draw_triangles, halve_row,  enlarge_row, take_row,
                                         add_row,      blur_row,       mix_row,    resolve_row};

} // namespace ember::EMBER_ISA
