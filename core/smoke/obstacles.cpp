#include "core/smoke/obstacles.h"

#include "core/base/axes.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// A value of the collider's grid between its entries, the place given in entries and held to the grid.
float between_entries(const ColliderRow& row, const Vec3& place) {
    const int counts[3] = {int(row.grid_cells.x), int(row.grid_cells.y), int(row.grid_cells.z)};
    const float at[3] = {place.x, place.y, place.z};
    int low[3];
    float share[3];
    for (int axis = 0; axis < 3; ++axis) {
        const float held = std::clamp(at[axis], 0.0f, float(std::max(counts[axis] - 1, 0)));
        low[axis] = std::min(int(held), std::max(counts[axis] - 2, 0));
        share[axis] = counts[axis] > 1 ? held - float(low[axis]) : 0;
    }
    float sum = 0;
    for (int corner = 0; corner < 8; ++corner) {
        float weight = 1;
        size_t index = 0, step = 1;
        for (int axis = 0; axis < 3; ++axis) {
            const int over = corner >> axis & 1;
            weight *= over != 0 ? share[axis] : 1 - share[axis];
            index += size_t(std::min(low[axis] + over, counts[axis] - 1)) * step;
            step *= size_t(counts[axis]);
        }
        sum += weight > 0 ? row.grid[index] * weight : 0.0f;
    }
    return sum;
}

float outside(const Vec3& off) {
    const Vec3 beyond = {std::max(off.x, 0.0f), std::max(off.y, 0.0f), std::max(off.z, 0.0f)};
    return std::sqrt(dot(beyond, beyond)) + std::min(std::max({off.x, off.y, off.z}), 0.0f);
}

} // namespace

float distance_to(const ColliderRow& row, const Vec3& place) {
    const Vec3 off = place - row.position;
    const Vec3 p = {dot(off, row.axis_x), dot(off, row.axis_y), dot(off, row.axis_z)};
    switch (row.kind) {
    case COLLIDER_PLANE:
        return p.y;
    case COLLIDER_BOX:
        return outside(Vec3{std::fabs(p.x), std::fabs(p.y), std::fabs(p.z)} - row.half_size);
    case COLLIDER_BALL:
        return std::sqrt(dot(p, p)) - row.half_size.x;
    case COLLIDER_CAPSULE: {
        const Vec3 from = {p.x, p.y - std::clamp(p.y, -row.half_size.y, row.half_size.y), p.z};
        return std::sqrt(dot(from, from)) - row.half_size.x;
    }
    case COLLIDER_CYLINDER:
        return outside(
            {std::sqrt(p.x * p.x + p.z * p.z) - row.half_size.x, std::fabs(p.y) - row.half_size.y, -1e9f});
    case COLLIDER_HEIGHTS: {
        if (std::fabs(p.x) > row.half_size.x || std::fabs(p.z) > row.half_size.z) {
            return 1e9f;
        }
        return p.y - between_entries(row, (p - row.grid_low) * row.per_cell);
    }
    case COLLIDER_DISTANCES: {
        const Vec3 at = (p - row.grid_low) * row.per_cell;
        const Vec3 most = row.grid_cells - Vec3{1, 1, 1};
        const bool is_beyond =
            at.x < 0 || at.y < 0 || at.z < 0 || at.x > most.x || at.y > most.y || at.z > most.z;
        return is_beyond ? 1e9f : between_entries(row, at);
    }
    default:
        return 1e9f;
    }
}

CellBox reach_of_obstacle(const ColliderRow& row, const SmokeSize& size) {
    const bool is_round_or_box = row.kind == COLLIDER_BOX || row.kind == COLLIDER_BALL ||
                                 row.kind == COLLIDER_CAPSULE || row.kind == COLLIDER_CYLINDER;
    if (!is_round_or_box) {
        return CellBox::whole(size);
    }
    const Vec3 half = row.kind == COLLIDER_BOX
                          ? row.half_size
                          : Vec3{row.half_size.x, row.half_size.x + row.half_size.y, row.half_size.x};
    const Vec3 round = Axes{row.axis_x, row.axis_y, row.axis_z}.box_round(half);
    const float reach[3] = {round.x, round.y, round.z};
    const Vec3 middle = (row.position - size.low) * (1 / size.cell);
    const float at[3] = {middle.x, middle.y, middle.z};
    const int counts[3] = {size.x, size.y, size.z};
    CellBox box;
    for (int axis = 0; axis < 3; ++axis) {
        const float far = reach[axis] / size.cell + 1, most = float(counts[axis]);
        box.low[axis] = int(std::clamp(at[axis] - far, 0.0f, most));
        box.high[axis] = int(std::clamp(at[axis] + far + 1, 0.0f, most));
    }
    return box;
}

Vec3 velocity_of(const ColliderRow& row, const Vec3& place) {
    if (row.is_moving == 0) {
        return {};
    }
    const Vec3 from = place - row.position;
    const Vec3 was =
        row.was_position + Vec3{dot(from, row.turned_x), dot(from, row.turned_y), dot(from, row.turned_z)};
    return (place - was) * row.per_step;
}

} // namespace ember
