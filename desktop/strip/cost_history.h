// What the last seconds cost, picture by picture.
#pragma once

#include "desktop/readings.h"

#include <deque>
#include <optional>

namespace ember {

struct CostSample {
    double time_s;
    double births_ms, forces_ms, collision_ms, smoke_ms, debris_ms, draw_ms;
    double particles;

    double frame_ms() const { return births_ms + forces_ms + collision_ms + smoke_ms + debris_ms + draw_ms; }
};

/// Samples in order of effect time, of at most `span_s` seconds. Playing on from an earlier moment forgets
/// what was played after it.
class CostHistory {
  public:
    static constexpr double span_s = 160;

    void add(const Readings& readings);
    void clear() { samples_.clear(); }
    /// The moment that is shown, if that is not the last that was played.
    std::optional<double> gone_back_to() const { return gone_back_to_; }
    const std::deque<CostSample>& samples() const { return samples_; }

  private:
    std::deque<CostSample> samples_;
    std::optional<double> gone_back_to_;
};

} // namespace ember
