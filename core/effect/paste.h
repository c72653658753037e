// Copying elements between effects, as text.
#pragma once

#include "core/effect/effect.h"

#include <optional>
#include <string>
#include <string_view>

namespace ember {

/// An element with what goes with it: its links, look, and drives with their modulators.
std::string copied_text(const Effect& effect, const std::string& element_id);

/// The effect with the copied element added: linked as it was to what has the same ids here, with its look
/// (shared if the same one is here) and its drives. `id` receives the new element's id. Nothing if the text
/// is no copied element.
std::optional<Effect> with_pasted(const Effect& effect, std::string_view text, std::string& id);

} // namespace ember
