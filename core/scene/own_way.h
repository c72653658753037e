// The way that a shape has of itself: a rod's length, the axis of a ring or a disc.
#pragma once

#include "core/scene/prepared.h"

namespace ember {

/// Of the solid whose distances (m, negative inside) stand in the table: that principal axis whose spread
/// differs most from the other two. Length 1; the one of its coordinates that is largest is positive. A shape
/// that is as wide every way has y.
Vec3 own_way_of(const GridTable& distances);

} // namespace ember
