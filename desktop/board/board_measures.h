// Measures of the board, in pixels of the interface. A crowded board is drawn closer.
#pragma once

#include <algorithm>
#include <cstddef>

namespace ember {

struct BoardMeasures {
    int left_margin = 14;
    int name_width = 176; // with the figures; then the dials begin
    int count_width = 42, cost_width = 50;
    int column_width = 26;
    int stair_line = 23; // of a source
    int header_height = 0;
    int heading_height = 24;
    int row_height = 25;
    int chip_height = 22, chip_gap = 5;
    int right_margin = 10;
    int switch_size = 16;
    int dial_radius = 9;

    bool is_narrow() const { return count_width < BoardMeasures().count_width; }

    /// `seen`: how wide the board is on the screen.
    static BoardMeasures of(size_t rows, size_t columns, int seen) {
        BoardMeasures measures;
        if (rows > 13) {
            measures.row_height = 19;
            measures.heading_height = 15;
            measures.chip_height = 20;
            measures.chip_gap = 3;
            measures.dial_radius = 8;
        }
        if (columns > 5) {
            measures.name_width = 154;
            measures.right_margin = 4;
            measures.count_width = measures.cost_width = 27;
            measures.stair_line = 16;
        }
        if (columns <= 5) {
            const int dials = int(columns) * measures.column_width + measures.right_margin;
            measures.name_width = std::clamp(seen - dials, measures.name_width, 212);
        }
        constexpr int least_column = 16;
        const int room = seen - measures.name_width - measures.right_margin;
        measures.column_width =
            std::clamp(room / std::max(int(columns), 1), least_column, measures.column_width);
        measures.dial_radius = std::min(measures.dial_radius, measures.column_width / 2 - 1);
        measures.header_height = int(columns) * measures.stair_line + 6;
        return measures;
    }
};

} // namespace ember
