// What the last seconds cost, step by step, what happened in them, and why a moment was dear.
#pragma once

#include "core/runtime/player.h"
#include "desktop/workbench/readings.h"

#include <QStringList>

#include <deque>
#include <optional>
#include <string>
#include <vector>

namespace ember {

/// Of an element in one step, and in the picture that followed.
struct ElementCost {
    float step_ms = 0, picture_ms = 0;
    uint64_t born = 0; // since the start
    uint32_t pieces = 0, faces_broken = 0;
    bool is_full = false;           // births are refused
    uint32_t bursts = 0, fired = 0; // in this step

    float sum() const { return step_ms + picture_ms; }
};

struct CostSample {
    double time_s = 0;
    EffectPtr effect; // that it was measured with
    double births_ms = 0, forces_ms = 0, collision_ms = 0, smoke_ms = 0, debris_ms = 0, draw_ms = 0;
    double stage_ms = 0; // within the picture: the stage, its focus and what the lens does
    double particles = 0, pieces = 0, awake = 0, cells = 0, linger_s = 0, memory_mb = 0;
    std::vector<ElementCost> elements; // in the order of the effect
    Gives gives{};

    double frame_ms() const { return births_ms + forces_ms + collision_ms + smoke_ms + debris_ms + draw_ms; }
};

/// Something that happened: "Salt stack breaks", "Mist is full", "Strike goes off", "Pieces over 1.0 k".
struct CostEvent {
    double time_s;
    QString words;
    bool is_break = false;
};

/// Why a moment cost what it cost.
struct Why {
    double time_s = 0, frame_ms = 0;
    struct Part {
        std::string id; // of an element; empty: the stage
        QString name;
        double ms = 0, usual_ms = 0; // then, and in the median of what is kept
        double excess() const { return ms - usual_ms; }
    };
    std::vector<Part> parts; // what was dearer than usual by the most first
    QStringList passed;      // "Frame 28.4 of 16.7 ms", ...
    QStringList before;      // what happened in the half second before
};

/// Samples in order of effect time, of at most `span_s` seconds. Playing on from an earlier moment forgets
/// what was played after it; a step that is made again takes the place of what it was.
class CostHistory {
  public:
    static constexpr double span_s = 160;

    /// `steps`: those that were made since the readings before; each is a sample, with the picture of these
    /// readings. If there are none, a moment that has not been seen yet is one.
    void add(const Readings& readings, const std::vector<StepCost>& steps = {});
    void clear();
    /// The moment that is shown, if that is not the last that was played.
    std::optional<double> gone_back_to() const { return gone_back_to_; }
    const std::deque<CostSample>& samples() const { return samples_; }
    const std::deque<CostEvent>& events() const { return events_; }
    /// Of the sample nearest to a time; nothing if there is none within a tenth of a second.
    std::optional<Why> why(double time_s) const;

  private:
    void take(CostSample sample);
    void note_events(const CostSample& before, const CostSample& now);
    void forget_after(double time_s);

    std::deque<CostSample> samples_;
    std::deque<CostEvent> events_;
    std::optional<double> gone_back_to_;
};

} // namespace ember
