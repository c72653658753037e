#include "desktop/strip/cost_history.h"

namespace ember {

void CostHistory::add(const Readings& readings) {
    constexpr double near_s = 1e-6;
    gone_back_to_.reset();
    if (readings.time_s < readings.kept_to_s - near_s && !samples_.empty()) {
        gone_back_to_ = readings.time_s; // it has been seen before
        return;
    }
    while (!samples_.empty() && samples_.back().time_s > readings.time_s + near_s) {
        samples_.pop_back();
    }
    const Meters& meters = readings.meters;
    const CostSample sample = {readings.time_s,        meters.births_ms,        meters.forces_ms,
                               meters.collision_ms,    meters.smoke_ms,         meters.debris_ms,
                               readings.draw.total_ms, double(meters.particles)};
    if (!samples_.empty() && readings.time_s == samples_.back().time_s) {
        samples_.back() = sample;
    } else {
        samples_.push_back(sample);
    }
    while (samples_.front().time_s < readings.time_s - span_s) {
        samples_.pop_front();
    }
}

} // namespace ember
