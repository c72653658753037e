// Effects as older versions of the file format meant them.
#pragma once

#include "core/effect/effect.h"

namespace ember {

/// Gives an effect, as read from a file of an older version, the numbers that mean the same today.
///
/// Version 1 counted all moments from the beginning of the warm-up; today time zero ends it. Two things have
/// no number for that: what a drive makes of a moment, and triggers that come again and again, which count
/// from time zero. Up to version 2 every collider held every volume of smoke; today those that are linked do.
void bring_up_to_date(Effect& effect, int version);

} // namespace ember
