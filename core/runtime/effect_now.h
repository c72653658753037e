// The effect as it is now. A value is what the document has; then what its track says; then what a modulator
// drives it to; then what a trigger has set it to; and what a trigger has stopped, or will start, does
// nothing; then what is left of it while the effect gives way. Worked out once in a step and carried by its
// frame: nobody else works it out.
#pragma once

#include "core/effect/drive.h"
#include "core/effect/track.h"
#include "core/runtime/triggers.h"
#include "core/scene/giving.h"
#include "core/scene/placements.h"

namespace ember {

class EffectNow {
  public:
    /// Finds what is driven and what triggers act on, once for each edit.
    void set(EffectPtr effect);

    /// The effect itself if nothing of it ever changes. What was returned before stays as it was.
    EffectPtr at(const StepTime& time, const std::vector<ModulatorValue>& modulators,
                 const Triggers& triggers, const Gives& gives);

    /// The elements that may be others than in the document, by index, in order.
    const std::vector<size_t>& changing() const { return changing_; }

  private:
    /// What is keyed or driven: one of both.
    struct Target {
        const Track* track;
        const Drive* drive;
        const Parameter* parameter;
        const void* own; // the holder in the document
    };
    /// A copy of the effect, and the holder of each target in it.
    struct Copy {
        std::shared_ptr<Effect> effect;
        std::vector<void*> holders;
    };
    Copy spare();

    EffectPtr effect_;
    std::vector<Target> targets_;  // tracks before drives
    std::vector<size_t> changing_; // elements
    std::vector<size_t> acted_on_; // those of them that triggers or the keeper act on
    std::vector<size_t> acted_on_looks_;
    bool is_stage_acted_on_ = false;
    bool is_fixed_ = true; // but for what is given
    EffectPtr given_;      // so, and how much
    Gives gives_{};
    std::vector<Copy> copies_; // to be used again once nobody else holds them
};

} // namespace ember
