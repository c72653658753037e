// Takes: runs that were kept, with all that is needed to make them again: the effect, what was edited while
// it played, and what reached each step.
//
//     simulation.set_effect(take.effect_at(0), assets);
//     while (simulation.steps() < take.steps()) {
//         simulation.step(inputs_of_step(take, simulation));
//     }
#pragma once

#include "core/base/problem.h"
#include "core/runtime/simulation.h"
#include "core/scene/input_log.h"

#include <filesystem>
#include <map>
#include <string>
#include <vector>

namespace ember {

struct Take {
    std::string name, note;
    bool is_marked = false;
    std::string kept_at;       // date and time, for people
    double worst_frame_ms = 0; // as it was measured
    uint64_t most_particles = 0;
    std::string picture; // PNG, or empty
    /// By the first step that was made with it; the first one is there from step 0 on.
    std::map<uint64_t, EffectPtr> effects;
    /// Of the steps since the run began; those of the warm-up are empty.
    InputLog inputs;

    /// With its warm-up.
    uint64_t steps() const { return inputs.end(); }
    const EffectPtr& effect_at(uint64_t step) const { return std::prev(effects.upper_bound(step))->second; }
};

/// Makes a step of a take ready: gives the simulation, which has the take's assets, the effect that the step
/// it is at was made with, and returns what reached it.
StepInputs inputs_of_step(const Take& take, Simulation& simulation);

/// As it lies in files: see docs/takes.md.
std::string takes_text(const std::vector<Take>& takes);
std::optional<Problem> save_takes(const std::vector<Take>& takes, const std::filesystem::path& path);

struct ReadTakes {
    std::vector<Take> takes; // those that are sound
    Problems problems;
};
ReadTakes parse_takes(std::string_view text, const std::string& file_name);
ReadTakes read_takes(const std::filesystem::path& path);

} // namespace ember
