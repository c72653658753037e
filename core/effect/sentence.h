// Triggers in words.
#pragma once

#include "core/effect/effect.h"

namespace ember {

/// "When Salt stack breaks, 1 in 20, Grit bears 40; at most 30 a second."
std::string sentence_of(const Effect& effect, const Trigger& trigger);

/// Why the trigger never does anything, as "Nothing is named that ..."; nothing if it may.
std::optional<std::string> why_never_done(const Effect& effect, const Trigger& trigger);

} // namespace ember
