// Closed meshes to cut and break.
#pragma once

#include "core/geometry/mesh.h"

#include <cmath>
#include <numbers>

namespace ember {

/// A ring with a round section about y: `around` times `across` quads, two triangles each.
inline Mesh ring_mesh(float radius, float tube, int around, int across) {
    Mesh mesh;
    const auto turn = [](int i, int count) {
        return 2 * std::numbers::pi_v<float> * float(i) / float(count);
    };
    for (int i = 0; i < around; ++i) {
        for (int k = 0; k < across; ++k) {
            const float far = radius + tube * std::cos(turn(k, across));
            mesh.corners.push_back({far * std::cos(turn(i, around)), tube * std::sin(turn(k, across)),
                                    far * std::sin(turn(i, around))});
        }
    }
    const auto at = [&](int i, int k) { return uint32_t((i % around) * across + k % across); };
    for (int i = 0; i < around; ++i) {
        for (int k = 0; k < across; ++k) {
            mesh.triangles.push_back({at(i, k), at(i, k + 1), at(i + 1, k + 1)});
            mesh.triangles.push_back({at(i, k), at(i + 1, k + 1), at(i + 1, k)});
        }
    }
    return mesh;
}

/// A block with a hollow inside.
inline Mesh hollow_mesh() {
    Mesh mesh = block_mesh({1, 1, 1});
    const Mesh inner = block_mesh({0.5f, 0.5f, 0.5f});
    for (const auto& t : inner.triangles) {
        mesh.triangles.push_back({t[0] + 8, t[2] + 8, t[1] + 8});
    }
    mesh.corners.insert(mesh.corners.end(), inner.corners.begin(), inner.corners.end());
    return mesh;
}

} // namespace ember
