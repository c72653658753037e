// Rows of the detail panel for what runs over life: a small preview that opens into an editor.
#pragma once

#include "desktop/detail/parameter_row.h"

namespace ember {

ParameterRow* make_curve_row(const Parameter& parameter, QWidget* parent);
ParameterRow* make_ramp_row(const Parameter& parameter, QWidget* parent);

} // namespace ember
