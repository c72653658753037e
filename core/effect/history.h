// Undo and redo as a row of effects: each edit keeps the pointer to the one before.
#pragma once

#include "core/effect/effect.h"

#include <string>
#include <vector>

namespace ember {

/// Edits with the same non-empty gesture that follow one another (a slider being dragged) are one step of
/// undo.
class History {
  public:
    explicit History(EffectPtr effect) { reset(std::move(effect)); }

    /// Forgets everything; `effect` is now the saved state.
    void reset(EffectPtr effect);

    void push(EffectPtr effect, std::string label, std::string gesture = {});

    /// Ends the running gesture: the next edit is a step of its own.
    void end_gesture() { open_gesture_.clear(); }

    bool can_undo() const { return now_ > 0; }
    bool can_redo() const { return now_ + 1 < steps_.size(); }
    /// What undo would take back and redo would do again; empty if nothing.
    std::string undo_label() const { return can_undo() ? steps_[now_].label : ""; }
    std::string redo_label() const { return can_redo() ? steps_[now_ + 1].label : ""; }
    void undo();
    void redo();

    /// All steps, from the state that was reset to, with those that redo would do again.
    size_t size() const { return steps_.size(); }
    size_t now() const { return now_; }
    const EffectPtr& effect(size_t step) const { return steps_[step].effect; }
    /// Of the edit that led to a step; empty for the first.
    const std::string& label(size_t step) const { return steps_[step].label; }
    /// As undo or redo as often as it takes.
    void go_to(size_t step);

    const EffectPtr& current() const { return steps_[now_].effect; }
    bool is_saved() const { return *current() == *saved_; }
    void mark_saved() { saved_ = current(); }
    /// Treats the current state as unsaved even though it was just loaded (recovered work).
    void mark_unsaved();

  private:
    struct Step {
        EffectPtr effect;
        std::string label; // of the edit that led here
    };

    std::vector<Step> steps_;
    size_t now_ = 0;
    EffectPtr saved_;
    std::string open_gesture_;
};

} // namespace ember
