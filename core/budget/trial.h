// A trial: an effect run from its start to a moment, beside what plays, to see what it would look like there
// and what it costs on the way.
//
//     Trial trial(effect, assets, 4);
//     while (trial.step()) {
//     }
//     trial.figures();
#pragma once

#include "core/runtime/simulation.h"

#include <vector>

namespace ember {

struct TrialFigures {
    double dearest_ms = 0, at_s = 0; // of the steps behind the warm-up, and when that was
    double median_ms = 0;
    size_t particles_most = 0, pieces_most = 0;
    size_t particles_then = 0, pieces_then = 0; // at the moment
};

class Trial {
  public:
    /// `until_s`: on the artist's clock, at least 0.
    Trial(EffectPtr effect, const Assets& assets, double until_s);

    /// One step; false once the moment has been reached, and nothing has been done.
    bool step();
    /// 0 to 1.
    double progress() const;
    const Simulation& simulation() const { return simulation_; }
    TrialFigures figures() const;

  private:
    Simulation simulation_;
    uint64_t last_step_;
    TrialFigures figures_;
    std::vector<float> step_ms_;
};

/// Which number is tried over a range: of a parameter, or of one of its parts.
struct TriedNumber {
    std::string holder; // id
    std::string parameter;
    int part = 0;
    float from = 0, to = 1;
    int count = 9; // at least 2

    /// The number of a try, from the first to the last in even steps; whole for counts.
    float at(int index) const { return from + (to - from) * float(index) / float(std::max(count - 1, 1)); }
};

/// Why a number cannot be tried (there is none such, it is no number, an end is out of range); nothing if it
/// can.
std::optional<std::string> refusal_of(const Effect& effect, const TriedNumber& number);

/// The effect with that number set to one of its tries; what drives or keys it goes. It has passed
/// refusal_of().
Effect with_try(const Effect& effect, const TriedNumber& number, int index);

} // namespace ember
