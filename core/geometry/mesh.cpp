#include "core/geometry/mesh.h"

#include <algorithm>
#include <array>
#include <bit>
#include <map>
#include <unordered_map>

namespace ember {

Vec3 Mesh::low() const {
    Vec3 low = corners.front();
    for (const Vec3& c : corners) {
        low = {std::min(low.x, c.x), std::min(low.y, c.y), std::min(low.z, c.z)};
    }
    return low;
}

Vec3 Mesh::high() const {
    Vec3 high = corners.front();
    for (const Vec3& c : corners) {
        high = {std::max(high.x, c.x), std::max(high.y, c.y), std::max(high.z, c.z)};
    }
    return high;
}

double Mesh::area() const {
    double area = 0;
    for (const auto& t : triangles) {
        area += 0.5 * double(length(cross(corners[t[1]] - corners[t[0]], corners[t[2]] - corners[t[0]])));
    }
    return area;
}

void Mesh::join_corners() {
    const auto hash = [](const Vec3& v) {
        size_t h = 0;
        for (const float a : {v.x, v.y, v.z}) {
            // Plus zero: both zeros are one place.
            h = (h ^ std::bit_cast<uint32_t>(a + 0.0f)) * 0x9e3779b97f4a7c15u;
        }
        return h ^ (h >> 32);
    };
    std::unordered_map<Vec3, uint32_t, decltype(hash)> places(corners.size(), hash);
    std::vector<uint32_t> joined(corners.size());
    std::vector<Vec3> kept;
    for (size_t i = 0; i < corners.size(); ++i) {
        const auto [place, is_new] = places.try_emplace(corners[i], uint32_t(kept.size()));
        if (is_new) {
            kept.push_back(corners[i]);
        }
        joined[i] = place->second;
    }
    corners = std::move(kept);
    for (auto& triangle : triangles) {
        for (uint32_t& corner : triangle) {
            corner = joined[corner];
        }
    }
}

void Mesh::find_normals() {
    normals.assign(corners.size(), {});
    for (const auto& t : triangles) {
        const Vec3 normal = cross(corners[t[1]] - corners[t[0]], corners[t[2]] - corners[t[0]]);
        for (const uint32_t corner : t) {
            normals[corner] += normal;
        }
    }
    for (Vec3& normal : normals) {
        normal = normalized(normal);
    }
}

size_t Mesh::open_edges() const {
    // Each edge as it is walked; a closed mesh walks each once in either direction.
    std::vector<std::pair<uint32_t, uint32_t>> walked;
    walked.reserve(triangles.size() * 3);
    for (const auto& t : triangles) {
        for (size_t i = 0; i < 3; ++i) {
            walked.emplace_back(t[i], t[(i + 1) % 3]);
        }
    }
    std::sort(walked.begin(), walked.end());
    size_t open = 0;
    for (size_t i = 0; i < walked.size(); ++i) {
        const auto& [a, b] = walked[i];
        const bool doubled = i > 0 && walked[i - 1] == walked[i];
        const bool has_other = std::binary_search(walked.begin(), walked.end(), std::pair(b, a));
        open += doubled || !has_other ? 1 : 0;
    }
    return open;
}

Mesh block_mesh(const Vec3& size) {
    Mesh mesh;
    for (const float z : {-0.5f, 0.5f}) {
        for (const float y : {-0.5f, 0.5f}) {
            for (const float x : {-0.5f, 0.5f}) {
                mesh.corners.push_back({x * size.x, y * size.y, z * size.z});
            }
        }
    }
    mesh.triangles = {{0, 2, 3}, {0, 3, 1}, {4, 5, 7}, {4, 7, 6}, {0, 1, 5}, {0, 5, 4},
                      {2, 6, 7}, {2, 7, 3}, {0, 4, 6}, {0, 6, 2}, {1, 3, 7}, {1, 7, 5}};
    return mesh;
}

Mesh coarsened(const Mesh& mesh, int cells) {
    const Vec3 low = mesh.low(), size = mesh.high() - low;
    const float cell = std::max({size.x, size.y, size.z, 1e-9f}) / float(cells);
    std::map<std::array<int, 3>, uint32_t> joined;
    std::vector<uint32_t> now(mesh.corners.size());
    std::vector<int> counts;
    Mesh coarse;
    for (size_t i = 0; i < mesh.corners.size(); ++i) {
        const Vec3 at = (mesh.corners[i] - low) * (1 / cell);
        const auto [place, is_new] =
            joined.try_emplace({int(at.x), int(at.y), int(at.z)}, uint32_t(coarse.corners.size()));
        if (is_new) {
            coarse.corners.push_back({});
            counts.push_back(0);
        }
        now[i] = place->second;
        coarse.corners[now[i]] = coarse.corners[now[i]] + mesh.corners[i];
        ++counts[now[i]];
    }
    for (size_t i = 0; i < coarse.corners.size(); ++i) {
        coarse.corners[i] = coarse.corners[i] * (1 / float(counts[i]));
    }
    for (const auto& t : mesh.triangles) {
        const std::array<uint32_t, 3> kept = {now[t[0]], now[t[1]], now[t[2]]};
        if (kept[0] != kept[1] && kept[1] != kept[2] && kept[2] != kept[0]) {
            coarse.triangles.push_back(kept);
        }
    }
    return coarse;
}

} // namespace ember
