// The effect, running. No interface, no clock: whoever owns it calls step() as often as steps are due.
//
//     Simulation simulation;
//     simulation.set_effect(effect);
//     for (int i = 0; i < 600; ++i) simulation.step();   // ten seconds
//
// The same effect gives the same bytes on any number of threads.
#pragma once

#include "core/base/isa.h"
#include "core/debris/debris.h"
#include "core/debris/hull_tables.h"
#include "core/effect/effect.h"
#include "core/particles/pool.h"
#include "core/runtime/blasts.h"
#include "core/runtime/children.h"
#include "core/runtime/effect_now.h"
#include "core/runtime/frame.h"
#include "core/runtime/trails.h"
#include "core/runtime/triggers.h"
#include "core/scene/inputs.h"
#include "core/scene/windows.h"
#include "core/smoke/clouds.h"

#include <map>
#include <string>
#include <vector>

namespace ember {

class PieceHulls;

class Simulation {
  public:
    explicit Simulation(Isa isa = best_isa(), double step_s = 1.0 / 60);

    /// Takes effect at the next step. Sources that are still there keep their live particles; another warm-up
    /// time starts the effect again. `assets`: what the effect needs from files; elements that lack theirs do
    /// nothing.
    void set_effect(EffectPtr effect, const Assets& assets = {});
    void set_effect(EffectPtr effect, std::shared_ptr<const Assets> assets);
    const EffectPtr& effect() const { return effect_; }
    /// As it was in the last step: keyed, driven, and as triggers have it.
    const EffectPtr& effect_now() const { return prepared_.effect; }
    const std::shared_ptr<const Assets>& assets() const { return assets_; }

    /// All that the next steps depend on besides their inputs: the effect too. Costs are left out, but for
    /// those of the last step, which stay readable.
    struct Snapshot;
    std::shared_ptr<const Snapshot> snapshot() const;
    /// What follows is the same, to the byte, as what followed the snapshot; in any other simulation of the
    /// same step length too.
    void restore(const Snapshot& snapshot);
    /// What a snapshot holds for itself; meshes, grids and the effect are shared.
    static size_t bytes(const Snapshot& snapshot);

    /// Back to the start, before the warm-up, with no particles.
    void rewind();

    /// One step of step_s(). Needs an effect. What it does depends on the effect, on what was before, and on
    /// these inputs, and on nothing else.
    void step(const StepInputs& inputs = {});

    double step_s() const { return step_s_; }
    /// Time since the end of the warm-up; negative while the effect warms up.
    double time_s() const { return time_of(steps_).start_s(); }
    bool is_warming_up() const { return steps_ < warm_up_steps_; }
    uint64_t steps() const { return steps_; }
    uint64_t warm_up_steps() const { return warm_up_steps_; }

    /// Costs and counts of the last step.
    const Meters& meters() const { return meters_; }

    /// The particles of a source, or nullptr if it has none.
    const ParticlePool* find_pool(const std::string& source_id) const;

    /// What forces do at places now.
    FieldReading read_field(const FieldOrder& order) const;

    /// Whether frames have the contacts of their steps; off at first.
    void note_contacts(bool on) { notes_contacts_ = on; }

    /// The volume of smoke of an element, or nullptr.
    const SmokeVolume* find_smoke(const std::string& id) const { return clouds_.find(id); }

    /// The bodies of a breakable as they move.
    std::vector<Debris::Moving> bodies(const std::string& id) const { return debris_.bodies(id); }

    /// What happened to pieces in the last step, by the breakable's id.
    const std::map<std::string, PieceEvents>& events_of_pieces() const { return debris_.events(); }

    /// Copies what a picture needs; reuses the frame's memory.
    void write_frame(Frame& frame) const;

  private:
    StepTime step_time() const { return time_of(steps_); }
    StepTime last_time() const { return time_of(steps_ > 0 ? steps_ - 1 : 0); }
    StepTime time_of(uint64_t step) const { return {step_s_, step, warm_up_steps_}; }
    void find_now(const StepTime& time);
    void burst(const RunningSource& source, const std::vector<TriggerCall>& calls);
    std::vector<FrameDebris> pieces_at(double time_s, const std::vector<Placement>& placements) const;
    bool has_gas() const;
    void keep_only(const std::vector<SourceProgram>& programs);
    std::vector<RunningSource> running(const std::vector<SourceProgram>& programs);
    std::vector<ParticleEvents> step_blocks(const std::vector<RunningSource>& sources,
                                            const FoundPushes& found, const PieceHulls& pieces);
    void lay(const RunningSource& source, const std::vector<uint32_t>& sticking,
             const ParticleEvents& events);
    void leave_trails(const std::vector<RunningSource>& sources);
    void read_meters(const std::vector<RunningSource>& sources);
    void write_stage(Frame& frame) const;
    uint32_t sticking_number(const std::string& collider_id);

    const BlockKernels& kernels_;
    double step_s_;
    uint64_t steps_ = 0;
    uint64_t warm_up_steps_ = 0;
    EffectPtr effect_; // as it was set
    std::shared_ptr<const Assets> assets_ = std::make_shared<Assets>();
    EffectNow now_;
    PreparedEffect prepared_; // of the effect as it is now
    std::vector<ModulatorValue> modulators_;
    StageWindows windows_;
    std::map<std::string, ParticlePool> pools_; // by the source's id
    std::map<std::string, Trails> trails_;      // the same
    Clouds clouds_;
    Debris debris_;
    Blasts blasts_;
    HullTables hull_tables_; // of the cuts of pieces that particles hit
    Triggers triggers_;
    std::map<std::string, ParticleEvents> heard_; // of the last step, by the source's id
    std::vector<std::string> sticky_; // ids of colliders by the number that particles carry, less one
    Meters meters_;
    StepCounts counts_; // after the last step
    Gives gives_{};     // in the last step
    bool notes_contacts_ = false;
    std::vector<FrameContact> contacts_; // of the last step
};

} // namespace ember
