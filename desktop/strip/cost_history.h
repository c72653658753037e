// What the last seconds cost, picture by picture, and what happened in them.
#pragma once

#include "desktop/workbench/readings.h"

#include <deque>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace ember {

struct CostSample {
    double time_s = 0;
    EffectPtr effect; // that it was measured with
    double births_ms = 0, forces_ms = 0, collision_ms = 0, smoke_ms = 0, debris_ms = 0, draw_ms = 0;
    double particles = 0, pieces = 0, awake = 0, linger_s = 0, memory_mb = 0;
    /// The elements that cost the most in step and picture, by name, and their milliseconds.
    std::vector<std::pair<std::string, float>> dearest;

    double frame_ms() const { return births_ms + forces_ms + collision_ms + smoke_ms + debris_ms + draw_ms; }
};

/// Something that happened: "Salt stack breaks", "Mist is full".
struct CostEvent {
    double time_s;
    QString words;
};

/// Samples in order of effect time, of at most `span_s` seconds. Playing on from an earlier moment forgets
/// what was played after it.
class CostHistory {
  public:
    static constexpr double span_s = 160;

    void add(const Readings& readings);
    void clear();
    /// The moment that is shown, if that is not the last that was played.
    std::optional<double> gone_back_to() const { return gone_back_to_; }
    const std::deque<CostSample>& samples() const { return samples_; }
    const std::deque<CostEvent>& events() const { return events_; }

  private:
    void note_events(const Readings& readings);

    std::deque<CostSample> samples_;
    std::deque<CostEvent> events_;
    std::map<std::string, size_t> broken_; // faces, by breakable
    std::map<std::string, bool> full_;     // by source
    std::optional<double> gone_back_to_;
};

} // namespace ember
