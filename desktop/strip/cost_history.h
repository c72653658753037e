// What the last seconds cost, picture by picture.
#pragma once

#include "desktop/readings.h"

#include <deque>

namespace ember {

struct CostSample {
    double time_s;
    double births_ms, forces_ms, collision_ms, smoke_ms, debris_ms, draw_ms;
    double particles;

    double frame_ms() const { return births_ms + forces_ms + collision_ms + smoke_ms + debris_ms + draw_ms; }
};

/// Samples in order of effect time, of at most `span_s` seconds. Going back in time starts anew.
class CostHistory {
  public:
    static constexpr double span_s = 10;

    void add(const Readings& readings);
    void clear() { samples_.clear(); }
    const std::deque<CostSample>& samples() const { return samples_; }

  private:
    std::deque<CostSample> samples_;
};

} // namespace ember
