// Rows of the detail panel that set numbers, switches, choices and colours.
#pragma once

#include "desktop/detail/parameter_row.h"

namespace ember {

/// A slider and a figure; for ranges two of each.
ParameterRow* make_number_row(const Parameter& parameter, QWidget* parent);
ParameterRow* make_vector_row(const Parameter& parameter, QWidget* parent);
ParameterRow* make_toggle_row(const Parameter& parameter, QWidget* parent);
/// One of a list of words, or of the effect's looks.
ParameterRow* make_choice_row(const Parameter& parameter, QWidget* parent);
ParameterRow* make_colour_row(const Parameter& parameter, QWidget* parent);

} // namespace ember
