// A closed mesh that planes cut pieces off, each cut closed by a cap.
//
// Whatever is cut stays closed, exactly: sides of a plane are told by sign alone, a cut edge gets one point
// that both its faces share, and caps use every point of the outline that they close. Points that fall
// together make thin triangles, never gaps.
#pragma once

#include "core/geometry/mesh.h"

#include <array>
#include <cstdint>
#include <vector>

namespace ember {

/// As Vec3, in double precision: a piece of a large mesh is the result of many cuts.
struct Point {
    double x = 0, y = 0, z = 0;

    friend Point operator+(const Point& a, const Point& b) { return {a.x + b.x, a.y + b.y, a.z + b.z}; }
    friend Point operator-(const Point& a, const Point& b) { return {a.x - b.x, a.y - b.y, a.z - b.z}; }
    friend Point operator*(const Point& a, double s) { return {a.x * s, a.y * s, a.z * s}; }
};
inline double dot(const Point& a, const Point& b) {
    return a.x * b.x + a.y * b.y + a.z * b.z;
}
inline Point cross(const Point& a, const Point& b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}
inline Point point_of(const Vec3& v) {
    return {double(v.x), double(v.y), double(v.z)};
}
inline Vec3 vec_of(const Point& p) {
    return {float(p.x), float(p.y), float(p.z)};
}

/// One side of a cut, as a face of a cell. Both sides have opposite planes, and numbers that differ by one.
struct CutPlane {
    Point normal;        // length 1, out of the cell
    double distance = 0; // from the origin, along the normal, m
    int32_t side = 0;    // twice the number of the cut, or one more
};

/// What lies below all of its planes.
using Cell = std::vector<CutPlane>;

/// The face belongs to the outside of the whole.
constexpr int32_t outside = -1;

struct ClosedMesh {
    struct Face {
        std::array<uint32_t, 3> corners; // anticlockwise seen from outside
        int32_t side = outside;          // of a cut
    };
    std::vector<Point> points;
    std::vector<Face> faces;

    static ClosedMesh of(const Mesh& mesh);

    /// m^3; negative if it is inside out.
    double volume() const;
    /// Of the volume.
    Point centre() const;
    Point low() const;
    Point high() const;
    bool is_empty() const { return faces.empty(); }

    /// Keeps what is below the plane.
    void cut(const CutPlane& plane);
    /// What of it is in a cell.
    ClosedMesh within(const Cell& cell) const;
    /// What does not hang together, apart. A hollow stays with what is round it.
    std::vector<ClosedMesh> parts() const;
    /// Both as one.
    void join(const ClosedMesh& other);
    /// Whether a place is inside, by the crossings of a line from it.
    bool holds(const Point& place) const;
};

} // namespace ember
