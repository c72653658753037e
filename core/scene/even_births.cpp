#include "core/scene/even_births.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

namespace ember {

namespace {

constexpr float pi = std::numbers::pi_v<float>;
constexpr int most_corner_cells = 4096;
constexpr int most_mesh_cells = 256;
constexpr float sides_of_a_cube = 6;

EvenRow row_of(int numbers, int second, int disc, const Vec3& cells) {
    EvenRow row{numbers, second, disc, cells, uint32_t(cells.x * cells.y * cells.z), 1};
    row.stride = std::max(uint32_t(double(row.count) * 0.618), 1u);
    while (std::gcd(row.stride, row.count) != 1) {
        ++row.stride;
    }
    return row;
}

EvenRow along() {
    return row_of(1, 2, 0, {1, 1, 1});
}

// Over a surface that is so long one way and so long the other.
EvenRow over(float length, float width) {
    const Vec3 cells = cells_along({length, width, 0});
    return row_of(2, 2, 0, {cells.x, 1, cells.y});
}

// In and round a straight or bent tube.
EvenRow round_tube(float length, float radius, bool on_surface) {
    if (radius <= 0) {
        return along();
    }
    if (on_surface) {
        return over(length, 2 * pi * radius);
    }
    // A disc counts as the square of its area.
    const float side = radius * std::sqrt(pi);
    return row_of(3, 2, 2, {cells_along({length, side, side}).x, 1, 1});
}

// Few faces have a cell each; among many, places within a face matter less than which face is next.
EvenRow over_mesh(const PreparedElement& ready) {
    const int parts = ready.mesh ? std::max(ready.mesh->parts, 1) : 1;
    return row_of(parts <= most_mesh_cells ? 2 : 3, 2, 0, {float(std::min(parts, most_mesh_cells)), 1, 1});
}

float share_used(const Range& extent) {
    return std::fabs(extent.high - extent.low);
}

} // namespace

Vec3 cells_along(const Vec3& lengths) {
    const float most = 256;
    float cell = 1e30f;
    for (const float length : {lengths.x, lengths.y, lengths.z}) {
        cell = length > 0 ? std::min(cell, length) : cell;
    }
    Vec3 cells;
    do {
        const auto count = [&](float length) { return std::clamp(std::round(length / cell), 1.0f, most); };
        cells = Vec3{count(lengths.x), count(lengths.y), count(lengths.z)};
        cell *= 1.25f;
    } while (cells.x * cells.y * cells.z > most);
    return cells;
}

EvenRow even_row(const Emitter& emitter, const PreparedElement& ready) {
    const bool on_surface = emitter.fill == BirthFill::surface;
    const Vec3& size = emitter.size;
    switch (emitter.shape) {
    case BirthShape::disc:
        return on_surface ? along() : row_of(2, 1, 1, {1, 1, 1});
    case BirthShape::rectangle:
        return on_surface ? along() : over(size.x, size.z);
    case BirthShape::ring:
        return round_tube(pi * size.x * share_used(emitter.extent), emitter.thickness / 2, on_surface);
    case BirthShape::path:
        return round_tube(ready.path.length * share_used(emitter.extent), emitter.thickness / 2, on_surface);
    case BirthShape::box: {
        const Vec3 cells = cells_along(size);
        const float faces = 2 * (cells.x * cells.y + cells.y * cells.z + cells.x * cells.z);
        return on_surface ? row_of(2, 2, 0, {faces, 1, 1}) : row_of(3, 2, 0, cells);
    }
    case BirthShape::ball:
        if (on_surface && ready.mesh) {
            return over_mesh(ready);
        }
        return on_surface ? row_of(2, 2, 0, {sides_of_a_cube, 1, 1}) : row_of(3, 2, 0, {1, 1, 1});
    case BirthShape::cylinder: {
        if (on_surface) {
            return over(pi * size.x, size.y);
        }
        const float side = size.x / 2 * std::sqrt(pi);
        return row_of(3, 2, 1, {1, 1, cells_along({side, side, size.y}).z});
    }
    case BirthShape::cone:
        return on_surface ? row_of(2, 1, 1, {1, 1, 1}) : row_of(3, 2, 1, {1, 1, 1});
    case BirthShape::mesh:
    case BirthShape::skin: {
        const int parts = ready.mesh ? std::max(ready.mesh->parts, 1) : 1;
        if (emitter.shape == BirthShape::mesh && emitter.mesh_birth == MeshBirth::corners) {
            return row_of(1, 2, 0, {parts <= most_corner_cells ? float(parts) : 1, 1, 1});
        }
        return over_mesh(ready);
    }
    default:
        return along();
    }
}

Mesh ellipsoid_mesh(const Vec3& half_size) {
    constexpr int along = 12; // squares along a side of the cube that it is made from
    Mesh mesh;
    for (int side = 0; side < 6; ++side) {
        const auto corner = [&](int i, int j) {
            const float a = 2 * float(i) / along - 1, b = 2 * float(j) / along - 1;
            const float turn = std::numbers::pi_v<float> / 4;
            const Vec3 v = normalized(Vec3{std::tan(a * turn), std::tan(b * turn), 1});
            const Vec3 up = side % 2 == 0 ? v : Vec3{v.y, v.x, -v.z};
            return side / 2 == 0 ? up : side / 2 == 1 ? Vec3{up.z, up.x, up.y} : Vec3{up.y, up.z, up.x};
        };
        for (int i = 0; i < along; ++i) {
            for (int j = 0; j < along; ++j) {
                const auto first = uint32_t(mesh.corners.size());
                for (const Vec3& v :
                     {corner(i, j), corner(i + 1, j), corner(i + 1, j + 1), corner(i, j + 1)}) {
                    mesh.corners.push_back(v * half_size);
                }
                mesh.triangles.push_back({first, first + 1, first + 2});
                mesh.triangles.push_back({first, first + 2, first + 3});
            }
        }
    }
    return mesh;
}

} // namespace ember
