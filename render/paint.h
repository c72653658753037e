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
    coating.count = surface.count;
    for (int i = 0; i < surface.count; ++i) {
        const SurfaceLayer& layer = surface.layers[i];
        Coat& coat = coating.coats[i];
        coat.from = LayerFrom(layer.from);
        coat.combine = Combine(layer.combine);
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

// A value that grows evenly over the picture, from where a thing begins: its middle or
// its first corner.
struct Slope {
    float at, per_x, per_y;

    Slope operator*(float by) const { return {at * by, per_x * by, per_y * by}; }
    Slope operator+(const Slope& other) const {
        return {at + other.at, per_x + other.per_x, per_y + other.per_y};
    }
};

// Where along a row such a value lies within -1..1: round start + slope * row, by `half`.
struct Band {
    float start = 0, slope = 0, half = 1e9f;

    static Band of(const Slope& value) {
        if (std::fabs(value.per_x) < 1e-6f) {
            return {};
        }
        const float by = 1 / value.per_x;
        return {-value.at * by, -value.per_y * by, std::fabs(by)};
    }
    bool is_there() const { return half < 1e9f; }
    float middle(float row) const { return start + slope * row; }
};

// What most textured cards wear: one coat of texels that multiplies, with all that its pixels need.
struct PlainTexture {
    const uint32_t* texels;
    uint32_t across, down; // texels, less one
    int log_width;
    float x_u, x_0, y_v, y_0; // texel at u and v
    rvec3 rest, gain;         // of the colour: without the texel, and for each unit of its square
    float opacity_rest, opacity_gain;

    static bool suits(const Coating& coating) {
        const Coat& coat = coating.coats[0];
        return coating.count == 1 && coat.texels != nullptr && !coat.is_smooth && !coat.is_sheet &&
               !coat.inverted && coat.combine == Combine::multiply;
    }
    PlainTexture(const Coat& coat, const Patch& p)
        : texels(coat.texels), across(uint32_t(coat.width - 1)), down(uint32_t(coat.height - 1)),
          log_width(std::countr_zero(uint32_t(coat.width))), x_u(coat.scale_x * 0.5f),
          x_0(coat.scale_x * 0.5f + coat.shift_x), y_v(coat.scale_y * -0.5f),
          y_0(coat.scale_y * 0.5f + coat.shift_y),
          rest(every_lane(Vec3{p.red, p.green, p.blue} * (1 - coat.strength))),
          gain(every_lane(Vec3{p.red, p.green, p.blue} * coat.tint * (1.0f / (255 * 255)))),
          opacity_rest(1 - coat.strength), opacity_gain(coat.strength / 255) {}

    KERNEL void wear(real u, real v, INOUT(rvec3) colour, INOUT(real) opacity) const {
        const kuint column = to_kuint(floor(u * real(x_u) + real(x_0))) & kuint(across);
        const kuint row = to_kuint(floor(v * real(y_v) + real(y_0))) & kuint(down);
        const kuint bits = fetch_bits(texels, (row << log_width) + column);
        const auto part = [&](int shift) { return to_real((bits >> shift) & kuint(255u)); };
        const real red = part(0), green = part(8), blue = part(16);
        colour = rvec3(red * red * gain.x + rest.x, green * green * gain.y + rest.y,
                       blue * blue * gain.z + rest.z);
        opacity = opacity * (part(24) * real(opacity_gain) + real(opacity_rest));
    }
};

enum class Put { add, cover, cut };

// Draws a patch. `fades`: surfaces may be in front of it or near; `wear(u, v, rim, colour, opacity)` puts its
// coats on.
template <Put put, bool fades>
KERNEL void draw_patch(const Patch& p, const Tile& tile, const Canvas& canvas, auto wear) {
    const real zero = real(0.0f), one = real(1.0f);
    const int top = pixel_at(p.y - p.height + 0.5f, tile.top, tile.bottom);
    const int bottom = pixel_at(p.y + p.height + 0.5f, tile.top, tile.bottom);
    const Band of_u = Band::of({0, p.u_x, p.u_y}), of_v = Band::of({0, p.v_x, p.v_y});
    float lefts[lanes], rights[lanes]; // of the rows from the last multiple of `lanes` on
    for (int y = top; y < bottom; ++y) {
        const int lane = (y - top) % lanes;
        if (lane == 0) {
            const real below = lane_index() + real(float(y) + 0.5f - p.y);
            const real middle_u = real(of_u.start) + real(of_u.slope) * below;
            const real middle_v = real(of_v.start) + real(of_v.slope) * below;
            const real first =
                max(real(-p.width), max(middle_u - real(of_u.half), middle_v - real(of_v.half)));
            const real last = min(real(p.width), min(middle_u + real(of_u.half), middle_v + real(of_v.half)));
            const auto within = [&](real edge) {
                return min(max(edge + real(p.x + 0.5f), real(float(tile.left))), real(float(tile.right)));
            };
            store_any(lefts, within(first));
            store_any(rights, within(last));
        }
        const int left = int(lefts[lane]), right = int(rights[lane]);
        const float dy = float(y) + 0.5f - p.y;
        const size_t row = size_t(y) * size_t(canvas.stride);
        for (int begin = left; begin < right; begin += lanes) {
            const int x = std::min(begin, tile.right - lanes);
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
                amount = max(one - (off_u * off_u + off_v * off_v), zero);
                rim = min(in_u, in_v);
            }
            if (x < begin) { // these are done already
                amount = sel(lane_index() >= real(float(begin - x)), amount, zero);
            }
            rvec3 colour = every_lane({p.red, p.green, p.blue});
            amount = amount * real(p.opacity);
            wear(u, v, rim, colour, amount);
            real behind, own_depth;
            if constexpr (fades || put == Put::cut) {
                behind = real::load_unaligned(canvas.depth + at);
                own_depth = real(p.depth) + u * real(p.depth_u) + v * real(p.depth_v);
            }
            if constexpr (put == Put::cut) {
                const kmask is_seen = both(amount >= real(0.5f), own_depth < behind);
                const auto replace = [&](float* light, real own) {
                    sel(is_seen, own, real::load_unaligned(light + at)).store_unaligned(light + at);
                };
                replace(canvas.red, colour.x);
                replace(canvas.green, colour.y);
                replace(canvas.blue, colour.z);
                sel(is_seen, own_depth, behind).store_unaligned(canvas.written_depth + at);
            } else {
                if constexpr (fades) {
                    amount = amount * min(max((behind - own_depth) * real(p.fade), zero), one);
                }
                const real keep = one - amount * real(p.cover);
                const auto blend = [&](float* light, real own) {
                    const real before = real::load_unaligned(light + at);
                    const real after = (put == Put::cover ? before * keep : before) + own * amount;
                    after.store_unaligned(light + at);
                };
                blend(canvas.red, colour.x);
                blend(canvas.green, colour.y);
                blend(canvas.blue, colour.z);
            }
        }
    }
}

// `p`, `tile` and `canvas` are copies, which the stores cannot touch.
template <Put put, bool fades>
void draw_bare(const Patch p, const Tile tile, const Canvas canvas) {
    draw_patch<put, fades>(p, tile, canvas, [](real, real, real, rvec3&, real&) {});
}

template <Put put, bool fades>
void draw_plain(const Patch p, const PlainTexture texture, const Tile tile, const Canvas canvas) {
    draw_patch<put, fades>(p, tile, canvas, [&](real u, real v, real, rvec3& colour, real& opacity) {
        texture.wear(u, v, colour, opacity);
    });
}

template <Put put, bool fades>
void draw_coated(const Patch p, const Coating& coating, const Tile tile, const Canvas canvas) {
    draw_patch<put, fades>(p, tile, canvas, [&](real u, real v, real rim, rvec3& colour, real& opacity) {
        wear(coating, u * real(0.5f) + real(0.5f), real(0.5f) - v * real(0.5f), rim, colour, opacity);
    });
}

template <Put put, bool fades>
void draw_dressed(const Patch& patch, const Coats& coats, const Tile& tile, const Canvas& canvas) {
    const Skin& skin = coats.skins[patch.skin];
    const DrawnSurface& surface = coats.surfaces[skin.surface];
    if (surface.count == 0) {
        return draw_bare<put, fades>(patch, tile, canvas);
    }
    const float repeats = 0.5f * std::max(std::fabs(patch.u_x) + std::fabs(patch.u_y),
                                          std::fabs(patch.v_x) + std::fabs(patch.v_y));
    const Coating coating = coating_of(surface, skin, repeats);
    if (PlainTexture::suits(coating)) {
        draw_plain<put, fades>(patch, PlainTexture(coating.coats[0], patch), tile, canvas);
    } else {
        draw_coated<put, fades>(patch, coating, tile, canvas);
    }
}

// What a tile draws lies scattered: asks for it some things ahead.
template <class Thing>
void fetch_ahead(std::span<const Thing> things, std::span<const uint32_t> order, size_t at) {
    constexpr size_t ahead = 6;
    if (at + ahead < order.size()) {
        const auto* from = reinterpret_cast<const char*>(&things[order[at + ahead]]);
        for (size_t byte = 0; byte < sizeof(Thing); byte += 64) {
            __builtin_prefetch(from + byte);
        }
    }
}

void draw_patches(std::span<const Patch> patches, std::span<const uint32_t> order, const Coats& coats,
                  const Tile& tile, const Canvas& canvas) {
    for (size_t i = 0; i < order.size(); ++i) {
        fetch_ahead(patches, order, i);
        if (i + 2 < order.size()) { // with what is known of it by now
            __builtin_prefetch(&coats.skins[patches[order[i + 2]].skin]);
        }
        const Patch& patch = patches[order[i]];
        const float nearest = patch.depth - std::fabs(patch.depth_u) - std::fabs(patch.depth_v);
        const bool fades = (tile.nearest - nearest) * patch.fade < 1;
        const auto draw = patch.is_cut ? draw_dressed<Put::cut, true>
                          : patch.cover == 0
                              ? (fades ? draw_dressed<Put::add, true> : draw_dressed<Put::add, false>)
                          : fades ? draw_dressed<Put::cover, true>
                                  : draw_dressed<Put::cover, false>;
        draw(patch, coats, tile, canvas);
    }
}

// How much of a pixel one edge leaves, if that is between 0 and 1: the rim of a body is soft over a pixel, so
// that it is seen without steps; an edge between two faces is hard, and both have what lies on it.
Slope edge_of(const Slope& share, bool is_rim) {
    const float by = is_rim ? 1 / std::sqrt(share.per_x * share.per_x + share.per_y * share.per_y) : 1e5f;
    return share * by + Slope{is_rim ? 0.5f : 1.5f, 0, 0};
}

struct Stripe {
    int top, bottom, left;
};

// An even triangle without coats that is no wider than a register: most of those of small bodies.
KERNEL void draw_narrow(const Triangle& t, const Slope (&edges)[3], const Slope& near, const Stripe& within,
                        const Canvas canvas) {
    const real zero = real(0.0f), one = real(1.0f);
    const real dx = lane_index() + real(float(within.left) + 0.5f - t.x[0]);
    const float dy = float(within.top) + 0.5f - t.y[0];
    const auto first = [&](const Slope& slope) {
        return dx * real(slope.per_x) + real(slope.per_y * dy + slope.at);
    };
    real a = first(edges[0]), b = first(edges[1]), c = first(edges[2]), own_near = first(near);
    const real a_step = real(edges[0].per_y), b_step = real(edges[1].per_y), c_step = real(edges[2].per_y);
    const real near_step = real(near.per_y);
    const auto [least_near, most_near] = std::minmax({t.near[0], t.near[1], t.near[2]});
    const real least = real(least_near), most = real(most_near);
    const rvec3 colour = every_lane(t.light);
    size_t at = size_t(within.top) * size_t(canvas.stride) + size_t(within.left);
    for (int y = within.top; y < within.bottom; ++y, at += size_t(canvas.stride)) {
        const real covered = min(min(a, min(b, c)), one);
        const real kept_near = min(max(own_near, least), most);
        const real behind = load_any(canvas.depth + at);
        const kmask is_seen = both(covered > zero, kept_near * behind > one);
        a = a + a_step;
        b = b + b_step;
        c = c + c_step;
        own_near = own_near + near_step;
        if (!any_lane(is_seen)) {
            continue;
        }
        const real amount = sel(is_seen, covered, zero);
        const auto put = [&](float* light, real own) {
            const real before = load_any(light + at);
            store_any(light + at, before + (own - before) * amount);
        };
        put(canvas.red, colour.x);
        put(canvas.green, colour.y);
        put(canvas.blue, colour.z);
        store_any(canvas.written_depth + at, sel(amount > real(0.5f), one / kept_near, behind));
    }
}

// Of even triangles the first corner's light is everywhere; without coats they have no more.
template <bool has_coats, bool is_even>
void draw_triangle(const Triangle& given, const TriangleMore* more, const Coats& coats, const Tile& tile,
                   const Canvas& given_canvas) {
    const real zero = real(0.0f), one = real(1.0f);
    const float bx = given.x[1] - given.x[0], by = given.y[1] - given.y[0], cx = given.x[2] - given.x[0],
                cy = given.y[2] - given.y[0];
    const float per_area = 1 / (bx * cy - cx * by);
    // Of each corner its share at a place: 1 in the corner, 0 on the edge opposite of it.
    const Slope b = {0, cy * per_area, -cx * per_area}, c = {0, -by * per_area, bx * per_area};
    const Slope a = (b + c) * -1 + Slope{1, 0, 0};
    const Slope edges[3] = {edge_of(a, given.is_rim[0]), edge_of(b, given.is_rim[1]),
                            edge_of(c, given.is_rim[2])};
    const Slope near = a * given.near[0] + b * given.near[1] + c * given.near[2];
    const auto [least_near, most_near] = std::minmax({given.near[0], given.near[1], given.near[2]});
    const float reach = given.is_rim[0] || given.is_rim[1] || given.is_rim[2] ? 0.7f : 0.0f;
    const auto [low_y, high_y] = std::minmax({given.y[0], given.y[1], given.y[2]});
    const auto [low_x, high_x] = std::minmax({given.x[0], given.x[1], given.x[2]});
    const int top = pixel_at(low_y - reach + 0.5f, tile.top, tile.bottom);
    const int bottom = pixel_at(high_y + reach + 0.5f, tile.top, tile.bottom);
    int left = pixel_at(low_x - reach + 0.5f, tile.left, tile.right);
    int right = pixel_at(high_x + reach + 0.5f, tile.left, tile.right);
    const bool is_wide = right - left > lanes;
    if constexpr (is_even && !has_coats) {
        if (!is_wide && given.opacity >= 1) {
            if (left < right) {
                draw_narrow(given, edges, near, {top, bottom, std::min(left, tile.right - lanes)},
                            given_canvas);
            }
            return;
        }
    }
    // Copies, which the stores below cannot touch.
    const Triangle t = given;
    const TriangleMore m = more != nullptr ? *more : TriangleMore();
    const Canvas canvas = given_canvas;
    // Where along the row no edge leaves less than nothing.
    Band bands[3];
    if (is_wide) {
        for (int i = 0; i < 3; ++i) {
            bands[i] = Band::of(edges[i]);
        }
    }
    Coating coating;
    if constexpr (has_coats) {
        const auto repeats_of = [&](const float(&values)[3]) {
            const Slope slope = a * values[0] + b * values[1] + c * values[2];
            return std::sqrt(slope.per_x * slope.per_x + slope.per_y * slope.per_y);
        };
        const Skin& skin = coats.skins[t.skin];
        coating = coating_of(coats.surfaces[skin.surface], skin, std::max(repeats_of(m.u), repeats_of(m.v)));
    }
    for (int y = top; y < bottom; ++y) {
        const size_t row = size_t(y) * size_t(canvas.stride);
        const float dy = float(y) + 0.5f - t.y[0];
        if (is_wide) {
            float first = low_x - reach, last = high_x + reach;
            for (int i = 0; i < 3; ++i) {
                const float crossing = t.x[0] + bands[i].middle(dy);
                if (bands[i].is_there()) {
                    first = edges[i].per_x > 0 ? std::max(first, crossing - 1) : first;
                    last = edges[i].per_x < 0 ? std::min(last, crossing + 1) : last;
                }
            }
            left = pixel_at(first + 0.5f, tile.left, tile.right);
            right = pixel_at(last + 0.5f, tile.left, tile.right);
        }
        for (int begin = left; begin < right; begin += lanes) {
            const int x = std::min(begin, tile.right - lanes);
            const size_t at = row + size_t(x);
            const real px = lane_index() + real(float(x) + 0.5f - t.x[0]);
            const auto value = [&](const Slope& slope) {
                return px * real(slope.per_x) + real(slope.per_y * dy + slope.at);
            };
            const real covered =
                min(max(min(value(edges[0]), min(value(edges[1]), value(edges[2]))), zero), one);
            // Beyond a rim, as at it: values do not go on to where there is no body.
            const real own_near = min(max(value(near), real(least_near)), real(most_near));
            const real depth = one / max(own_near, real(1e-6f));
            const real behind = real::load_unaligned(canvas.depth + at);
            kmask is_seen = both(covered > zero, depth < behind);
            if (x < begin) { // these are done already
                is_seen = both(is_seen, lane_index() >= real(float(begin - x)));
            }
            if (t.opacity < 1) {
                // Of every few pixels some are left out, in an even pattern (J. Jimenez, 2014).
                const real inner = (lane_index() + real(float(x) + 0.5f)) * real(0.06711056f) +
                                   real((float(y) + 0.5f) * 0.00583715f);
                const real outer = (inner - floor(inner)) * real(52.9829189f);
                is_seen = both(is_seen, outer - floor(outer) < real(t.opacity));
            }
            if (!any_lane(is_seen)) {
                continue;
            }
            rvec3 colour = every_lane(t.light);
            real amount = sel(is_seen, covered, zero);
            if constexpr (!is_even || has_coats) {
                const real of_a = max(value(a), zero), of_b = max(value(b), zero), of_c = max(value(c), zero);
                const real whole = one / (of_a + of_b + of_c);
                const auto mean_of = [&](float at_a, float at_b, float at_c) {
                    return (of_a * real(at_a) + of_b * real(at_b) + of_c * real(at_c)) * whole;
                };
                const auto mean = [&](const float(&values)[3]) {
                    return mean_of(values[0], values[1], values[2]);
                };
                if constexpr (!is_even) {
                    colour = rvec3(mean_of(t.light.x, m.light[0].x, m.light[1].x),
                                   mean_of(t.light.y, m.light[0].y, m.light[1].y),
                                   mean_of(t.light.z, m.light[0].z, m.light[1].z));
                }
                if constexpr (has_coats) {
                    real opacity = one;
                    wear(coating, mean(m.u), mean(m.v), mean(m.facing), colour, opacity);
                    amount = amount * opacity;
                }
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

void draw_triangles(std::span<const Triangle> triangles, std::span<const TriangleMore> more,
                    std::span<const uint32_t> order, const Coats& coats, const Tile& tile,
                    const Canvas& canvas) {
    for (size_t i = 0; i < order.size(); ++i) {
        fetch_ahead(triangles, order, i);
        const Triangle& triangle = triangles[order[i]];
        const bool has_coats = coats.surfaces[coats.skins[triangle.skin].surface].count > 0;
        const bool has_more = !triangle.is_even || triangle.skin != 0;
        const auto draw = has_coats
                              ? (triangle.is_even ? draw_triangle<true, true> : draw_triangle<true, false>)
                              : (triangle.is_even ? draw_triangle<false, true> : draw_triangle<false, false>);
        draw(triangle, has_more ? &more[triangle.more] : nullptr, coats, tile, canvas);
    }
}

} // namespace
