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

// Where a share of a triangle is at least 0, along a row and from row to row.
struct Edge {
    float by_x, by_y, start;

    // Narrows the cells of a row to those that are inside.
    void narrow(float y, int& left, int& right) const {
        constexpr float over = 1e-3f; // no gap between neighbours
        const float at_row = start + by_y * y;
        if (by_x > 0) {
            left = std::max(left, int(std::ceil(-at_row / by_x - 0.5f - over)));
        } else if (by_x < 0) {
            right = std::min(right, int(std::floor(-at_row / by_x - 0.5f + over)));
        } else if (at_row < 0) {
            right = left - 1;
        }
    }
};

// A triangle as rows of cells.
struct Raised {
    int top, bottom, left, right; // cells that it may reach
    Edge edges[3];
    float by_x, by_y, depth; // plane

    // False if it reaches none.
    bool set(const auto& a, const auto& b, const auto& c, int size) {
        const float turn = (b.u - a.u) * (c.v - a.v) - (b.v - a.v) * (c.u - a.u);
        top = std::max(int(std::ceil(std::min({a.v, b.v, c.v}) - 0.5f)), 0);
        bottom = std::min(int(std::floor(std::max({a.v, b.v, c.v}) - 0.5f)), size - 1);
        left = std::max(int(std::ceil(std::min({a.u, b.u, c.u}) - 0.5f)), 0);
        right = std::min(int(std::floor(std::max({a.u, b.u, c.u}) - 0.5f)), size - 1);
        if (std::fabs(turn) < 1e-9f || top > bottom || left > right) {
            return false;
        }
        const float by = 1 / turn;
        const auto share = [&](const auto& p, const auto& q) { // that grows from the edge p, q
            const float along_x = (p.v - q.v) * by, along_y = (q.u - p.u) * by;
            return Edge{along_x, along_y, -along_x * p.u - along_y * p.v};
        };
        edges[0] = share(b, c);
        edges[1] = share(c, a);
        edges[2] = share(a, b);
        by_x = edges[0].by_x * a.depth + edges[1].by_x * b.depth + edges[2].by_x * c.depth;
        by_y = edges[0].by_y * a.depth + edges[1].by_y * b.depth + edges[2].by_y * c.depth;
        depth = edges[0].start * a.depth + edges[1].start * b.depth + edges[2].start * c.depth;
        return true;
    }

    void raise(int y, float* row) const {
        const float at_y = float(y) + 0.5f;
        int first = left, last = right;
        for (const Edge& edge : edges) {
            edge.narrow(at_y, first, last);
        }
        const float at_row = depth + by_y * at_y + by_x * 0.5f;
        for (int x = first; x <= last; ++x) {
            row[x] = std::max(row[x], at_row + by_x * float(x));
        }
    }
};

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
    depths.resize(size_t(size) * size_t(size));
    std::vector<float> own(size_t(patches) * size_t(patches), nothing);
    constexpr int bands = 16, rows = size / bands;
    static_assert(rows % patch == 0);
    std::vector<Raised> raised;
    std::array<std::vector<uint32_t>, bands> of_band;
    raised.reserve(triangles.size());
    for (const auto& t : triangles) {
        Raised next;
        if (next.set(t[0], t[1], t[2], size)) {
            for (int band = next.top / rows; band <= next.bottom / rows; ++band) {
                of_band[size_t(band)].push_back(uint32_t(raised.size()));
            }
            raised.push_back(next);
        }
    }
    tbb::parallel_for(0, bands, [&](int band) {
        const int first = rows * band, last = first + rows;
        const auto row_at = [&](int y) { return depths.data() + size_t(y) * size_t(size); };
        std::fill(row_at(first), row_at(last), nothing);
        for (const uint32_t i : of_band[size_t(band)]) {
            const Raised& each = raised[i];
            for (int y = std::max(each.top, first); y <= std::min(each.bottom, last - 1); ++y) {
                each.raise(y, row_at(y));
            }
        }
        // What most places need to be told in the light.
        for (int y = first; y < last; ++y) {
            for (int x = 0; x < size; x += patch) {
                float& kept = own[size_t(y / patch) * size_t(patches) + size_t(x / patch)];
                kept = std::max(kept, *std::max_element(row_at(y) + x, row_at(y) + x + patch));
            }
        }
    });
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
    low_ = {float(size), float(size), 0};
    high_ = {0, 0, -1e9f};
    for (const FrameDebris& debris : all) {
        const std::vector<PieceBody>& bodies = shelf.pieces_of(debris.cut);
        for (const FramePiece& piece : debris.pieces) {
            const Corner at = corner(piece.placement.position);
            const float r = debris.cut->pieces[piece.piece].radius, cells = r * per_metre_ + 1;
            low_ = {std::min(low_.u, at.u - cells), std::min(low_.v, at.v - cells), low_.depth};
            high_ = {std::max(high_.u, at.u + cells), std::max(high_.v, at.v + cells),
                     std::max(high_.depth, at.depth + r)};
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

bool SunMap::darken(const RenderKernels& kernels, const ViewAxes& view, const Tile& tile, float farthest,
                    const Vec3& kept, const float* depths, LightPlanes& light) const {
    const float scale = 2 / (float(light.height) * view.focal);
    const Vec3 step = view.right * scale, down = view.up * -scale;
    const Vec3 first = view.forward + step * (float(tile.left) + 0.5f - float(light.width) * 0.5f) +
                       down * (float(tile.top) + 0.5f - float(light.height) * 0.5f * (1 + view.lowered));
    const Vec3 start = view.eye - middle_;
    const Vec3 axes[3] = {across_ * per_metre_, along_ * per_metre_, towards_};
    SunRow row = {pieces_.depths.data(),
                  colliders_.depths.data(),
                  pieces_.highest.data(),
                  size,
                  patch,
                  softness_,
                  {},
                  {},
                  {},
                  kept};
    float next_row[3];
    for (int k = 0; k < 3; ++k) {
        row.from[k] = dot(start, axes[k]) + (k < 2 ? float(size) / 2 : 0);
        row.ray[k] = dot(first, axes[k]);
        row.step[k] = dot(step, axes[k]);
        next_row[k] = dot(down, axes[k]);
    }
    // What the tile shows lies between its corners, at the nearest depth and at the farthest.
    float low[3] = {1e30f, 1e30f, 1e30f}, high[3] = {-1e30f, -1e30f, -1e30f};
    for (int corner = 0; corner < 8; ++corner) {
        const float x = float((corner & 1) * (tile.right - tile.left)),
                    y = float((corner >> 1 & 1) * (tile.bottom - tile.top)),
                    depth = (corner >> 2 & 1) == 0 ? tile.nearest : farthest;
        for (int k = 0; k < 3; ++k) {
            const float place = row.from[k] + depth * (row.ray[k] + row.step[k] * x + next_row[k] * y);
            low[k] = std::min(low[k], place);
            high[k] = std::max(high[k], place);
        }
    }
    if (high[0] < low_.u || low[0] > high_.u || high[1] < low_.v || low[1] > high_.v ||
        low[2] > high_.depth) {
        return false;
    }
    for (int y = tile.top; y < tile.bottom; ++y) {
        const size_t at = size_t(y) * size_t(light.stride) + size_t(tile.left);
        kernels.darken_row(row, tile.right - tile.left, depths + at, light.red.data() + at,
                           light.green.data() + at, light.blue.data() + at);
        for (int k = 0; k < 3; ++k) {
            row.ray[k] += next_row[k];
        }
    }
    return true;
}

} // namespace ember
