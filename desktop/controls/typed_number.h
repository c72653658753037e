// Numbers as artists type them: arithmetic, and other units than the field's own.
#pragma once

#include <QString>

#include <optional>

namespace ember {

/// The number that `text` says, in the field's unit: "3/2", "2*(1+0.5)", "20k", "90 rpm" (in deg/s: 540),
/// "2 km/h", "60 fps" (in ms: 16.67). A number without a unit is in the field's. Nothing if it says none, or
/// a unit that cannot be turned into the field's.
std::optional<double> typed_number(const QString& text, const QString& unit);

/// A number as fields show it: with six digits, which is what a 32-bit number holds for certain, never with
/// an exponent, millions as "2.5 M" where that says all of it.
QString shown_number(double number, bool whole);

} // namespace ember
