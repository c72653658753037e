// What the strip's painting and its hands share: measures, and what lanes and a frame's parts are.
#pragma once

#include "desktop/strip/cost_history.h"

#include <QColor>

#include <array>

namespace ember::strip {

constexpr int left_edge = 118;
constexpr int right_edge = 14;
constexpr int title_height = 20;
constexpr int events_height = 14;
constexpr int top_edge = title_height + events_height;
constexpr int lane_gap = 3;
constexpr int folded_height = 12;
constexpr int least_open = 30;
constexpr int axis_height = 15;

// How much of a lane's height is even, see BudgetStrip::heightOf().
constexpr double even_part = 0.75;

struct LaneKind {
    const char* label;
    const char* limit_key; // of the budget
};

// In the order of BudgetStrip::Lane.
inline constexpr std::array<LaneKind, 7> lane_kinds = {{{"Frame ms", "frame_ms"},
                                                        {"Particles", "particles"},
                                                        {"Smoke cells", "smoke_cells"},
                                                        {"Pieces", "pieces"},
                                                        {"Awake", "awake_pieces"},
                                                        {"Linger s", "linger_s"},
                                                        {"Memory MB", "memory_mb"}}};

// From the bottom up.
struct Part {
    const char* name;
    double CostSample::*ms;
    QColor colour;
};
const std::array<Part, 6>& parts_of_frame();

} // namespace ember::strip
