// What the parameter tables say, as texts for the screen.
#pragma once

#include "core/effect/parameter.h"

#include <QString>

namespace ember {

/// A table's text, in the language of the program.
QString qtext(std::string_view text);

/// What a parameter does, its unit and its range.
QString tipOf(const Parameter& parameter);

} // namespace ember
