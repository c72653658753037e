// Measures of the board, in pixels of the interface.
#pragma once

namespace ember::board_measures {

constexpr int left_margin = 14;
constexpr int name_width = 152;
constexpr int column_width = 44;
constexpr int header_height = 150;
constexpr int heading_height = 24;
constexpr int row_height = 38;
constexpr int right_margin = 40;
constexpr int switch_size = 18;
constexpr int dial_radius = 13;

} // namespace ember::board_measures
