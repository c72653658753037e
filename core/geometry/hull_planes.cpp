#include "core/geometry/hull_planes.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ember {

namespace {

constexpr size_t most_planes = 26;

struct Facing {
    Vec3 sum;    // of normals, each as long as its triangles are large
    Vec3 normal; // length 1
};

// Where the faces look; those that differ by less than an angle together.
std::vector<Facing> facings_of(const Mesh& mesh, float least_cosine, size_t most) {
    std::vector<Facing> facings;
    for (const auto& [a, b, c] : mesh.triangles) {
        const Vec3 area = cross(mesh.corners[b] - mesh.corners[a], mesh.corners[c] - mesh.corners[a]);
        const float size = length(area);
        if (!(size > 0)) {
            continue;
        }
        const Vec3 normal = area * (1 / size);
        const auto known = std::find_if(facings.begin(), facings.end(), [&](const Facing& each) {
            return dot(each.normal, normal) > least_cosine;
        });
        if (known == facings.end()) {
            if (facings.size() > most) {
                return facings; // too many
            }
            facings.push_back({area, normal});
        } else {
            known->sum += area;
        }
    }
    return facings;
}

// Faces that balance and do not all look along one plane do (H. Minkowski, 1897).
bool bound_a_body(const std::vector<Facing>& facings) {
    Vec3 sum, x, y, z; // of the areas, and the rows of how they spread
    float area = 0;
    for (const Facing& facing : facings) {
        const float size = length(facing.sum);
        const Vec3 n = facing.sum * (1 / std::max(size, 1e-30f));
        sum += facing.sum;
        area += size;
        x += n * (n.x * size);
        y += n * (n.y * size);
        z += n * (n.z * size);
    }
    return length(sum) < 1e-3f * area && dot(x, cross(y, z)) > 1e-5f * area * area * area;
}

} // namespace

std::vector<float> hull_planes(const Mesh& mesh) {
    std::vector<Facing> facings;
    for (const float cosine : {0.9999f, 0.998f, 0.99f, 0.96f, 0.9f, 0.8f}) {
        facings = facings_of(mesh, cosine, most_planes);
        if (facings.size() <= most_planes) {
            break;
        }
    }
    const bool has_all = facings.size() <= most_planes;
    facings.resize(std::min(facings.size(), most_planes));
    if (facings.empty()) {
        return {};
    }
    // What is open, or as flat as a sheet, ends somewhere, too.
    const bool is_bounded = has_all && bound_a_body(facings);
    for (const Vec3 axis : {Vec3{1, 0, 0}, Vec3{0, 1, 0}, Vec3{0, 0, 1}}) {
        for (const Vec3 normal : {axis, axis * -1.0f}) {
            const bool is_there = std::any_of(facings.begin(), facings.end(), [&](const Facing& each) {
                return dot(each.normal, normal) > 0.999f;
            });
            if (!is_there && !is_bounded) {
                facings.push_back({normal, normal});
            }
        }
    }
    std::vector<float> planes;
    for (const Facing& facing : facings) {
        const float size = length(facing.sum);
        const Vec3 normal = size > 0 ? facing.sum * (1 / size) : facing.normal;
        float farthest = -1e30f;
        for (const Vec3& corner : mesh.corners) {
            farthest = std::max(farthest, dot(corner, normal));
        }
        planes.insert(planes.end(), {normal.x, normal.y, normal.z, farthest});
    }
    return planes;
}

} // namespace ember
