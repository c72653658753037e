// A convex body round a mesh, as the planes that it lies behind.
#pragma once

#include "core/geometry/mesh.h"

#include <vector>

namespace ember {

/// Of each plane a normal x y z of length 1, away from the body, and how far along it the plane is (m). The
/// body holds all corners; it is their convex hull where that has few faces, and a little more where it is
/// round. Nothing for a mesh without triangles.
std::vector<float> hull_planes(const Mesh& mesh);

} // namespace ember
