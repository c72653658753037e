// What the parameter tables say, as texts for the screen.
#pragma once

#include "core/effect/parameter.h"

#include <QString>

namespace ember {

/// A table's text.
inline QString qtext(std::string_view text) {
    return QString::fromUtf8(text.data(), qsizetype(text.size()));
}

/// What a parameter does, its unit and its range.
QString tipOf(const Parameter& parameter);

} // namespace ember
