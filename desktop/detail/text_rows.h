// Rows of the detail panel that hold text: points of a path, files, and names of other elements.
#pragma once

#include "desktop/detail/parameter_row.h"

namespace ember {

ParameterRow* make_points_row(const Parameter& parameter, QWidget* parent);
ParameterRow* make_file_row(const Parameter& parameter, QWidget* parent);
/// Names a source or an element with a place, or nothing.
ParameterRow* make_element_row(const Parameter& parameter, QWidget* parent);

} // namespace ember
