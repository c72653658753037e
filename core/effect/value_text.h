// Values of parameters as text that can be put on the clipboard and into notes: as they stand in effect files.
#pragma once

#include "core/effect/parameter.h"

#include <optional>
#include <string>
#include <string_view>

namespace ember {

std::string text_of(const Parameter& parameter, const Value& value);

/// Nothing if the text is none, or has not the shape that the parameter needs. Ranges are not checked here.
std::optional<Value> value_from_text(const Parameter& parameter, std::string_view text);

} // namespace ember
