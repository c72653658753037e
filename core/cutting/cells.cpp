#include "core/cutting/cells.h"

#include "core/base/axes.h"
#include "core/base/hash.h"

#include <voro++/voro++.hh>

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

namespace ember {

namespace {

struct Bounds {
    Point low, size;

    Point at(double x, double y, double z) const { return low + Point{size.x * x, size.y * y, size.z * z}; }
    bool hold(const Point& p) const {
        const Point q = p - low;
        return q.x > 0 && q.y > 0 && q.z > 0 && q.x < size.x && q.y < size.y && q.z < size.z;
    }
};

// A little larger than the mesh, so that its own faces are not planes of cells.
Bounds bounds_of(const ClosedMesh& mesh) {
    const Point low = mesh.low(), size = mesh.high() - low;
    const double margin = 1e-3 * std::max({size.x, size.y, size.z});
    const Point wide = {margin, margin, margin};
    return {low - wide, size + wide * 2};
}

double random_of(uint32_t seed, uint32_t number, uint32_t what) {
    return double(mixed_seed(mixed_seed(seed, number), what)) / 4294967296.0;
}

class Voronoi {
  public:
    Voronoi(const Bounds& bounds, const std::vector<Point>& points)
        : points_(points), cells_(bounds.low.x, bounds.low.x + bounds.size.x, bounds.low.y,
                                  bounds.low.y + bounds.size.y, bounds.low.z, bounds.low.z + bounds.size.z,
                                  blocks(), blocks(), blocks(), false, false, false, 8) {
        for (size_t i = 0; i < points.size(); ++i) {
            cells_.put(int(i), points[i].x, points[i].y, points[i].z);
        }
    }

    // Visits each cell with the number of its point.
    void each(auto visit) {
        voro::voronoicell_neighbor cell;
        voro::c_loop_all loop(cells_);
        if (loop.start()) {
            do {
                if (cells_.compute_cell(cell, loop)) {
                    visit(size_t(loop.pid()), cell);
                }
            } while (loop.inc());
        }
    }

    // The middles of the cells; where that is outside of the mesh, the point as it was.
    std::vector<Point> middles(const ClosedMesh& mesh) {
        std::vector<Point> middles = points_;
        each([&](size_t i, voro::voronoicell_neighbor& cell) {
            Point offset;
            cell.centroid(offset.x, offset.y, offset.z);
            middles[i] = mesh.holds(points_[i] + offset) ? points_[i] + offset : points_[i];
        });
        return middles;
    }

    // Halfway between two points; the same plane seen from either side.
    std::vector<Cell> cells(int32_t& next_cut) {
        std::vector<Cell> cells(points_.size());
        std::map<std::pair<size_t, size_t>, int32_t> numbers;
        std::vector<int> neighbours;
        each([&](size_t i, voro::voronoicell_neighbor& cell) {
            cell.neighbors(neighbours);
            std::vector<std::pair<double, size_t>> by_distance;
            for (const int neighbour : neighbours) {
                if (neighbour >= 0) { // the others are walls
                    const Point way = points_[size_t(neighbour)] - points_[i];
                    by_distance.emplace_back(dot(way, way), size_t(neighbour));
                }
            }
            std::sort(by_distance.begin(), by_distance.end()); // near ones leave little for the others
            for (const auto& [square, j] : by_distance) {
                const auto pair = std::minmax(i, j);
                const auto [number, is_new] = numbers.try_emplace(pair, next_cut);
                next_cut += is_new ? 1 : 0;
                const Point &a = points_[pair.first], &b = points_[pair.second];
                const Point normal = (b - a) * (1 / std::sqrt(square));
                const double distance = dot(normal, (a + b) * 0.5);
                const bool is_first = i == pair.first;
                const double way = is_first ? 1 : -1;
                cells[i].push_back({normal * way, distance * way, 2 * number->second + (is_first ? 0 : 1)});
            }
        });
        return cells;
    }

  private:
    int blocks() const { return std::clamp(int(std::cbrt(double(points_.size()) / 5)), 1, 32); }

    const std::vector<Point>& points_;
    voro::container cells_;
};

// Random places within the mesh; fewer than asked for only if there is hardly any inside.
std::vector<Point> places_within(const ClosedMesh& mesh, const Bounds& bounds, int count, uint32_t seed,
                                 auto move) {
    std::vector<Point> places;
    const uint32_t tries = uint32_t(count) * 60;
    for (uint32_t i = 0; i < tries && places.size() < size_t(count); ++i) {
        const Point place =
            move(bounds.at(random_of(seed, i, 1), random_of(seed, i, 2), random_of(seed, i, 3)));
        if (bounds.hold(place) && mesh.holds(place)) {
            places.push_back(place);
        }
    }
    return places;
}

std::vector<Point> graded_places(const ClosedMesh& mesh, const Bounds& bounds, const CutOrder& order) {
    const Point centre = point_of(order.centre);
    const Point low = bounds.low - centre, high = low + bounds.size;
    const double far = std::max(std::sqrt(dot(low, low)), std::sqrt(dot(high, high)));
    return places_within(mesh, bounds, order.pieces, order.seed, [&](const Point& p) {
        const Point way = p - centre;
        const double share = std::sqrt(dot(way, way)) / std::max(far, 1e-9);
        return centre + way * std::pow(share, 2.5 * double(order.grading));
    });
}

// Rings round an axis, ever wider: coplanar points have cells that are spokes and arcs. Places that miss the
// bounds are left out.
std::vector<Point> ring_places(const Bounds& bounds, const CutOrder& order, int count) {
    const Axes axes = axes_along_y(normalized(order.axis, {0, 0, 1}));
    const Point centre = point_of(order.centre);
    const double far = std::sqrt(dot(bounds.size, bounds.size));
    const int rings = std::max(int(std::sqrt(double(count) / 2.5)), 1);
    const int spokes = std::max((count - 1) / rings, 3);
    const double uneven = 1 - double(order.evenness);
    std::vector<Point> places = {centre};
    for (int ring = 0; ring < rings; ++ring) {
        for (int spoke = 0; spoke < spokes; ++spoke) {
            const auto number = uint32_t(ring * spokes + spoke);
            const double share =
                (ring + 0.6 + 0.7 * uneven * (random_of(order.seed, number, 1) - 0.5)) / rings;
            const double angle =
                2 * std::numbers::pi *
                (spoke + 0.5 * (ring % 2) + 0.8 * uneven * (random_of(order.seed, number, 2) - 0.5)) / spokes;
            const double radius = 0.5 * far * std::pow(share, 1 + 1.5 * double(order.grading));
            const Point place = centre + point_of(axes.x) * (radius * std::cos(angle)) +
                                point_of(axes.z) * (radius * std::sin(angle));
            if (bounds.hold(place)) {
                places.push_back(place);
            }
        }
    }
    return places;
}

// Rings of so many places that as many as are asked for lie within the bounds, or a few less.
std::vector<Point> spoke_places(const Bounds& bounds, const CutOrder& order) {
    constexpr int most_outside = 16; // for each that is within
    std::vector<Point> places = ring_places(bounds, order, order.pieces);
    for (int count = order.pieces; count < order.pieces * most_outside; count += std::max(count / 16, 1)) {
        std::vector<Point> more = ring_places(bounds, order, count);
        if (more.size() > places.size() && more.size() <= size_t(order.pieces)) {
            places = std::move(more);
        }
    }
    return places;
}

// Slabs across an axis.
std::vector<Cell> layer_cells(const ClosedMesh& mesh, const CutOrder& order, int32_t& next_cut) {
    const Point axis = point_of(normalized(order.axis, {0, 0, 1}));
    double low = HUGE_VAL, high = -HUGE_VAL;
    for (const Point& p : mesh.points) {
        low = std::min(low, dot(p, axis));
        high = std::max(high, dot(p, axis));
    }
    std::vector<Cell> cells(size_t(order.pieces));
    for (size_t i = 0; i + 1 < cells.size(); ++i) {
        const double shift = (1 - double(order.evenness)) * (random_of(order.seed, uint32_t(i), 1) - 0.5);
        const double height = low + (high - low) * (double(i) + 1 + shift) / double(cells.size());
        cells[i].push_back({axis, height, 2 * next_cut});
        cells[i + 1].push_back({axis * -1, -height, 2 * next_cut++ + 1});
    }
    return cells;
}

// Courses of blocks, every other one shifted by half a block.
std::vector<Cell> course_cells(const Bounds& bounds, const CutOrder& order, int32_t& next_cut) {
    const auto count = [](double length, float block) {
        return std::max(int(std::lround(length / std::max(double(block), 1e-6))), 1);
    };
    const Point x = {1, 0, 0}, y = {0, 1, 0}, z = {0, 0, 1};
    const int courses = count(bounds.size.y, order.block.y), rows = count(bounds.size.z, order.block.z);
    const int columns = count(bounds.size.x, order.block.x);
    const double high = bounds.size.y / courses, deep = bounds.size.z / rows, wide = bounds.size.x / columns;
    std::vector<Cell> cells;
    const int32_t bed = next_cut; // between courses
    next_cut += courses;
    const auto add = [](Cell& cell, const Point& normal, double height, bool is_below, int32_t cut) {
        const double way = is_below ? 1 : -1;
        cell.push_back({normal * way, height * way, 2 * cut + (is_below ? 0 : 1)});
    };
    for (int course = 0; course < courses; ++course) {
        const int32_t aisle = next_cut; // between rows
        next_cut += rows;
        const double shift = course % 2 == 0 ? 0 : 0.5;
        const int blocks = columns + (course % 2);
        for (int row = 0; row < rows; ++row) {
            const int32_t joint = next_cut; // between blocks
            next_cut += blocks;
            for (int block = 0; block < blocks; ++block) {
                Cell cell;
                const double bottom = bounds.low.y + high * course, back = bounds.low.z + deep * row;
                const double left = bounds.low.x + wide * (block - shift);
                if (course > 0) {
                    add(cell, y, bottom, false, bed + course - 1);
                }
                if (course + 1 < courses) {
                    add(cell, y, bottom + high, true, bed + course);
                }
                if (row > 0) {
                    add(cell, z, back, false, aisle + row - 1);
                }
                if (row + 1 < rows) {
                    add(cell, z, back + deep, true, aisle + row);
                }
                if (block > 0) {
                    add(cell, x, left, false, joint + block - 1);
                }
                if (block + 1 < blocks) {
                    add(cell, x, left + wide, true, joint + block);
                }
                cells.push_back(std::move(cell));
            }
        }
    }
    return cells;
}

} // namespace

std::optional<std::vector<Cell>> cells_of(const ClosedMesh& mesh, const CutOrder& order, int32_t& next_cut,
                                          const std::function<bool(float)>& goes_on) {
    const Bounds bounds = bounds_of(mesh);
    if (order.pattern == CutPattern::layers) {
        return layer_cells(mesh, order, next_cut);
    }
    if (order.pattern == CutPattern::courses) {
        return course_cells(bounds, order, next_cut);
    }
    std::vector<Point> points = order.pattern == CutPattern::graded ? graded_places(mesh, bounds, order)
                                : order.pattern == CutPattern::spokes
                                    ? spoke_places(bounds, order)
                                    : places_within(mesh, bounds, order.pieces, order.seed, std::identity());
    if (points.empty()) {
        return std::vector<Cell>(1);
    }
    // Cells grow alike as their points move to their middles (S. Lloyd, 1982).
    constexpr float most_rounds = 40;
    const float share = order.evenness * order.evenness;
    const int rounds = order.pattern == CutPattern::even ? int(share * most_rounds + 0.5f) : 0;
    for (int round = 0; round < rounds; ++round) {
        if (!goes_on(float(round) / most_rounds)) {
            return std::nullopt;
        }
        points = Voronoi(bounds, points).middles(mesh);
    }
    return Voronoi(bounds, points).cells(next_cut);
}

} // namespace ember
