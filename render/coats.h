// The coats that surfaces wear. Written in the language of kernels/prelude_cpp.h and included inside the
// namespace of an instruction set by render_kernels.cpp, once.

#pragma once

namespace {

struct Texel {
    rvec3 colour;
    real opacity;
};

KERNEL Texel texel_at(const uint32_t* level, int width, int height, real x, real y) {
    // Whole numbers in lanes; sides are powers of two, so that the mask is the remainder.
    const kuint column = to_kuint(x) & kuint(uint32_t(width - 1));
    const kuint row = to_kuint(y) & kuint(uint32_t(height - 1));
    const kuint at = row * kuint(uint32_t(width)) + column;
    const kuint bits = fetch_bits(level, at);
    const auto part = [&](int shift) { return to_real((bits >> shift) & kuint(255u)) * real(1.0f / 255); };
    const real red = part(0), green = part(8), blue = part(16);
    return {{red * red, green * green, blue * blue}, part(24)};
}

KERNEL Texel mixed_texel(Texel a, Texel b, real share) {
    return {mixed3(a.colour, b.colour, share), mixed(a.opacity, b.opacity, share)};
}

// A coat as one thing wears it: what is the same for all of its pixels.
struct Coat {
    LayerFrom from;
    Combine combine;
    bool inverted;
    float per_edge;
    // Of the level that is as fine as the picture; null for plain white.
    const uint32_t* texels = nullptr;
    int width = 1, height = 1;
    bool is_smooth = false; // mixes four texels
    // From the surface's u and v to texels; of a sheet: to frames, each of so many texels.
    float scale_x, scale_y, shift_x, shift_y;
    bool is_sheet = false;
    float column, row, frame_width, frame_height, rim_x, rim_y;
    Vec3 tint; // times strength
    float strength;
};

struct Coating {
    Coat coats[3];
    int count;
};

// `repeats`: of the surface's u and v for each pixel, from which follows how fine a level is seen.
Coating coating_of(const DrawnSurface& surface, const Skin& skin, float repeats) {
    Coating coating;
    coating.count = 0;
    for (int i = 0; i < surface.count; ++i) {
        const SurfaceLayer& layer = surface.layers[i];
        const auto combine = Combine(layer.combine);
        const bool brings_light = combine == Combine::add || combine == Combine::subtract;
        if (skin.strength[i] <= 0 || (brings_light && layer.tint == Vec3())) {
            continue; // what changes nothing costs nothing
        }
        Coat& coat = coating.coats[coating.count++];
        coat.from = LayerFrom(layer.from);
        coat.combine = combine;
        coat.inverted = layer.inverted;
        coat.per_edge = layer.per_edge;
        coat.strength = skin.strength[i];
        coat.tint = layer.tint * skin.strength[i];
        const TexelLevels& texels = layer.texels;
        if (coat.from == LayerFrom::edge || texels.count == 0) {
            continue;
        }
        const float a_pixel =
            repeats * std::max(layer.tiling_x / layer.columns * float(1 << texels.log_width),
                               layer.tiling_y / layer.rows * float(1 << texels.log_height));
        int level = 0;
        for (float wide = a_pixel; wide > 1.4f && level + 1 < texels.count; wide *= 0.5f) {
            ++level;
        }
        coat.is_smooth = a_pixel <= 0.7f;
        coat.texels = texels.levels[level];
        coat.width = std::max(1 << texels.log_width >> level, 1);
        coat.height = std::max(1 << texels.log_height >> level, 1);
        coat.is_sheet = layer.columns * layer.rows > 1;
        if (coat.is_sheet) {
            // Within one frame, half a texel away from its neighbours.
            coat.row = std::floor(skin.frame[i] / layer.columns);
            coat.column = skin.frame[i] - coat.row * layer.columns;
            coat.frame_width = float(coat.width) / layer.columns;
            coat.frame_height = float(coat.height) / layer.rows;
            coat.rim_x = 0.5f / coat.frame_width;
            coat.rim_y = 0.5f / coat.frame_height;
        }
        const float across = coat.is_sheet ? 1 : float(coat.width),
                    down = coat.is_sheet ? 1 : float(coat.height);
        coat.scale_x = layer.tiling_x * across;
        coat.scale_y = layer.tiling_y * down;
        coat.shift_x = skin.shift_x[i] * across;
        coat.shift_y = skin.shift_y[i] * down;
    }
    return coating;
}

KERNEL Texel sampled_texture(IN(Coat) coat, real u, real v) {
    real x = u * real(coat.scale_x) + real(coat.shift_x);
    real y = v * real(coat.scale_y) + real(coat.shift_y);
    if (coat.is_sheet) {
        x = (real(coat.column) + min(max(x - floor(x), real(coat.rim_x)), real(1 - coat.rim_x))) *
            real(coat.frame_width);
        y = (real(coat.row) + min(max(y - floor(y), real(coat.rim_y)), real(1 - coat.rim_y))) *
            real(coat.frame_height);
    }
    if (!coat.is_smooth) {
        return texel_at(coat.texels, coat.width, coat.height, floor(x), floor(y));
    }
    x = x - real(0.5f);
    y = y - real(0.5f);
    const real left = floor(x), top = floor(y);
    const real right = left + real(1.0f), bottom = top + real(1.0f);
    const auto at = [&](real column, real row) {
        return texel_at(coat.texels, coat.width, coat.height, column, row);
    };
    const Texel upper = mixed_texel(at(left, top), at(right, top), x - left);
    const Texel lower = mixed_texel(at(left, bottom), at(right, bottom), x - left);
    return mixed_texel(upper, lower, y - top);
}

// Colour and opacity of a surface under all its coats. `rim`: 0 at the rim, 1 inside.
KERNEL void wear(IN(Coating) coating, real u, real v, real rim, INOUT(rvec3) colour, INOUT(real) opacity) {
    const real one = real(1.0f), zero = real(0.0f);
    for (int i = 0; i < coating.count; ++i) {
        const Coat& coat = coating.coats[i];
        Texel own = {{one, one, one}, one};
        if (coat.from == LayerFrom::edge) {
            const real value = unit(rim * real(coat.per_edge));
            own.colour = {value, value, value};
        } else if (coat.texels != nullptr) {
            own = sampled_texture(coat, u, v);
        }
        if (coat.inverted) {
            own.colour = rvec3(one, one, one) - own.colour;
        }
        const real share = real(coat.strength), rest = real(1 - coat.strength);
        const rvec3 tinted = own.colour * every_lane(coat.tint);
        if (coat.combine == Combine::multiply) {
            colour = colour * (rvec3(rest, rest, rest) + tinted);
            opacity = opacity * (rest + own.opacity * share);
        } else if (coat.combine == Combine::add) {
            colour = colour + tinted * own.opacity;
        } else if (coat.combine == Combine::subtract) {
            const rvec3 less = colour - tinted * own.opacity;
            colour = rvec3(max(less.x, zero), max(less.y, zero), max(less.z, zero));
        } else {
            const real bright = own.colour.x * real(coat.tint.x * 0.2126f) +
                                own.colour.y * real(coat.tint.y * 0.7152f) +
                                own.colour.z * real(coat.tint.z * 0.0722f);
            opacity = opacity * (rest + min(max(bright, zero), share) * own.opacity);
        }
    }
}

} // namespace
