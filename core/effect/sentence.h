// Triggers in words.
#pragma once

#include "core/effect/effect.h"

namespace ember {

/// A part of a sentence. `key`: of the trigger's parameter that it says; empty: it only joins others.
struct SentencePart {
    std::string text, key;
};
std::vector<SentencePart> parts_of_sentence(const Effect& effect, const Trigger& trigger);

/// "When Salt stack breaks, 1 in 20, Grit bears 40; at most 30 a second."
std::string sentence_of(const Effect& effect, const Trigger& trigger);

/// Why the trigger never does anything, as "Nothing is named that ..."; nothing if it may.
std::optional<std::string> why_never_done(const Effect& effect, const Trigger& trigger);

} // namespace ember
