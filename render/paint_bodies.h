// Bodies, triangle by triangle. Written in the language of kernels/prelude_cpp.h and included inside the
// namespace of an instruction set by render_kernels.cpp, once.

#pragma once

namespace {

// Corners of a triangle, or of as many as there are lanes.
template <class T>
struct Corners {
    T x[3], y[3], near[3];
    T is_rim[3]; // 1 or 0
};

// What is found of a triangle before its pixels are: each corner's share at a place (1 in the corner, 0 on
// the edge opposite of it), how much of a pixel each edge leaves, and the pixels of the tile that it may
// touch.
template <class T>
struct Raster {
    SlopeOf<T> shares[3], edges[3], near;
    T least_near, most_near;
    T left, right, top, bottom; // whole when cut off
    T reach;                    // pixels beyond its corners
};

template <class T>
KERNEL Raster<T> raster_of(IN(Corners<T>) of, const Tile& tile) {
    const T zero = T(0.0f), one = T(1.0f);
    const T bx = of.x[1] - of.x[0], by = of.y[1] - of.y[0], cx = of.x[2] - of.x[0], cy = of.y[2] - of.y[0];
    const T per_area = one / (bx * cy - cx * by);
    Raster<T> raster;
    raster.shares[1] = {zero, cy * per_area, zero - cx * per_area};
    raster.shares[2] = {zero, zero - by * per_area, bx * per_area};
    raster.shares[0] = (raster.shares[1] + raster.shares[2]) * T(-1.0f) + SlopeOf<T>{one, zero, zero};
    // The rim of a body is soft over a pixel, so that it is seen without steps; an edge between two faces is
    // hard, and both have what lies on it.
    for (int i = 0; i < 3; ++i) {
        const SlopeOf<T>& share = raster.shares[i];
        const auto is_rim = of.is_rim[i] > zero;
        const T per_pixel = sqrt(share.per_x * share.per_x + share.per_y * share.per_y);
        raster.edges[i] = share * sel(is_rim, one / per_pixel, T(1e5f)) +
                          SlopeOf<T>{sel(is_rim, T(0.5f), T(1.5f)), zero, zero};
    }
    raster.near =
        raster.shares[0] * of.near[0] + raster.shares[1] * of.near[1] + raster.shares[2] * of.near[2];
    const auto least = [](const T(&values)[3]) { return min(values[0], min(values[1], values[2])); };
    const auto most = [](const T(&values)[3]) { return max(values[0], max(values[1], values[2])); };
    raster.least_near = least(of.near);
    raster.most_near = most(of.near);
    raster.reach = most(of.is_rim) * T(0.7f);
    const auto within = [&](T edge, int low, int high) {
        return min(max(edge + T(0.5f), T(float(low))), T(float(high)));
    };
    raster.left = within(least(of.x) - raster.reach, tile.left, tile.right);
    raster.right = within(most(of.x) + raster.reach, tile.left, tile.right);
    raster.top = within(least(of.y) - raster.reach, tile.top, tile.bottom);
    raster.bottom = within(most(of.y) + raster.reach, tile.top, tile.bottom);
    return raster;
}

// Part of a triangle, a register wide.
struct Stripe {
    int top, bottom, left;
    int done; // so many of its first pixels are in the stripe before
};

// What changes evenly over a triangle: what each edge leaves of a pixel, 1 / depth, light.
struct Slopes {
    Slope edges[3], near;
    Slope light[3]; // of triangles that are not even
};

// A stripe of a triangle without coats.
template <bool is_even>
void draw_stripe(const Triangle& t, const TriangleMore* more, const Slopes& slopes, const Stripe& within,
                 const Canvas canvas) {
    const real zero = real(0.0f), one = real(1.0f);
    const real dx = lane_index() + real(float(within.left) + 0.5f - t.x[0]);
    const float dy = float(within.top) + 0.5f - t.y[0];
    struct Walked {
        real now, step;
    };
    const auto walk = [&](const Slope& slope) {
        return Walked{dx * real(slope.per_x) + real(slope.per_y * dy + slope.at), real(slope.per_y)};
    };
    Walked a = walk(slopes.edges[0]), b = walk(slopes.edges[1]), c = walk(slopes.edges[2]);
    Walked near = walk(slopes.near), red, green, blue;
    a.now = sel(lane_index() >= real(float(within.done)), a.now, real(-1e9f));
    if constexpr (!is_even) {
        red = walk(slopes.light[0]);
        green = walk(slopes.light[1]);
        blue = walk(slopes.light[2]);
    }
    // Beyond a rim, as at it: values do not go on to where there is no body.
    struct Bounds {
        real least, most;

        Bounds(float a, float b, float c) : least(std::min({a, b, c})), most(std::max({a, b, c})) {}
        KERNEL real kept(real value) const { return min(max(value, least), most); }
    };
    const Bounds nears(t.near[0], t.near[1], t.near[2]);
    size_t at = size_t(within.top) * size_t(canvas.stride) + size_t(within.left);
    for (int y = within.top; y < within.bottom; ++y, at += size_t(canvas.stride)) {
        const real covered = min(min(a.now, min(b.now, c.now)), one);
        const real own_near = nears.kept(near.now);
        const real behind = load_any(canvas.depth + at);
        const kmask is_seen = both(covered > zero, own_near * behind > one);
        if (any_lane(is_seen)) {
            rvec3 colour = every_lane(t.light);
            if constexpr (!is_even) {
                const Vec3 &p = t.light, &q = more->light[0], &r = more->light[1];
                colour = rvec3(Bounds(p.x, q.x, r.x).kept(red.now), Bounds(p.y, q.y, r.y).kept(green.now),
                               Bounds(p.z, q.z, r.z).kept(blue.now));
            }
            const real amount = sel(is_seen, covered, zero);
            const auto put = [&](float* light, real own) {
                const real before = load_any(light + at);
                store_any(light + at, before + (own - before) * amount);
            };
            put(canvas.red, colour.x);
            put(canvas.green, colour.y);
            put(canvas.blue, colour.z);
            store_any(canvas.written_depth + at, sel(amount > real(0.5f), one / own_near, behind));
        }
        for (Walked* each : {&a, &b, &c, &near}) {
            each->now = each->now + each->step;
        }
        if constexpr (!is_even) {
            for (Walked* each : {&red, &green, &blue}) {
                each->now = each->now + each->step;
            }
        }
    }
}

constexpr int most_stripes = 3; // wider triangles leave too much of theirs empty

// Of even triangles the first corner's light is everywhere; without coats they have no more. What is given
// are copies, which the stores cannot touch.
template <bool has_coats, bool is_even>
void draw_triangle(const Triangle& given, const TriangleMore* given_more, const Coats& coats, const Tile tile,
                   const Canvas canvas) {
    const real zero = real(0.0f), one = real(1.0f);
    const Triangle t = given;
    const TriangleMore m = given_more != nullptr ? *given_more : TriangleMore();
    Corners<float> corners;
    for (int k = 0; k < 3; ++k) {
        corners.x[k] = t.x[k];
        corners.y[k] = t.y[k];
        corners.near[k] = t.near[k];
        corners.is_rim[k] = t.is_rim[k] ? 1.0f : 0.0f;
    }
    const Raster<float> raster = raster_of(corners, tile);
    const auto& [a, b, c] = raster.shares;
    const auto& edges = raster.edges;
    const Slope& near = raster.near;
    const float least_near = raster.least_near, most_near = raster.most_near;
    const auto [low_x, high_x] = std::minmax({t.x[0], t.x[1], t.x[2]});
    const int top = int(raster.top), bottom = int(raster.bottom);
    int left = int(raster.left), right = int(raster.right);
    const bool is_wide = right - left > lanes;
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
            float first = low_x - raster.reach, last = high_x + raster.reach;
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

// Triangles that are prepared together: without coats, and all of their pixels are taken.
struct TriangleBatch {
    const Triangle* list[lanes];
    const TriangleMore* more[lanes];
    int count = 0;
};

// A slope of each of them.
struct KeptSlopes {
    float at[lanes], per_x[lanes], per_y[lanes];

    explicit KeptSlopes(const SlopeOf<real>& slope) {
        store_any(at, slope.at);
        store_any(per_x, slope.per_x);
        store_any(per_y, slope.per_y);
    }
    Slope of(int lane) const { return {at[lane], per_x[lane], per_y[lane]}; }
};

void draw_batch(const TriangleBatch& batch, const Coats& coats, const Tile& tile, const Canvas& canvas) {
    // Corner by corner, each a register; lanes without a triangle repeat the first.
    float x[3][lanes], y[3][lanes], near[3][lanes], is_rim[3][lanes];
    for (int lane = 0; lane < lanes; ++lane) {
        const Triangle& t = *batch.list[lane < batch.count ? lane : 0];
        for (int k = 0; k < 3; ++k) {
            x[k][lane] = t.x[k];
            y[k][lane] = t.y[k];
            near[k][lane] = t.near[k];
            is_rim[k][lane] = t.is_rim[k] ? 1.0f : 0.0f;
        }
    }
    Corners<real> corners;
    for (int k = 0; k < 3; ++k) {
        corners.x[k] = load_any(x[k]);
        corners.y[k] = load_any(y[k]);
        corners.near[k] = load_any(near[k]);
        corners.is_rim[k] = load_any(is_rim[k]);
    }
    const Raster<real> raster = raster_of(corners, tile);
    const KeptSlopes shares[3] = {KeptSlopes(raster.shares[0]), KeptSlopes(raster.shares[1]),
                                  KeptSlopes(raster.shares[2])};
    const KeptSlopes edges[3] = {KeptSlopes(raster.edges[0]), KeptSlopes(raster.edges[1]),
                                 KeptSlopes(raster.edges[2])};
    const KeptSlopes nears(raster.near);
    float lefts[lanes], rights[lanes], tops[lanes], bottoms[lanes];
    store_any(lefts, raster.left);
    store_any(rights, raster.right);
    store_any(tops, raster.top);
    store_any(bottoms, raster.bottom);
    for (int lane = 0; lane < batch.count; ++lane) {
        const Triangle& t = *batch.list[lane];
        const TriangleMore* more = batch.more[lane];
        const int left = int(lefts[lane]), right = int(rights[lane]);
        if (right - left > most_stripes * lanes) {
            (t.is_even ? draw_triangle<false, true> : draw_triangle<false, false>)(t, more, coats, tile,
                                                                                   canvas);
            continue;
        }
        Slopes slopes = {{edges[0].of(lane), edges[1].of(lane), edges[2].of(lane)}, nears.of(lane), {}};
        if (!t.is_even) {
            const auto light = [&](auto part) {
                return shares[0].of(lane) * (t.light.*part) + shares[1].of(lane) * (more->light[0].*part) +
                       shares[2].of(lane) * (more->light[1].*part);
            };
            slopes.light[0] = light(&Vec3::x);
            slopes.light[1] = light(&Vec3::y);
            slopes.light[2] = light(&Vec3::z);
        }
        for (int begin = left; begin < right; begin += lanes) {
            const int stripe = std::min(begin, tile.right - lanes);
            const auto draw = t.is_even ? draw_stripe<true> : draw_stripe<false>;
            draw(t, more, slopes, {int(tops[lane]), int(bottoms[lane]), stripe, begin - stripe}, canvas);
        }
    }
}

void draw_triangles(std::span<const Triangle> triangles, std::span<const TriangleMore> more,
                    std::span<const uint32_t> order, const Coats& coats, const Tile& tile,
                    const Canvas& canvas) {
    TriangleBatch batch;
    const auto draw_waiting = [&] {
        if (batch.count > 0) {
            draw_batch(batch, coats, tile, canvas);
            batch.count = 0;
        }
    };
    for (size_t i = 0; i < order.size(); ++i) {
        fetch_ahead(triangles, order, i);
        const Triangle& triangle = triangles[order[i]];
        const bool has_coats = coats.surfaces[coats.skins[triangle.skin].surface].count > 0;
        const bool has_more = !triangle.is_even || triangle.skin != 0;
        const TriangleMore* own_more = has_more ? &more[triangle.more] : nullptr;
        if (!has_coats && triangle.opacity >= 1) {
            batch.list[batch.count] = &triangle;
            batch.more[batch.count++] = own_more;
            if (batch.count == lanes) {
                draw_waiting();
            }
            continue;
        }
        draw_waiting();
        const auto draw = has_coats
                              ? (triangle.is_even ? draw_triangle<true, true> : draw_triangle<true, false>)
                              : (triangle.is_even ? draw_triangle<false, true> : draw_triangle<false, false>);
        draw(triangle, own_more, coats, tile, canvas);
    }
    draw_waiting();
}

} // namespace
