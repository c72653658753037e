// Colliders as smoke meets them.
#pragma once

#include "core/smoke/smoke_grid.h"
#include "kernels/rows.h"
#include "kernels/vec3.h"

namespace ember {

/// Distance from a place to the collider's surface in metres, negative inside. Exact near the surface; of
/// height maps, how far the place is above the ground.
float distance_to(const ColliderRow& row, const Vec3& place);

/// The cells that a collider may fill.
CellBox reach_of_obstacle(const ColliderRow& row, const SmokeSize& size);

/// Velocity of the collider where it has this place at the end of the step.
Vec3 velocity_of(const ColliderRow& row, const Vec3& place);

} // namespace ember
