// Between linear light and the colours of the screen (sRGB, IEC 61966-2-1).
#pragma once

#include "core/base/curve.h"

#include <QColor>

#include <functional>

namespace ember {

/// What is brighter than white keeps its tint.
QColor screen_colour(const Colour& colour);
/// Opaque.
Colour linear_colour(const QColor& colour);

/// The brightest of red, green and blue; above 1 it glows.
float strength_of(const Colour& colour);
/// The colour with its brightest part at 1; black is white, so that a strength can lift it.
Colour tint_of(const Colour& colour);

/// Who wants a colour that is being picked.
using TakeColour = std::function<void(const Colour&)>;

} // namespace ember
