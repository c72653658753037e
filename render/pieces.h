// The pieces of breakables, as triangles.
#pragma once

#include "render/things.h"

namespace ember {

/// For each breakable of a frame the triangles of its pieces, in stretches that threads made. Their surfaces
/// are added to `skins`.
std::vector<std::vector<Triangles>> project_debris(const Frame& frame, const Effect& effect,
                                                   const Lighting& lighting, const Projection& to,
                                                   const GatherOptions& options, Surfaces& surfaces,
                                                   BodyShelf& shelf, SkinList& skins);

} // namespace ember
