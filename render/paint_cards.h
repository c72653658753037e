// Flat pieces with their coats. Written in the language of kernels/prelude_cpp.h and included inside the
// namespace of an instruction set by render_kernels.cpp, once.

#pragma once

namespace {

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

} // namespace
