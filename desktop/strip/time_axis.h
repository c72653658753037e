// Where moments are on the strip, for all that stands on its axis.
#pragma once

#include "desktop/strip/strip_parts.h"

#include <algorithm>
#include <cmath>
#include <vector>

namespace ember::strip {

constexpr double step_s = 1.0 / 60;
constexpr int reach = 6; // pixels within which something is taken hold of, or snaps

struct TimeAxis {
    double first_s = 0, span_s = 10; // that are seen, from the left edge of the costs to their right edge
    int width = 100;                 // of the strip
    double now_s = 0;                // that is shown
    std::vector<double> events_s;    // when something happened

    double xOf(double time_s) const {
        return left_edge + (time_s - first_s) / span_s * (width - left_edge - right_edge);
    }
    /// The step that is nearest, from 0 on.
    double timeAt(double x) const {
        const double time_s = first_s + (x - left_edge) / (width - left_edge - right_edge) * span_s;
        return std::max(std::round(time_s / step_s) * step_s, 0.0);
    }
    /// To what happened near there, or to where it is now.
    double snapped(double time_s) const {
        double best = time_s, nearest = reach;
        const auto look_at = [&](double moment) {
            const double away = std::abs(xOf(moment) - xOf(time_s));
            if (away < nearest) {
                nearest = away;
                best = moment;
            }
        };
        std::for_each(events_s.begin(), events_s.end(), look_at);
        look_at(now_s);
        return best;
    }
};

} // namespace ember::strip
