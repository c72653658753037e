#include "render/sun_map.h"

#include "core/base/axes.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace ember {

namespace {

constexpr float nothing = -std::numeric_limits<float>::max();

// The parts of a triangle that lie in a band of rows.
void raise(const auto& a, const auto& b, const auto& c, int first, int last, int size, float* depths) {
    const float turn = (b.u - a.u) * (c.v - a.v) - (b.v - a.v) * (c.u - a.u);
    if (std::fabs(turn) < 1e-9f) {
        return;
    }
    const float by = 1 / turn;
    const int top = std::max(int(std::ceil(std::min({a.v, b.v, c.v}) - 0.5f)), first);
    const int bottom = std::min(int(std::floor(std::max({a.v, b.v, c.v}) - 0.5f)), last - 1);
    const int left = std::max(int(std::ceil(std::min({a.u, b.u, c.u}) - 0.5f)), 0);
    const int right = std::min(int(std::floor(std::max({a.u, b.u, c.u}) - 0.5f)), size - 1);
    for (int y = top; y <= bottom; ++y) {
        for (int x = left; x <= right; ++x) {
            const float u = float(x) + 0.5f - a.u, v = float(y) + 0.5f - a.v;
            const float s = (u * (c.v - a.v) - v * (c.u - a.u)) * by;
            const float t = (v * (b.u - a.u) - u * (b.v - a.v)) * by;
            if (s >= 0 && t >= 0 && s + t <= 1) {
                float& kept = depths[size_t(y) * size_t(size) + size_t(x)];
                kept = std::max(kept, a.depth + (b.depth - a.depth) * s + (c.depth - a.depth) * t);
            }
        }
    }
}

// A collider as a mesh in its own axes; empty for planes and grids.
Mesh mesh_of(const ColliderRow& row) {
    constexpr int sides = 16, rings = 8;
    const float radius = row.half_size.x, half = row.half_size.y;
    std::vector<std::array<float, 2>> round;
    switch (row.kind) {
    case COLLIDER_BOX:
        return block_mesh(row.half_size * 2);
    case COLLIDER_CYLINDER:
        return spindle(sides, {{-half, radius}, {half, radius}}, -half, half);
    case COLLIDER_BALL:
    case COLLIDER_CAPSULE:
        for (int i = 1; i < rings; ++i) {
            const float turn = std::numbers::pi_v<float> * float(i) / rings;
            const float middle = row.kind == COLLIDER_BALL ? 0.0f : i * 2 <= rings ? -half : half;
            round.push_back({middle - radius * std::cos(turn), radius * std::sin(turn)});
        }
        return spindle(sides, round, round.front()[0] - 0.02f * radius, round.back()[0] + 0.02f * radius);
    default:
        return {};
    }
}

} // namespace

void SunMap::Layer::draw(const Triangles& triangles) {
    depths.assign(size_t(size) * size_t(size), nothing);
    constexpr int bands = 16;
    tbb::parallel_for(0, bands, [&](int band) {
        const int first = size * band / bands, last = size * (band + 1) / bands;
        for (const auto& t : triangles) {
            raise(t[0], t[1], t[2], first, last, size, depths.data());
        }
    });
    // What most places need to be told in the light.
    std::vector<float> own(size_t(patches) * size_t(patches), nothing);
    for (int y = 0; y < size; ++y) {
        for (int x = 0; x < size; x += patch) {
            const float* row = depths.data() + size_t(y) * size_t(size) + size_t(x);
            float& kept = own[size_t(y / patch) * size_t(patches) + size_t(x / patch)];
            kept = std::max(kept, *std::max_element(row, row + patch));
        }
    }
    highest = own;
    for (int y = 0; y < patches; ++y) {
        for (int x = 0; x < patches; ++x) {
            float& kept = highest[size_t(y) * size_t(patches) + size_t(x)];
            for (int j = std::max(y - 1, 0); j <= std::min(y + 1, patches - 1); ++j) {
                for (int i = std::max(x - 1, 0); i <= std::min(x + 1, patches - 1); ++i) {
                    kept = std::max(kept, own[size_t(j) * size_t(patches) + size_t(i)]);
                }
            }
        }
    }
}

// Between four cells, each lit or not.
float SunMap::Layer::lit_at(float u, float v, float depth, float softness) const {
    const float x = u - 0.5f, y = v - 0.5f;
    if (!(x >= 0 && y >= 0 && x < float(size - 1) && y < float(size - 1)) ||
        highest[size_t(int(v) / patch) * size_t(patches) + size_t(int(u) / patch)] <= depth) {
        return 1;
    }
    const int left = int(x), top = int(y);
    const float fx = x - float(left), fy = y - float(top);
    const float* row = depths.data() + size_t(top) * size_t(size) + size_t(left);
    const auto seen = [&](const float* cell) {
        return std::clamp(1 - (*cell - depth - softness) / softness, 0.0f, 1.0f);
    };
    const float above = seen(row) * (1 - fx) + seen(row + 1) * fx;
    const float below = seen(row + size) * (1 - fx) + seen(row + size + 1) * fx;
    return above * (1 - fy) + below * fy;
}

SunMap::Corner SunMap::corner(const Vec3& place) const {
    const Vec3 away = place - middle_;
    return {dot(away, across_) * per_metre_ + float(size) / 2,
            dot(away, along_) * per_metre_ + float(size) / 2, dot(away, towards_)};
}

void SunMap::draw(const std::vector<FrameDebris>& all, const std::vector<FrameCollider>& colliders,
                  const Stage& stage, BodyShelf& shelf) {
    is_on_ = false;
    Vec3 low = {1e9f, 1e9f, 1e9f}, high = low * -1.0f;
    for (const FrameDebris& debris : all) {
        for (const FramePiece& piece : debris.pieces) {
            const Vec3& p = piece.placement.position;
            const float r = debris.cut->pieces[piece.piece].radius;
            low = {std::min(low.x, p.x - r), std::min(low.y, p.y - r), std::min(low.z, p.z - r)};
            high = {std::max(high.x, p.x + r), std::max(high.y, p.y + r), std::max(high.z, p.z + r)};
        }
    }
    if (low.x > high.x || stage.sun_strength <= 0 || stage.sun_height <= 0) {
        return;
    }
    is_on_ = true;
    // Pieces that have flown far off do not make the others' shadows coarse.
    constexpr float widest_m = 12;
    middle_ = (low + high) * 0.5f;
    const float half = std::min(length(high - low) * 0.5f, widest_m);
    towards_ = direction_from(stage.sun_azimuth, stage.sun_height);
    const Axes axes = axes_along_y(towards_);
    across_ = axes.x;
    along_ = axes.z;
    per_metre_ = float(size) / (2 * half);
    softness_ = 2.5f / per_metre_;
    Triangles triangles;
    std::vector<Corner> corners;
    for (const FrameDebris& debris : all) {
        const std::vector<PieceBody>& bodies = shelf.pieces_of(debris.cut);
        for (const FramePiece& piece : debris.pieces) {
            const Body& body = bodies[piece.piece].body;
            const Axes& turned = piece.placement.axes;
            const float scale = piece.opacity > 0.5f ? piece.size : 0;
            corners.clear();
            for (const Vec3& each : body.corners) {
                corners.push_back(corner(piece.placement.position + turned.out(each * scale)));
            }
            for (const BodyFace& face : body.faces) {
                if (dot(turned.out(face.normal), towards_) > 0) {
                    triangles.push_back(
                        {corners[face.corners[0]], corners[face.corners[1]], corners[face.corners[2]]});
                }
            }
        }
    }
    pieces_.draw(triangles);
    triangles.clear();
    for (const FrameCollider& collider : colliders) {
        const ColliderRow& row = collider.row;
        const Mesh mesh = mesh_of(row);
        const Axes turned = {row.axis_x, row.axis_y, row.axis_z};
        for (const auto& t : mesh.triangles) {
            const auto at = [&](size_t k) { return corner(row.position + turned.out(mesh.corners[t[k]])); };
            triangles.push_back({at(0), at(1), at(2)});
        }
    }
    colliders_.draw(triangles);
}

float SunMap::lit(const Vec3& place) const {
    const Corner at = corner(place);
    return std::min(pieces_.lit_at(at.u, at.v, at.depth, softness_),
                    colliders_.lit_at(at.u, at.v, at.depth, softness_));
}

void SunMap::darken_row(const ViewAxes& view, int width, int height, int y, int left, int right,
                        const float* depths, const Vec3& kept, float* red, float* green, float* blue) const {
    const float scale = 2 / (float(height) * view.focal);
    const float down = (float(height) * 0.5f - float(y) - 0.5f) * scale;
    const Vec3 start = view.eye - middle_;
    const Vec3 first = view.forward + view.up * down;
    const Vec3 axes[3] = {across_ * per_metre_, along_ * per_metre_, towards_};
    float from[3], ray[3], step[3];
    for (int k = 0; k < 3; ++k) {
        from[k] = dot(start, axes[k]) + (k < 2 ? float(size) / 2 : 0);
        ray[k] = dot(first, axes[k]);
        step[k] = dot(view.right, axes[k]) * scale;
    }
    for (int x = left; x < right; ++x) {
        const float beside = float(x) + 0.5f - float(width) * 0.5f, depth = depths[x - left];
        const float u = from[0] + depth * (ray[0] + step[0] * beside);
        const float v = from[1] + depth * (ray[1] + step[1] * beside);
        if (!(u > 0 && v > 0 && u < float(size) && v < float(size))) {
            continue;
        }
        const float level = from[2] + depth * (ray[2] + step[2] * beside);
        float dark = 1 - pieces_.lit_at(u, v, level, softness_);
        if (dark > 0) { // less so where the stage's own shadows are
            dark *= colliders_.lit_at(u, v, level, softness_);
        }
        if (dark > 0) {
            red[x - left] *= 1 - dark * (1 - kept.x);
            green[x - left] *= 1 - dark * (1 - kept.y);
            blue[x - left] *= 1 - dark * (1 - kept.z);
        }
    }
}

} // namespace ember
