// Measures of the board, in pixels of the interface. A crowded board is drawn closer.
#pragma once

#include <cstddef>

namespace ember {

struct BoardMeasures {
    int left_margin = 14;
    int name_width = 152;
    int column_width = 44;
    int header_height = 150;
    int heading_height = 24;
    int row_height = 38;
    int right_margin = 40;
    int switch_size = 18;
    int dial_radius = 13;

    bool is_narrow() const { return column_width < BoardMeasures().column_width; }

    static BoardMeasures of(size_t rows, size_t columns) {
        BoardMeasures measures;
        if (rows > 10) {
            measures.row_height = 30;
            measures.heading_height = 20;
            measures.dial_radius = 11;
        }
        if (columns > 6) {
            measures.column_width = 36;
            measures.dial_radius = 11;
        }
        return measures;
    }
};

} // namespace ember
