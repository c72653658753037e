#include "core/geometry/blended_surface.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// Distances beyond the skin are of no use farther out than this (cells).
constexpr float band = 2.5f;

struct Grid {
    Vec3 low;
    float cell = 1;
    int across = 0, up = 0, deep = 0; // samples
    std::vector<float> values;        // m, negative inside

    size_t at(int x, int y, int z) const {
        return (size_t(z) * size_t(up) + size_t(y)) * size_t(across) + size_t(x);
    }
    Vec3 place(int x, int y, int z) const { return low + Vec3{float(x), float(y), float(z)} * cell; }
};

// How far from its middle a ball is felt (m).
float reach_of(const BlendedBall& ball, float cell, float blending) {
    return std::max(ball.radius, cell) + std::max(band * cell, 4 * blending);
}

// How many distances are found in all, of a grid in a box of this size.
double work_of(std::span<const BlendedBall> balls, const Vec3& size, float cell, float blending) {
    double work = 0;
    for (const BlendedBall& ball : balls) {
        const float across = 2 * reach_of(ball, cell, blending);
        work += double(std::min(across, size.x)) * double(std::min(across, size.y)) *
                double(std::min(across, size.z));
    }
    return work / std::pow(double(cell), 3);
}

Grid grid_round(std::span<const BlendedBall> balls, float cell, float blending) {
    Vec3 low = balls.front().place, high = low;
    float widest = 0;
    for (const BlendedBall& ball : balls) {
        low = {std::min(low.x, ball.place.x), std::min(low.y, ball.place.y), std::min(low.z, ball.place.z)};
        high = {std::max(high.x, ball.place.x), std::max(high.y, ball.place.y),
                std::max(high.z, ball.place.z)};
        widest = std::max(widest, ball.radius);
    }
    Grid grid;
    const auto rim = [&](float c) { return std::max(widest, c) + 4 * blending + (band + 1) * c; };
    Vec3 size = high - low + Vec3{2, 2, 2} * rim(cell);
    // Coarser cells need a wider rim, which needs more of them again.
    for (int i = 0; i < 16; ++i) {
        const double cells = double(size.x) * double(size.y) * double(size.z) / std::pow(double(cell), 3);
        const double over =
            std::max(cells / most_blended_cells, work_of(balls, size, cell, blending) / most_blended_work);
        if (over <= 1) {
            break;
        }
        cell *= float(std::cbrt(over)) * 1.01f;
        size = high - low + Vec3{2, 2, 2} * rim(cell);
    }
    grid.cell = cell;
    grid.low = low - Vec3{1, 1, 1} * rim(cell);
    grid.across = int(size.x / cell) + 2;
    grid.up = int(size.y / cell) + 2;
    grid.deep = int(size.z / cell) + 2;
    return grid;
}

// Slice after slice, each with the balls that reach it, in their order: the same on any number of threads.
void fill(Grid& grid, std::span<const BlendedBall> balls, float blending) {
    const float none = band * grid.cell;
    const float sharp = blending > 0 ? 1 / blending : 0;
    grid.values.assign(size_t(grid.across) * size_t(grid.up) * size_t(grid.deep), blending > 0 ? 0 : none);
    std::vector<std::vector<uint32_t>> of_slice(size_t(grid.deep));
    const auto samples = [&](float from, float to, int count, int& first, int& last) {
        first = std::clamp(int(std::ceil(from / grid.cell)), 0, count);
        last = std::clamp(int(std::floor(to / grid.cell)) + 1, first, count);
    };
    for (uint32_t i = 0; i < balls.size(); ++i) {
        const float z = balls[i].place.z - grid.low.z, reach = reach_of(balls[i], grid.cell, blending);
        int first = 0, last = 0;
        samples(z - reach, z + reach, grid.deep, first, last);
        for (int slice = first; slice < last; ++slice) {
            of_slice[size_t(slice)].push_back(i);
        }
    }
    tbb::parallel_for(0, grid.deep, [&](int z) {
        for (const uint32_t i : of_slice[size_t(z)]) {
            const BlendedBall& ball = balls[i];
            const float radius = std::max(ball.radius, grid.cell),
                        reach = reach_of(ball, grid.cell, blending);
            const Vec3 at = ball.place - grid.low;
            const float dz = float(z) * grid.cell - at.z;
            int top = 0, bottom = 0;
            samples(at.y - reach, at.y + reach, grid.up, top, bottom);
            for (int y = top; y < bottom; ++y) {
                const float dy = float(y) * grid.cell - at.y;
                const float aside = dy * dy + dz * dz;
                if (aside > reach * reach) {
                    continue;
                }
                const float half = std::sqrt(reach * reach - aside);
                int left = 0, right = 0;
                samples(at.x - half, at.x + half, grid.across, left, right);
                float* row = grid.values.data() + grid.at(0, y, z);
                for (int x = left; x < right; ++x) {
                    const float dx = float(x) * grid.cell - at.x;
                    const float distance = std::sqrt(aside + dx * dx) - radius;
                    if (blending > 0) {
                        row[x] += std::exp(-distance * sharp);
                    } else {
                        row[x] = std::min(row[x], distance);
                    }
                }
            }
        }
        if (blending > 0) {
            float* slice = grid.values.data() + grid.at(0, 0, z);
            for (size_t i = 0; i < size_t(grid.across) * size_t(grid.up); ++i) {
                slice[i] = slice[i] > 0 ? std::min(-blending * std::log(slice[i]), none) : none;
            }
        }
    });
}

// A corner in each cell that the skin passes through, in the middle of where it crosses the cell's edges.
class Net {
  public:
    explicit Net(const Grid& grid) : grid_(grid), corners_(grid.values.size(), none) {}

    Mesh mesh() {
        for (int z = 0; z + 1 < grid_.deep; ++z) {
            for (int y = 0; y + 1 < grid_.up; ++y) {
                for (int x = 0; x + 1 < grid_.across; ++x) {
                    add_corner(x, y, z);
                }
            }
        }
        for (int z = 1; z + 1 < grid_.deep; ++z) {
            for (int y = 1; y + 1 < grid_.up; ++y) {
                for (int x = 1; x + 1 < grid_.across; ++x) {
                    add_faces(x, y, z);
                }
            }
        }
        return std::move(mesh_);
    }

  private:
    static constexpr uint32_t none = UINT32_MAX;

    void add_corner(int x, int y, int z) {
        float values[8];
        int inside = 0;
        for (int i = 0; i < 8; ++i) {
            values[i] = grid_.values[grid_.at(x + (i & 1), y + (i >> 1 & 1), z + (i >> 2))];
            inside += values[i] < 0 ? 1 : 0;
        }
        if (inside == 0 || inside == 8) {
            return;
        }
        Vec3 sum, slope;
        int crossings = 0;
        for (int a = 0; a < 8; ++a) {
            for (const int bit : {1, 2, 4}) {
                const int b = a | bit;
                if ((a & bit) != 0) {
                    continue;
                }
                const float step = values[b] - values[a];
                (bit == 1 ? slope.x : bit == 2 ? slope.y : slope.z) += step;
                if ((values[a] < 0) == (values[b] < 0)) {
                    continue;
                }
                const float share = values[a] / (values[a] - values[b]);
                Vec3 at = {float(a & 1), float(a >> 1 & 1), float(a >> 2)};
                (bit == 1 ? at.x : bit == 2 ? at.y : at.z) += share;
                sum += at;
                ++crossings;
            }
        }
        corners_[grid_.at(x, y, z)] = uint32_t(mesh_.corners.size());
        mesh_.corners.push_back(grid_.place(x, y, z) + sum * (grid_.cell / float(crossings)));
        mesh_.normals.push_back(normalized(slope, {0, 1, 0}));
    }

    // Of the edges of the grid that go out from a sample, those that the skin crosses: the cells round such
    // an edge are joined.
    void add_faces(int x, int y, int z) {
        const bool is_inside = grid_.values[grid_.at(x, y, z)] < 0;
        const auto join = [&](const size_t(&around)[4]) {
            uint32_t c[4];
            for (int i = 0; i < 4; ++i) {
                c[i] = corners_[around[is_inside ? i : 3 - i]];
            }
            mesh_.triangles.push_back({c[0], c[1], c[2]});
            mesh_.triangles.push_back({c[0], c[2], c[3]});
        };
        const auto crosses = [&](int to_x, int to_y, int to_z) {
            return is_inside != (grid_.values[grid_.at(to_x, to_y, to_z)] < 0);
        };
        if (crosses(x + 1, y, z)) {
            join(
                {grid_.at(x, y - 1, z - 1), grid_.at(x, y, z - 1), grid_.at(x, y, z), grid_.at(x, y - 1, z)});
        }
        if (crosses(x, y + 1, z)) {
            join(
                {grid_.at(x - 1, y, z - 1), grid_.at(x - 1, y, z), grid_.at(x, y, z), grid_.at(x, y, z - 1)});
        }
        if (crosses(x, y, z + 1)) {
            join(
                {grid_.at(x - 1, y - 1, z), grid_.at(x, y - 1, z), grid_.at(x, y, z), grid_.at(x - 1, y, z)});
        }
    }

    const Grid& grid_;
    std::vector<uint32_t> corners_; // of cells, by their lowest sample
    Mesh mesh_;
};

} // namespace

Mesh surface_of(std::span<const float> distances, const std::array<int, 3>& samples, const Vec3& low,
                float cell) {
    const Grid grid = {low, cell, samples[0], samples[1], samples[2], {distances.begin(), distances.end()}};
    return Net(grid).mesh();
}

Mesh blended_surface(std::span<const BlendedBall> balls, float cell, float blending) {
    if (balls.empty()) {
        return {};
    }
    Grid grid = grid_round(balls, cell, blending);
    // What is far narrower than a cell cannot be told from a sharp join.
    fill(grid, balls, blending < 0.05f * grid.cell ? 0 : blending);
    return Net(grid).mesh();
}

} // namespace ember
