// How long two effects run alike.
#pragma once

#include "core/effect/effect.h"

namespace ember {

/// The moment (s of the artist's clock) before which every step of one effect is the same as that of the
/// other: before keys, clips, sources and triggers that come later differ. Infinite if all are, whatever else
/// differs (names, the stage, limits); minus infinite if the first may be another.
double alike_until_s(const Effect& a, const Effect& b);

} // namespace ember
