// A trial: an effect run from its start to a moment, beside what plays, to see what it would look like there
// and what it costs on the way.
//
//     Trial trial(effect, assets, {0, 4});
//     while (trial.step()) {
//     }
//     trial.figures();
#pragma once

#include "core/base/span.h"
#include "core/budget/machine.h"
#include "core/budget/seen.h"
#include "core/runtime/simulation.h"

#include <functional>
#include <optional>
#include <vector>

namespace ember {

/// What was measured within the span.
struct TrialFigures {
    double dearest_ms = 0, at_s = 0;   // the dearest step, and when that was
    double median_ms = 0, high_ms = 0; // of the steps; nineteen of twenty take at most that
    double picture_ms = 0;             // the median of the moments that were drawn
    WorkTimes work_ms{};               // the medians of each kind of work
    size_t particles_most = 0, pieces_most = 0, awake_most = 0, cells_most = 0, bytes_most = 0;
    double linger_most_s = 0;
    size_t particles_then = 0, pieces_then = 0; // at its end
    /// Of each element of the effect: the mean of its milliseconds in a step, and what it had alive at the
    /// most.
    std::vector<double> element_ms;
    std::vector<size_t> element_most;

    double frame_ms() const { return high_ms + picture_ms; }
};

/// A frame as it is seen, and what drawing it cost; nothing while there is more to be done: then it is asked
/// again.
using DrawMoment = std::function<std::optional<SeenMoment>(const Frame& frame)>;

class Trial {
  public:
    /// `draw`, if there is one, draws so many moments of the span, evenly, the last of them its end.
    Trial(EffectPtr effect, const Assets& assets, const Span& span, DrawMoment draw = {}, int moments = 6);
    /// Figures are from now on as they would be on another machine.
    void set_machine(const MachineRatio& ratio);

    /// One step, or some of the drawing of the moment behind it; false once the end has been reached, and
    /// nothing has been done.
    bool step();
    const std::vector<SeenMoment>& seen() const { return seen_; }
    /// Of each step of the span so far.
    const std::vector<float>& step_ms() const { return step_ms_; }
    /// 0 to 1.
    double progress() const;
    const Simulation& simulation() const { return simulation_; }
    TrialFigures figures() const;

  private:
    void measure();
    void draw();

    Simulation simulation_;
    uint64_t first_step_, last_step_;
    DrawMoment draw_;
    int moments_;
    bool is_drawing_ = false;
    MachineRatio ratio_;
    std::vector<ElementRatio> element_ratios_;
    TrialFigures figures_;
    std::vector<float> step_ms_;
    std::array<std::vector<float>, kinds_of_work> work_ms_;
    std::vector<SeenMoment> seen_;
    Frame frame_;
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
