// What there is to add to an effect, and to start from.
#pragma once

#include "core/effect/element.h"
#include "desktop/gallery/gallery.h"
#include "desktop/workbench/presets.h"

namespace ember {

/// Elements of these families. Keys: of an element type, the path of an effect whose sources are added, or of
/// a preset.
std::vector<Offer> offers_to_add(Family first, Family last, const Presets& presets);

/// Effects to start from, and files that were opened lately. Keys are their paths; that of the smallest is
/// empty.
std::vector<Offer> offers_to_start(const Presets& presets);

/// Looks that were kept. Keys are the paths of their presets.
std::vector<Offer> offers_of_looks(const Presets& presets);

} // namespace ember
