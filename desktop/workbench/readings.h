// What the gauges, the board and the strip show: measured with the picture that is on the screen.
#pragma once

#include "core/effect/drive.h"
#include "core/scene/field.h"
#include "core/scene/giving.h"
#include "core/scene/meters.h"
#include "render/renderer.h"

#include <QString>

#include <array>
#include <map>
#include <string>

namespace ember {

/// How many of a source's particles are how far through their lives, from birth (first) to death.
using AgeSpread = std::array<float, 24>;

struct Readings {
    EffectPtr effect; // that the step ran with; meters.elements is in its order
    double time_s = 0;
    uint64_t step = 0;
    double kept_to_s = 0;     // until when it has been played: later than time_s if one has gone back
    bool is_replayed = false; // what comes next is a take's
    Gives gives{};            // in that step
    Meters meters;
    DrawMeters draw;
    size_t bytes = 0;                  // particles, pieces, smoke, frames, pictures and what was played
    std::vector<Placement> placements; // of the effect's elements
    std::vector<ModulatorValue> modulators;
    std::shared_ptr<const FieldReading> field; // if a lens looks at forces
    AgeSpread spread{};                        // of the source that is watched (PictureMaker::watch())

    double frame_ms() const { return meters.step_ms + draw.total_ms; }
    /// What an element of the effect cost in the picture (ms), by its place.
    double picture_ms(size_t element) const {
        return element < draw.element_ms.size() ? draw.element_ms[element] : 0;
    }
    /// The meter of an element, or nullptr if it was not in that step.
    const ElementMeter* find(const std::string& id) const;
};

/// Costs as they are shown in figures: a running mean over about half a second, so that they can be read.
class SmoothedCosts {
  public:
    void add(const Readings& readings);
    /// What an element costs a frame (ms): in the step, and in the picture. 0 if it does not run.
    struct Cost {
        double step_ms = 0, picture_ms = 0;
        double sum() const { return step_ms + picture_ms; }
    };
    Cost of(const std::string& id) const;
    double frame_ms() const { return frame_ms_; }

  private:
    std::map<std::string, Cost> costs_;
    double frame_ms_ = 0;
};

/// "58 pieces, 3120 triangles; 2 slivers joined".
QString cut_words(const CutFacts& cut);

/// What a zone or a rule of cleanup has taken, and what that saves.
QString savings_words(const DebrisMeter& meter);

} // namespace ember
