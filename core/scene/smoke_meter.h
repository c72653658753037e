// What a step of smoke cost and found.
#pragma once

#include <cstddef>

namespace ember {

struct SmokeMeter {
    double feed_ms = 0, carry_ms = 0, force_ms = 0, pressure_ms = 0, obstacle_ms = 0;
    size_t cells = 0, active_cells = 0;
    int pressure_rounds = 0;
    double remains = 0; // root mean square of what flows out of cells, over the mean difference of velocity
    size_t bytes = 0;
};

} // namespace ember
