#include "core/cutting/closed_mesh.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <unordered_map>

namespace ember {

namespace {

// A point of an outline, laid flat.
struct FlatPoint {
    double x, y;
    uint32_t point; // of the mesh
};
using Outline = std::vector<FlatPoint>;

double turn(const FlatPoint& a, const FlatPoint& b, const FlatPoint& c) {
    return (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
}

double area_of(const Outline& outline) {
    double twice = 0;
    for (size_t i = 0; i < outline.size(); ++i) {
        const FlatPoint &a = outline[i], &b = outline[(i + 1) % outline.size()];
        twice += a.x * b.y - b.x * a.y;
    }
    return twice / 2;
}

bool holds_flat(const Outline& outline, const FlatPoint& p) {
    bool inside = false;
    for (size_t i = 0; i < outline.size(); ++i) {
        const FlatPoint &a = outline[i], &b = outline[(i + 1) % outline.size()];
        if ((a.y > p.y) != (b.y > p.y) && p.x < a.x + (p.y - a.y) / (b.y - a.y) * (b.x - a.x)) {
            inside = !inside;
        }
    }
    return inside;
}

// Joins a hole to the outline round it by a bridge that is walked both ways (D. Eberly, "Triangulation by Ear
// Clipping", 2002, section 5).
void bridge(Outline& outer, const Outline& hole) {
    const auto right = std::max_element(hole.begin(), hole.end(),
                                        [](const FlatPoint& a, const FlatPoint& b) { return a.x < b.x; });
    const FlatPoint& from = *right;
    // The nearest side of the outline on the way to the right, then the corner of it that is seen.
    size_t side = 0;
    double nearest = HUGE_VAL;
    for (size_t i = 0; i < outer.size(); ++i) {
        const FlatPoint &a = outer[i], &b = outer[(i + 1) % outer.size()];
        if ((a.y > from.y) == (b.y > from.y)) {
            continue;
        }
        const double x = a.x + (from.y - a.y) / (b.y - a.y) * (b.x - a.x);
        if (x >= from.x && x < nearest) {
            nearest = x;
            side = a.x > b.x ? i : (i + 1) % outer.size();
        }
    }
    size_t seen = side;
    const FlatPoint hit = {nearest, from.y, 0};
    double flattest = HUGE_VAL;
    for (size_t i = 0; i < outer.size(); ++i) {
        const FlatPoint& p = outer[i];
        const FlatPoint &goal = outer[side], &a = goal.y < from.y ? goal : hit,
                        &b = goal.y < from.y ? hit : goal;
        const bool within = turn(from, a, p) >= 0 && turn(a, b, p) >= 0 && turn(b, from, p) >= 0;
        const double slope = std::fabs(p.y - from.y) / std::max(p.x - from.x, 1e-300);
        if (i != side && within && p.x > from.x && slope < flattest) {
            flattest = slope;
            seen = i;
        }
    }
    Outline joined(outer.begin(), outer.begin() + std::ptrdiff_t(seen) + 1);
    joined.insert(joined.end(), right, hole.end());
    joined.insert(joined.end(), hole.begin(), right + 1);
    joined.insert(joined.end(), outer.begin() + std::ptrdiff_t(seen), outer.end());
    outer = std::move(joined);
}

// Cuts off one ear after the other. Where rounding leaves no ear the flattest corner goes, so that every
// point is used.
void close_outline(const Outline& outline, int32_t side, std::vector<ClosedMesh::Face>& faces) {
    const size_t count = outline.size();
    std::vector<size_t> before(count), after(count);
    for (size_t i = 0; i < count; ++i) {
        before[i] = (i + count - 1) % count;
        after[i] = (i + 1) % count;
    }
    const auto corner = [&](size_t i) { return turn(outline[before[i]], outline[i], outline[after[i]]); };
    const auto is_ear = [&](size_t i) {
        const FlatPoint &a = outline[before[i]], &b = outline[i], &c = outline[after[i]];
        if (turn(a, b, c) <= 0) {
            return false;
        }
        for (size_t k = after[after[i]]; k != before[i]; k = after[k]) {
            const FlatPoint& p = outline[k];
            const bool is_same = p.point == a.point || p.point == b.point || p.point == c.point;
            if (!is_same && turn(a, b, p) >= 0 && turn(b, c, p) >= 0 && turn(c, a, p) >= 0) {
                return false;
            }
        }
        return true;
    };
    size_t at = 0;
    for (size_t left = count; left > 2; --left) {
        size_t ear = at;
        size_t tried = 0;
        while (tried < left && !is_ear(ear)) {
            ear = after[ear];
            ++tried;
        }
        if (tried == left) {
            for (size_t i = after[ear], n = 1; n < left; ++n, i = after[i]) {
                ear = std::fabs(corner(i)) < std::fabs(corner(ear)) ? i : ear;
            }
        }
        faces.push_back({{outline[before[ear]].point, outline[ear].point, outline[after[ear]].point}, side});
        after[before[ear]] = after[ear];
        before[after[ear]] = before[ear];
        at = after[after[ear]]; // not always the same corner: fans make thin triangles
    }
}

// Closes outlines in a plane: those that run anticlockwise about its normal, less those that run clockwise.
void close_outlines(const std::vector<Point>& points, const std::vector<std::vector<uint32_t>>& loops,
                    const CutPlane& plane, std::vector<ClosedMesh::Face>& faces) {
    const Point other = std::fabs(plane.normal.y) < 0.9 ? Point{0, 1, 0} : Point{1, 0, 0};
    Point u = cross(other, plane.normal);
    u = u * (1 / std::sqrt(dot(u, u)));
    const Point v = cross(plane.normal, u);
    std::vector<Outline> outer, holes;
    std::vector<double> areas;
    for (const std::vector<uint32_t>& loop : loops) {
        if (loop.size() < 3) {
            continue; // its two faces close each other
        }
        Outline outline;
        for (const uint32_t point : loop) {
            outline.push_back({dot(points[point], u), dot(points[point], v), point});
        }
        const double area = area_of(outline);
        if (area >= 0) {
            outer.push_back(std::move(outline));
            areas.push_back(area);
        } else {
            holes.push_back(std::move(outline));
        }
    }
    const auto rightmost = [](const Outline& hole) {
        return std::max_element(hole.begin(), hole.end(),
                                [](const FlatPoint& a, const FlatPoint& b) { return a.x < b.x; })
            ->x;
    };
    std::sort(holes.begin(), holes.end(),
              [&](const Outline& a, const Outline& b) { return rightmost(a) > rightmost(b); });
    for (const Outline& hole : holes) {
        size_t best = outer.size();
        for (size_t i = 0; i < outer.size(); ++i) {
            if (holds_flat(outer[i], hole.front()) && (best == outer.size() || areas[i] < areas[best])) {
                best = i;
            }
        }
        if (best < outer.size()) {
            bridge(outer[best], hole);
        } else {
            close_outline(hole, plane.side, faces); // of no area but for rounding
        }
    }
    for (const Outline& outline : outer) {
        close_outline(outline, plane.side, faces);
    }
}

} // namespace

ClosedMesh ClosedMesh::of(const Mesh& mesh) {
    ClosedMesh closed;
    closed.points.reserve(mesh.corners.size());
    for (const Vec3& corner : mesh.corners) {
        closed.points.push_back(point_of(corner));
    }
    closed.faces.reserve(mesh.triangles.size());
    for (const auto& triangle : mesh.triangles) {
        closed.faces.push_back({triangle, outside});
    }
    return closed;
}

double ClosedMesh::volume() const {
    double six = 0;
    for (const Face& face : faces) {
        six += dot(points[face.corners[0]], cross(points[face.corners[1]], points[face.corners[2]]));
    }
    return six / 6;
}

Point ClosedMesh::centre() const {
    const Point about = points.empty() ? Point() : points.front();
    Point sum;
    double six = 0;
    for (const Face& face : faces) {
        const Point a = points[face.corners[0]] - about, b = points[face.corners[1]] - about,
                    c = points[face.corners[2]] - about;
        const double part = dot(a, cross(b, c));
        sum = sum + (a + b + c) * (part / 4);
        six += part;
    }
    return std::fabs(six) > 1e-300 ? about + sum * (1 / six) : (low() + high()) * 0.5;
}

Point ClosedMesh::low() const {
    Point low = points.empty() ? Point() : points.front();
    for (const Point& p : points) {
        low = {std::min(low.x, p.x), std::min(low.y, p.y), std::min(low.z, p.z)};
    }
    return low;
}

Point ClosedMesh::high() const {
    Point high = points.empty() ? Point() : points.front();
    for (const Point& p : points) {
        high = {std::max(high.x, p.x), std::max(high.y, p.y), std::max(high.z, p.z)};
    }
    return high;
}

void ClosedMesh::cut(const CutPlane& plane) {
    std::vector<double> heights(points.size());
    bool any_above = false, any_below = false;
    for (size_t i = 0; i < points.size(); ++i) {
        heights[i] = dot(points[i], plane.normal) - plane.distance;
        (heights[i] < 0 ? any_below : any_above) = true;
    }
    if (!any_above) {
        return;
    }
    if (!any_below) {
        *this = {};
        return;
    }
    ClosedMesh kept;
    std::vector<uint32_t> now(points.size(), UINT32_MAX);
    const auto keep = [&](uint32_t point) {
        if (now[point] == UINT32_MAX) {
            now[point] = uint32_t(kept.points.size());
            kept.points.push_back(points[point]);
        }
        return now[point];
    };
    std::unordered_map<uint64_t, uint32_t> crossings;
    const auto crossing = [&](uint32_t a, uint32_t b) {
        if (a > b) {
            std::swap(a, b);
        }
        const auto [place, is_new] =
            crossings.try_emplace(uint64_t(a) << 32 | b, uint32_t(kept.points.size()));
        if (is_new) {
            const double share = heights[a] / (heights[a] - heights[b]);
            kept.points.push_back(points[a] + (points[b] - points[a]) * share);
        }
        return place->second;
    };
    std::unordered_map<uint32_t, uint32_t> next; // along the rim of the cap
    for (const Face& face : faces) {
        bool below[3];
        int count = 0;
        for (size_t k = 0; k < 3; ++k) {
            below[k] = heights[face.corners[k]] < 0;
            count += below[k] ? 1 : 0;
        }
        if (count == 0) {
            continue;
        }
        if (count == 3) {
            kept.faces.push_back(
                {{keep(face.corners[0]), keep(face.corners[1]), keep(face.corners[2])}, face.side});
            continue;
        }
        // Turned so that the corner that is alone on its side comes first.
        size_t alone = 0;
        while (below[alone] != (count == 1)) {
            ++alone;
        }
        const uint32_t a = face.corners[alone], b = face.corners[(alone + 1) % 3],
                       c = face.corners[(alone + 2) % 3];
        const uint32_t ab = crossing(a, b), ca = crossing(c, a);
        if (count == 1) {
            kept.faces.push_back({{keep(a), ab, ca}, face.side});
            next[ca] = ab;
        } else {
            const uint32_t kept_b = keep(b), kept_c = keep(c);
            kept.faces.push_back({{ab, kept_b, kept_c}, face.side});
            kept.faces.push_back({{ab, kept_c, ca}, face.side});
            next[ab] = ca;
        }
    }
    // In an order that does not depend on the table's.
    std::vector<uint32_t> starts;
    starts.reserve(next.size());
    for (const auto& [from, to] : next) {
        starts.push_back(from);
    }
    std::sort(starts.begin(), starts.end());
    std::vector<std::vector<uint32_t>> loops;
    for (const uint32_t start : starts) {
        std::vector<uint32_t> loop;
        for (auto at = next.find(start); at != next.end(); at = next.find(loop.back())) {
            loop.push_back(at->second);
            next.erase(at);
        }
        if (!loop.empty()) {
            loops.push_back(std::move(loop));
        }
    }
    close_outlines(kept.points, loops, plane, kept.faces);
    *this = std::move(kept);
}

ClosedMesh ClosedMesh::within(const Cell& cell) const {
    ClosedMesh inside = *this;
    for (const CutPlane& plane : cell) {
        if (inside.is_empty()) {
            break;
        }
        inside.cut(plane);
    }
    return inside;
}

std::vector<ClosedMesh> ClosedMesh::parts() const {
    std::vector<uint32_t> roots(points.size());
    std::iota(roots.begin(), roots.end(), 0u);
    const auto root_of = [&](uint32_t i) {
        while (roots[i] != i) {
            i = roots[i] = roots[roots[i]];
        }
        return i;
    };
    for (const Face& face : faces) {
        const uint32_t root = root_of(face.corners[0]);
        roots[root_of(face.corners[1])] = root;
        roots[root_of(face.corners[2])] = root;
    }
    std::unordered_map<uint32_t, size_t> numbers;
    std::vector<ClosedMesh> found;
    std::vector<uint32_t> now(points.size(), UINT32_MAX);
    for (const Face& face : faces) {
        const auto [place, is_new] = numbers.try_emplace(root_of(face.corners[0]), found.size());
        if (is_new) {
            found.emplace_back();
        }
        ClosedMesh& part = found[place->second];
        Face moved = face;
        for (uint32_t& corner : moved.corners) {
            if (now[corner] == UINT32_MAX) {
                now[corner] = uint32_t(part.points.size());
                part.points.push_back(points[corner]);
            }
            corner = now[corner];
        }
        part.faces.push_back(moved);
    }
    std::vector<ClosedMesh> solid;
    for (const ClosedMesh& part : found) {
        if (part.volume() > 0) {
            solid.push_back(part);
        }
    }
    for (const ClosedMesh& part : found) {
        if (part.volume() > 0 || solid.empty()) {
            continue;
        }
        size_t holder = 0;
        for (size_t i = 0; i < solid.size(); ++i) {
            holder = solid[i].holds(part.points.front()) ? i : holder;
        }
        solid[holder].join(part);
    }
    return solid;
}

void ClosedMesh::join(const ClosedMesh& other) {
    const auto first = uint32_t(points.size());
    points.insert(points.end(), other.points.begin(), other.points.end());
    for (Face face : other.faces) {
        for (uint32_t& corner : face.corners) {
            corner += first;
        }
        faces.push_back(face);
    }
}

bool ClosedMesh::holds(const Point& place) const {
    // Crossings of a line towards +x. Along y and z a side belongs to its lower end, reckoned the same for
    // both of its faces: no line slips through between two.
    bool inside = false;
    for (const Face& face : faces) {
        bool is_met = false;
        for (size_t k = 0; k < 3; ++k) {
            const auto [i, j] = std::minmax(face.corners[k], face.corners[(k + 1) % 3]);
            const Point &a = points[i], &b = points[j];
            if ((a.y > place.y) != (b.y > place.y)) {
                is_met ^= a.z + (place.y - a.y) / (b.y - a.y) * (b.z - a.z) > place.z;
            }
        }
        if (is_met) {
            const Point& a = points[face.corners[0]];
            const Point normal = cross(points[face.corners[1]] - a, points[face.corners[2]] - a);
            const double ahead = dot(a - place, normal);
            inside ^= ahead * normal.x > 0;
        }
    }
    return inside;
}

} // namespace ember
