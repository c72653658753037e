// How far a place is from a collider.
#pragma once

#include "kernels/rows.h"
#include "kernels/vec3.h"

namespace ember {

/// Distance from a place to the collider's surface in metres, negative inside. Exact near the surface; of
/// height maps, how far the place is above the ground.
float distance_to(const ColliderRow& row, const Vec3& place);

/// Velocity of the collider where it has this place at the end of the step.
Vec3 velocity_of(const ColliderRow& row, const Vec3& place);

} // namespace ember
