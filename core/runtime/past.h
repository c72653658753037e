// What has been played, kept so that one can go back: snapshots, as far apart as keeps them cheap, which thin
// out with age where memory is short, and what reached each step.
//
//     past.note(simulation, inputs);      // before each step
//     simulation.step(inputs);
//     ...
//     past.go_to(simulation, 240, [] { return true; });
#pragma once

#include "core/runtime/simulation.h"
#include "core/runtime/take.h"

#include <functional>
#include <map>

namespace ember {

class Past {
  public:
    /// Snapshots are kept in at most so many bytes; two of them whatever they take.
    explicit Past(size_t most_bytes = 250'000'000) : most_bytes_(most_bytes) {}
    /// From the next snapshot on.
    void set_most_bytes(size_t most_bytes) { most_bytes_ = most_bytes; }

    /// To be called before a step: what it comes from, the effect it is made with, and what reaches it. What
    /// was known of this step and of later ones is forgotten.
    void note(const Simulation& simulation, const StepInputs& inputs);
    void clear();

    /// The step behind the last that was noted; one can go to any from begin() to this.
    uint64_t end() const { return inputs_.end(); }
    uint64_t begin() const { return kept_.empty() ? end() : kept_.begin()->first; }

    /// Brings the simulation that was noted to a step from begin() to end(), as it was then: from the last
    /// snapshot before it, with the effect and the inputs of the steps from there. `goes_on` is asked before
    /// each of them; false if that ended it on the way.
    bool go_to(Simulation& simulation, uint64_t step, const std::function<bool()>& goes_on);

    /// Takes the simulation's effect as if it had been there from the start: brings it to the last snapshot
    /// that is not behind `step`, nor behind anything that would have been another with that effect. False,
    /// and nothing is done, if there is none.
    bool go_back_alike(Simulation& simulation, uint64_t step) const;

    /// What reached the steps from begin() to end().
    const InputLog& inputs() const { return inputs_; }

    /// All that has been played, to be kept; nothing if the first steps behind the warm-up are not there.
    std::optional<Take> take(const Simulation& simulation) const;

    /// Of all snapshots.
    size_t bytes() const { return bytes_; }

  private:
    struct Kept {
        std::shared_ptr<const Simulation::Snapshot> snapshot;
        size_t bytes = 0;
    };
    // What steps are made with.
    struct Edit {
        EffectPtr effect;
        std::shared_ptr<const Assets> assets;
        explicit Edit(const Simulation& simulation)
            : effect(simulation.effect()), assets(simulation.assets()) {}
        bool operator==(const Edit&) const = default; // the same ones
    };
    void forget_from(uint64_t step);
    void thin_out();
    const Edit* edit_of(uint64_t step) const;
    uint64_t alike_until(const Simulation& simulation) const;
    uint64_t apart() const;

    size_t most_bytes_;
    double snapshot_ms_ = 0,
           step_ms_ = 0;             // means: how far snapshots lie apart goes by them, and nothing else
    size_t bytes_ = 0;               // of the snapshots
    std::map<uint64_t, Kept> kept_;  // by the step that comes next
    std::map<uint64_t, Edit> edits_; // by the first step that is made with them
    InputLog inputs_;
};

} // namespace ember
