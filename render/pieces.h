// The pieces of breakables, as triangles.
#pragma once

#include "render/things.h"

namespace ember {

/// The triangles of a breakable's pieces, in stretches that threads made; none if it is not to be seen. Their
/// surfaces are added to `skins`.
std::vector<Triangles> project_debris(const FrameDebris& debris, const Frame& frame, const Effect& effect,
                                      const Lighting& lighting, const Projection& to,
                                      const GatherOptions& options, Surfaces& surfaces, BodyShelf& shelf,
                                      SkinList& skins);

} // namespace ember
