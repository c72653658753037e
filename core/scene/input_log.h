// What reached each step of a run from outside, so that it can be made again.
//
//     InputLog log(step_s);
//     log.add(simulation.steps(), inputs);
//     simulation.step(inputs);
//     ...
//     other.step(log.at(other.steps()));   // does the same
#pragma once

#include "core/base/problem.h"
#include "core/scene/inputs.h"

#include <cstdint>
#include <string_view>

namespace ember {

class InputLog {
  public:
    explicit InputLog(double step_s = 1.0 / 60) : step_s_(step_s) {}

    /// The inputs of a step: of the next, or of an earlier one, and then what was known from it on is
    /// forgotten.
    void add(uint64_t step, const StepInputs& inputs);
    /// Of a step before end().
    StepInputs at(uint64_t step) const;
    /// The step behind the last that is known.
    uint64_t end() const { return end_; }
    double step_s() const { return step_s_; }
    size_t bytes_held() const;

    /// As it lies in files: see docs/input-logs.md.
    std::string bytes() const;
    /// Nothing, and a problem, if it is damaged, cut short, or of a version that is not known yet.
    static std::optional<InputLog> read(std::string_view bytes, const std::string& file, Problems& problems);

    bool operator==(const InputLog&) const = default;

  private:
    // Only steps whose inputs are not those of the step before, without its clicks and keys.
    struct Change {
        uint64_t step = 0;
        StepInputs inputs;
        bool operator==(const Change&) const = default;
    };
    const Change* last_before(uint64_t step) const;

    double step_s_;
    std::vector<Change> changes_;
    uint64_t end_ = 0;
};

} // namespace ember
