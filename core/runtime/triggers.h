// Triggers at work: what has happened, and what follows from it.
#pragma once

#include "core/runtime/children.h"
#include "core/scene/counts.h"
#include "core/scene/inputs.h"
#include "core/scene/trigger_call.h"

#include <deque>
#include <map>
#include <set>
#include <string>
#include <vector>

namespace ember {

/// What triggers listen to: the step before, and people.
struct TriggerScene {
    const PreparedEffect& prepared;
    const StepTime& time;
    const StepPlacements& placed;
    const StepInputs& inputs;
    const StepCounts& counts;                                  // after the step before
    const std::map<std::string, ParticleEvents>& of_particles; // by the source's id
    const std::map<std::string, PieceEvents>& of_pieces;       // by the breakable's id
};

class Triggers {
  public:
    /// What is to be done in this step, in the order of the triggers.
    std::vector<TriggerCall> step(const TriggerScene& scene);
    void clear() {
        states_.clear();
        switches_.clear();
        numbers_.clear();
    }

    /// Sets the numbers that triggers have set, and lets what they have stopped, or not yet started, do
    /// nothing. `effect` is as it would be without them.
    void apply(Effect& effect) const;
    /// The ids of the elements of which a trigger starts, stops or sets something, and of looks and the
    /// stage.
    static std::set<std::string> acted_on(const Effect& effect);

  private:
    struct Waiting {
        double due_s;
        std::optional<Vec3> place;
    };
    struct State {
        bool was_so = false; // near enough, or enough of them, in the last step
        uint64_t happened = 0;
        std::deque<double> done_s; // in the last second
        std::deque<Waiting> waiting;
    };
    // What was done last, and how long it holds.
    template <class Value>
    struct Done {
        Value value;
        double until_s;
        std::optional<Vec3> place = std::nullopt; // where it happened
    };

    void undo_what_has_lasted(double now_s);
    static void start_at(Element& element, const std::map<std::string, Done<bool>>& switches);

    std::map<std::string, State> states_;        // by the trigger's id
    std::map<std::string, Done<bool>> switches_; // whether an element was started or stopped
    std::map<std::pair<std::string, std::string>, Done<float>> numbers_; // by holder and key
};

} // namespace ember
