// Copying elements between effects, as text.
#pragma once

#include "core/effect/effect.h"

#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ember {

/// Elements with what goes with them: their links, looks, notes, and drives with their modulators.
/// `element_ids`: at least one.
std::string copied_text(const Effect& effect, const std::vector<std::string>& element_ids);

/// Which elements of a copied text's effect were copied, and not only go with those.
std::vector<std::string> copied_ids(const Effect& part);

/// The effect with the copied elements added: linked and driven by what has the same ids here as they were
/// there, and to one another; with their looks (shared if the same ones are here). `ids` receives the new
/// elements' ids. Nothing if the text is no copied elements, or if there would be too many.
std::optional<Effect> with_pasted(const Effect& effect, std::string_view text, std::vector<std::string>& ids);

/// The effect with the sources of another one added, with their looks; each is linked to every influence.
/// `ids` receives the new elements' ids. Nothing if there are none, or if there would be too many elements.
std::optional<Effect> with_sources_of(const Effect& effect, const Effect& sample,
                                      std::vector<std::string>& ids);

} // namespace ember
