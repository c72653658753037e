// How births in an even order cover a birth shape.
#pragma once

#include "core/scene/prepared.h"

namespace ember {

/// How many cells lie along each of three lengths (m), so that a cell is about as long on one as on the
/// others; at least 1, in all at most 256. A length of 0 counts as 1 cell.
Vec3 cells_along(const Vec3& lengths);

/// For births over the emitter's shape, as large as it is.
EvenRow even_row(const Emitter& emitter, const PreparedElement& ready);

/// An ellipsoid as triangles, over which births are spread by area before they are brought onto its skin.
Mesh ellipsoid_mesh(const Vec3& half_size);

} // namespace ember
