// What there is to add to an effect, and to start from.
#pragma once

#include "core/effect/element.h"
#include "desktop/gallery/gallery.h"

namespace ember {

/// Elements of these families. Keys: of an element type, or the path of an effect whose sources are added.
std::vector<Offer> offers_to_add(Family first, Family last);

/// Effects to start from. Keys are their paths; that of the smallest is empty.
std::vector<Offer> offers_to_start();

} // namespace ember
