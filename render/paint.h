// Flat pieces and bodies with the coats of their surfaces. Written in the language of kernels/prelude_cpp.h
// and included inside the namespace of an instruction set by render_kernels.cpp, once.

#pragma once

namespace {

// The pixel that an edge falls into, within the tile; edges may lie far outside of what an int holds.
int pixel_at(float edge, int low, int high) {
    return int(std::clamp(edge, float(low), float(high)));
}

struct Texel {
    rvec3 colour;
    real opacity;
};

KERNEL Texel texel_at(const uint32_t* level, int width, int height, real x, real y) {
    // Whole numbers in lanes; sides are powers of two, so that the mask is the remainder.
    const kuint column = to_kuint(x) & kuint(uint32_t(width - 1));
    const kuint row = to_kuint(y) & kuint(uint32_t(height - 1));
    const kuint at = row * kuint(uint32_t(width)) + column;
    const kuint bits = kuint::gather(level, at);
    const auto part = [&](int shift) { return to_real((bits >> shift) & kuint(255u)) * real(1.0f / 255); };
    const real red = part(0), green = part(8), blue = part(16);
    return {{red * red, green * green, blue * blue}, part(24)};
}

KERNEL Texel mixed_texel(Texel a, Texel b, real share) {
    return {mixed3(a.colour, b.colour, share), mixed(a.opacity, b.opacity, share)};
}

// `repeats`: of the surface's u and v for each pixel, from which follows how fine a level is seen.
KERNEL Texel sampled_texture(IN(SurfaceLayer) layer, IN(Skin) skin, int index, real u, real v, uni repeats) {
    const TexelLevels& texels = layer.texels;
    const float a_pixel = repeats * std::max(layer.tiling_x / layer.columns * float(1 << texels.log_width),
                                             layer.tiling_y / layer.rows * float(1 << texels.log_height));
    int level = 0;
    for (float wide = a_pixel; wide > 1.4f && level + 1 < texels.count; wide *= 0.5f) {
        ++level;
    }
    const int width = std::max(1 << texels.log_width >> level, 1);
    const int height = std::max(1 << texels.log_height >> level, 1);
    real x = u * real(layer.tiling_x) + real(skin.shift_x[index]);
    real y = v * real(layer.tiling_y) + real(skin.shift_y[index]);
    const bool is_sheet = layer.columns * layer.rows > 1;
    if (is_sheet) {
        // Within one frame, half a texel away from its neighbours.
        const float row = std::floor(skin.frame[index] / layer.columns);
        const float column = skin.frame[index] - row * layer.columns;
        const float rim_x = 0.5f * layer.columns / float(width), rim_y = 0.5f * layer.rows / float(height);
        x = (real(column) + min(max(x - floor(x), real(rim_x)), real(1 - rim_x))) * real(1 / layer.columns);
        y = (real(row) + min(max(y - floor(y), real(rim_y)), real(1 - rim_y))) * real(1 / layer.rows);
    }
    x = x * real(float(width));
    y = y * real(float(height));
    if (a_pixel > 0.7f) {
        return texel_at(texels.levels[level], width, height, floor(x), floor(y));
    }
    x = x - real(0.5f);
    y = y - real(0.5f);
    const real left = floor(x), top = floor(y);
    const real right = left + real(1.0f), bottom = top + real(1.0f);
    const uint32_t* from = texels.levels[level];
    const Texel upper = mixed_texel(texel_at(from, width, height, left, top),
                                    texel_at(from, width, height, right, top), x - left);
    const Texel lower = mixed_texel(texel_at(from, width, height, left, bottom),
                                    texel_at(from, width, height, right, bottom), x - left);
    return mixed_texel(upper, lower, y - top);
}

// Colour and opacity of a surface under all its coats. `rim`: 0 at the rim, 1 inside.
KERNEL void coat(IN(DrawnSurface) surface, IN(Skin) skin, real u, real v, real rim, uni repeats,
                 INOUT(rvec3) colour, INOUT(real) opacity) {
    const real one = real(1.0f);
    for (int i = 0; i < surface.count; ++i) {
        const SurfaceLayer& layer = surface.layers[i];
        Texel own;
        if (layer.from == int(LayerFrom::edge)) {
            const real value = unit(rim * real(layer.per_edge));
            own = {{value, value, value}, one};
        } else if (layer.texels.count == 0) {
            own = {{one, one, one}, one};
        } else {
            own = sampled_texture(layer, skin, i, u, v, repeats);
        }
        if (layer.inverted) {
            own.colour = rvec3(one, one, one) - own.colour;
        }
        const real share = real(skin.strength[i]);
        const rvec3 tinted = own.colour * every_lane(layer.tint);
        if (layer.combine == int(Combine::multiply)) {
            colour = colour * (rvec3(one, one, one) + (tinted - rvec3(one, one, one)) * share);
            opacity = opacity * (one + (own.opacity - one) * share);
        } else if (layer.combine == int(Combine::add)) {
            colour = colour + tinted * (own.opacity * share);
        } else if (layer.combine == int(Combine::subtract)) {
            const rvec3 less = colour - tinted * (own.opacity * share);
            const real zero = real(0.0f);
            colour = rvec3(max(less.x, zero), max(less.y, zero), max(less.z, zero));
        } else {
            const real bright =
                tinted.x * real(0.2126f) + tinted.y * real(0.7152f) + tinted.z * real(0.0722f);
            opacity = opacity * (one + (unit(bright) * own.opacity - one) * share);
        }
    }
}

template <bool has_coats>
void draw_patch(const Patch p, const Coats& coats, const Tile tile, const Canvas canvas) {
    const real zero = real(0.0f), one = real(1.0f);
    const int top = pixel_at(p.y - p.height + 0.5f, tile.top, tile.bottom);
    const int bottom = pixel_at(p.y + p.height + 0.5f, tile.top, tile.bottom);
    const Skin skin = coats.skins[p.skin];
    const DrawnSurface& surface = coats.surfaces[skin.surface];
    const float repeats =
        0.5f * std::max(std::fabs(p.u_x) + std::fabs(p.u_y), std::fabs(p.v_x) + std::fabs(p.v_y));
    const rvec3 own_colour = every_lane({p.red, p.green, p.blue});
    // Sums of the three edges' inequalities |u| <= 1, |v| <= 1 bound each row.
    const auto bound = [](float at_zero, float per_pixel, float& left, float& right) {
        if (std::fabs(per_pixel) > 1e-6f) {
            const float a = (-1 - at_zero) / per_pixel, b = (1 - at_zero) / per_pixel;
            left = std::max(left, std::min(a, b));
            right = std::min(right, std::max(a, b));
        }
    };
    for (int y = top; y < bottom; ++y) {
        const float dy = float(y) + 0.5f - p.y;
        float first = -p.width, last = p.width;
        bound(p.u_y * dy, p.u_x, first, last);
        bound(p.v_y * dy, p.v_x, first, last);
        int left = pixel_at(p.x + first + 0.5f, tile.left, tile.right);
        const int right = pixel_at(p.x + last + 0.5f, tile.left, tile.right);
        left = right - left <= lanes ? std::min(left, tile.right - lanes) : left / lanes * lanes;
        const size_t row = size_t(y) * size_t(canvas.stride);
        for (int x = left; x < right; x += lanes) {
            const size_t at = row + size_t(x);
            const real dx = lane_index() + real(float(x) + 0.5f - p.x);
            const real u = dx * real(p.u_x) + real(p.u_y * dy);
            const real v = dx * real(p.v_x) + real(p.v_y * dy);
            real amount, rim;
            if (p.is_round) {
                const real square = u * u + v * v;
                const real root = unit((one - square) * real(p.rim_u));
                amount = root * root;
                rim = one - sqrt(square);
            } else {
                // A rectangle whose corners are as round as its rim is soft.
                const real in_u = one - abs(u), in_v = one - abs(v);
                const real off_u = max(one - in_u * real(p.rim_u), zero);
                const real off_v = max(one - in_v * real(p.rim_v), zero);
                const real root = max(one - sqrt(off_u * off_u + off_v * off_v), zero);
                amount = root * (real(2.0f) - root);
                rim = min(in_u, in_v);
            }
            rvec3 colour = own_colour;
            amount = amount * real(p.opacity);
            if constexpr (has_coats) {
                coat(surface, skin, u * real(0.5f) + real(0.5f), real(0.5f) - v * real(0.5f), rim, repeats,
                     colour, amount);
            }
            const real own_depth = real(p.depth) + u * real(p.depth_u) + v * real(p.depth_v);
            const real behind = real::load_unaligned(canvas.depth + at);
            if (p.is_cut) {
                const kmask is_seen = both(amount >= real(0.5f), own_depth < behind);
                const auto put = [&](float* light, real own) {
                    sel(is_seen, own, real::load_unaligned(light + at)).store_unaligned(light + at);
                };
                put(canvas.red, colour.x);
                put(canvas.green, colour.y);
                put(canvas.blue, colour.z);
                sel(is_seen, own_depth, behind).store_unaligned(canvas.written_depth + at);
                continue;
            }
            amount = amount * min(max((behind - own_depth) * real(p.fade), zero), one);
            const real keep = one - amount * real(p.cover);
            const auto blend = [&](float* light, real own) {
                (real::load_unaligned(light + at) * keep + own * amount).store_unaligned(light + at);
            };
            blend(canvas.red, colour.x);
            blend(canvas.green, colour.y);
            blend(canvas.blue, colour.z);
        }
    }
}

void draw_patches(std::span<const Patch> patches, std::span<const uint32_t> order, const Coats& coats,
                  const Tile& tile, const Canvas& canvas) {
    for (const uint32_t index : order) {
        const Patch patch = patches[index];
        const bool has_coats = coats.surfaces[coats.skins[patch.skin].surface].count > 0;
        (has_coats ? draw_patch<true> : draw_patch<false>)(patch, coats, tile, canvas);
    }
}

// Corners' values, mixed by how near each is.
struct Corners {
    real a, b, c;
    KERNEL real of(const float (&values)[3]) const {
        return a * real(values[0]) + b * real(values[1]) + c * real(values[2]);
    }
};

// `t` is a copy, which the stores below cannot touch.
template <bool has_coats>
void draw_triangle(const Triangle t, const Coats& coats, const Tile tile, const Canvas canvas) {
    const real zero = real(0.0f), one = real(1.0f);
    const float area = (t.x[1] - t.x[0]) * (t.y[2] - t.y[0]) - (t.x[2] - t.x[0]) * (t.y[1] - t.y[0]);
    // Of each corner its share at a place: 1 in the corner, 0 on the edge opposite of it.
    float x_of[3], y_of[3], soft[3], per_x[3];
    for (int i = 0; i < 3; ++i) {
        const int j = (i + 1) % 3, k = (i + 2) % 3;
        x_of[i] = (t.y[j] - t.y[k]) / area;
        y_of[i] = (t.x[k] - t.x[j]) / area;
        per_x[i] = std::fabs(x_of[i]) > 1e-6f ? 1 / x_of[i] : 0.0f;
        // A rim is half a pixel wide on either side, so that it is seen without steps.
        soft[i] = t.is_rim[i] ? std::sqrt(x_of[i] * x_of[i] + y_of[i] * y_of[i]) * 0.5f : 0.0f;
    }
    const float reach = t.is_rim[0] || t.is_rim[1] || t.is_rim[2] ? 0.7f : 0.0f;
    const auto [low_y, high_y] = std::minmax({t.y[0], t.y[1], t.y[2]});
    const auto [low_x, high_x] = std::minmax({t.x[0], t.x[1], t.x[2]});
    const int top = pixel_at(low_y - reach + 0.5f, tile.top, tile.bottom);
    const int bottom = pixel_at(high_y + reach + 0.5f, tile.top, tile.bottom);
    const Skin skin = coats.skins[t.skin];
    const DrawnSurface& surface = coats.surfaces[skin.surface];
    float repeats = 0;
    if constexpr (has_coats) {
        for (const auto* values : {&t.u, &t.v}) {
            const auto& w = *values;
            const float across = w[0] * x_of[0] + w[1] * x_of[1] + w[2] * x_of[2];
            const float down = w[0] * y_of[0] + w[1] * y_of[1] + w[2] * y_of[2];
            repeats = std::max(repeats, std::sqrt(across * across + down * down));
        }
    }
    for (int y = top; y < bottom; ++y) {
        const size_t row = size_t(y) * size_t(canvas.stride);
        const float py = float(y) + 0.5f;
        // Where along the row each share is not yet too far below zero.
        float first = low_x - reach, last = high_x + reach;
        for (int i = 0; i < 3; ++i) {
            const int other = (i + 1) % 3;
            const float at_corner = (py - t.y[other]) * y_of[i] + soft[i] * 2;
            const float crossing = t.x[other] - at_corner * per_x[i];
            first = per_x[i] > 0 ? std::max(first, crossing - 1) : first;
            last = per_x[i] < 0 ? std::min(last, crossing + 1) : last;
        }
        int left = pixel_at(first + 0.5f, tile.left, tile.right);
        const int right = pixel_at(last + 0.5f, tile.left, tile.right);
        left = right - left <= lanes ? std::min(left, tile.right - lanes) : left / lanes * lanes;
        for (int x = left; x < right; x += lanes) {
            const size_t at = row + size_t(x);
            const real px = lane_index() + real(float(x) + 0.5f);
            const auto share_of = [&](int i) {
                const int j = (i + 1) % 3;
                return (px - real(t.x[j])) * real(x_of[i]) + real((py - t.y[j]) * y_of[i]);
            };
            const Corners corners = {share_of(0), share_of(1), share_of(2)};
            real covered = one;
            const auto edge = [&](int i, real share) {
                if (soft[i] > 0) {
                    covered = min(covered, unit(share * real(0.5f / soft[i]) + real(0.5f)));
                } else {
                    covered = sel(share >= zero, covered, zero);
                }
            };
            edge(0, corners.a);
            edge(1, corners.b);
            edge(2, corners.c);
            if (!any_lane(covered > zero)) {
                continue;
            }
            // Beyond a rim, as at it: values do not go on to where there is no body.
            const real inner_a = max(corners.a, zero), inner_b = max(corners.b, zero),
                       inner_c = max(corners.c, zero);
            const real whole = one / (inner_a + inner_b + inner_c);
            const Corners kept = {inner_a * whole, inner_b * whole, inner_c * whole};
            const real depth = one / max(kept.of(t.near), real(1e-6f));
            const real behind = real::load_unaligned(canvas.depth + at);
            kmask is_seen = both(covered > zero, depth < behind);
            if (t.opacity < 1) {
                // Of every few pixels some are left out, in an even pattern (J. Jimenez, 2014).
                const real inner = px * real(0.06711056f) + real(py * 0.00583715f);
                const real outer = (inner - floor(inner)) * real(52.9829189f);
                is_seen = both(is_seen, outer - floor(outer) < real(t.opacity));
            }
            if (!any_lane(is_seen)) {
                continue;
            }
            rvec3 colour = rvec3(kept.of(t.red), kept.of(t.green), kept.of(t.blue));
            real amount = sel(is_seen, covered, zero);
            if constexpr (has_coats) {
                real opacity = one;
                coat(surface, skin, kept.of(t.u), kept.of(t.v), kept.of(t.facing), repeats, colour, opacity);
                amount = amount * opacity;
            }
            const auto put = [&](float* light, real own) {
                const real before = real::load_unaligned(light + at);
                (before + (own - before) * amount).store_unaligned(light + at);
            };
            put(canvas.red, colour.x);
            put(canvas.green, colour.y);
            put(canvas.blue, colour.z);
            sel(amount > real(0.5f), depth, behind).store_unaligned(canvas.written_depth + at);
        }
    }
}

void draw_triangles(std::span<const Triangle> triangles, std::span<const uint32_t> order, const Coats& coats,
                    const Tile& tile, const Canvas& canvas) {
    for (const uint32_t index : order) {
        const Triangle& triangle = triangles[index];
        const bool has_coats = coats.surfaces[coats.skins[triangle.skin].surface].count > 0;
        (has_coats ? draw_triangle<true> : draw_triangle<false>)(triangle, coats, tile, canvas);
    }
}

} // namespace
