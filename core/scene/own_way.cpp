#include "core/scene/own_way.h"

#include <LinearMath/btMatrix3x3.h>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember {

Vec3 own_way_of(const GridTable& distances) {
    // Second moments of the cells that lie in the solid, those at its face in part: thin ones have no others.
    const auto nx = int(distances.cells.x), ny = int(distances.cells.y), nz = int(distances.cells.z);
    const float cell = 1 / distances.per_cell.x;
    double weights = 0;
    std::array<double, 3> sum{};
    std::array<std::array<double, 3>, 3> square{};
    for (int z = 0; z < nz; ++z) {
        for (int y = 0; y < ny; ++y) {
            for (int x = 0; x < nx; ++x) {
                const float distance =
                    distances.values[size_t(x) + size_t(nx) * (size_t(y) + size_t(ny) * size_t(z))];
                const double weight = std::clamp(0.75f - distance / cell, 0.0f, 1.0f);
                if (weight == 0) {
                    continue;
                }
                const std::array<double, 3> at = {double(x) * cell, double(y) * cell, double(z) * cell};
                weights += weight;
                for (size_t i = 0; i < 3; ++i) {
                    sum[i] += weight * at[i];
                    for (size_t j = 0; j < 3; ++j) {
                        square[i][j] += weight * at[i] * at[j];
                    }
                }
            }
        }
    }
    if (weights == 0) {
        return {0, 1, 0};
    }
    btMatrix3x3 spread, turned;
    for (int i = 0; i < 3; ++i) {
        for (int j = 0; j < 3; ++j) {
            const auto a = size_t(i), b = size_t(j);
            spread[i][j] = btScalar((square[a][b] - sum[a] * sum[b] / weights) / weights);
        }
    }
    spread.diagonalize(turned, btScalar(1e-6), 40);
    std::array<int, 3> order = {0, 1, 2};
    std::sort(order.begin(), order.end(), [&](int a, int b) { return spread[a][a] < spread[b][b]; });
    const btScalar least = spread[order[0]][order[0]], middle = spread[order[1]][order[1]],
                   most = spread[order[2]][order[2]];
    constexpr btScalar alike = btScalar(0.08);
    if (most - least < alike * most) {
        return {0, 1, 0};
    }
    const btVector3 way = turned.getColumn(most - middle > middle - least ? order[2] : order[0]);
    return Vec3{float(way.x()), float(way.y()), float(way.z())} * (way[way.closestAxis()] < 0 ? -1.0f : 1.0f);
}

} // namespace ember
