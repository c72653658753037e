// The effect, running. No interface, no clock: whoever owns it calls step() as often as steps are due.
//
//     Simulation simulation;
//     simulation.set_effect(effect);
//     for (int i = 0; i < 600; ++i) simulation.step();   // ten seconds
//
// The same effect gives the same bytes on any number of threads.
#pragma once

#include "core/base/isa.h"
#include "core/effect/effect.h"
#include "core/particles/pool.h"
#include "core/runtime/frame.h"

#include <map>
#include <string>

namespace ember {

class Simulation {
  public:
    explicit Simulation(Isa isa = best_isa(), double step_s = 1.0 / 60);

    /// Takes effect at the next step. Sources that are still there keep their live particles.
    void set_effect(EffectPtr effect);
    const EffectPtr& effect() const { return effect_; }

    /// Back to time zero with no particles.
    void rewind();

    /// One step of step_s(). Needs an effect.
    void step();

    double step_s() const { return step_s_; }
    double time_s() const { return double(steps_) * step_s_; }
    uint64_t steps() const { return steps_; }

    /// Costs and counts of the last step.
    const Meters& meters() const { return meters_; }

    /// The particles of a source, or nullptr if it has none.
    const ParticlePool* find_pool(const std::string& source_id) const;

    /// Copies what a picture needs; reuses the frame's memory.
    void write_frame(Frame& frame) const;

  private:
    void keep_only(const std::vector<SourceProgram>& programs);
    void step_blocks(const std::vector<SourceProgram>& programs);
    void read_meters(const std::vector<SourceProgram>& programs);

    const BlockKernels& kernels_;
    double step_s_;
    uint64_t steps_ = 0;
    EffectPtr effect_;
    std::map<std::string, ParticlePool> pools_; // by the source's id
    Meters meters_;
};

} // namespace ember
