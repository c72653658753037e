// A simulation as all that its next steps depend on, and back.
#include "core/runtime/simulation.h"

namespace ember {

struct Simulation::Snapshot {
    uint64_t steps, warm_up_steps;
    EffectPtr effect;
    std::shared_ptr<const Assets> assets;
    PreparedEffect prepared;
    std::vector<ModulatorValue> modulators;
    StageWindows::Kept windows;
    std::map<std::string, ParticlePool> pools;
    std::map<std::string, Trails> trails;
    std::shared_ptr<const Clouds::Kept> clouds;
    std::shared_ptr<const Debris::Kept> debris;
    Triggers triggers;
    Blasts blasts;
    std::map<std::string, ParticleEvents> heard;
    std::vector<std::string> sticky;
    StepCounts counts;
    Gives gives;
    Meters meters;
    std::vector<FrameContact> contacts;
};

std::shared_ptr<const Simulation::Snapshot> Simulation::snapshot() const {
    return std::make_shared<const Snapshot>(Snapshot{steps_, warm_up_steps_, effect_, assets_, prepared_,
                                                     modulators_, windows_.kept(), pools_, trails_,
                                                     clouds_.kept(), debris_.kept(), triggers_, blasts_,
                                                     heard_, sticky_, counts_, gives_, meters_, contacts_});
}

void Simulation::restore(const Snapshot& snapshot) {
    steps_ = snapshot.steps;
    warm_up_steps_ = snapshot.warm_up_steps;
    effect_ = snapshot.effect;
    assets_ = snapshot.assets;
    now_.set(effect_);
    prepared_ = snapshot.prepared;
    modulators_ = snapshot.modulators;
    pools_.clear();
    for (const auto& [id, pool] : snapshot.pools) {
        pools_.emplace(id, pool);
    }
    trails_ = snapshot.trails;
    clouds_.restore(*snapshot.clouds);
    debris_.restore(*snapshot.debris);
    windows_.restore(snapshot.windows);
    windows_.set_flow(clouds_.flow(prepared_));
    windows_.take_over(prepared_);
    triggers_ = snapshot.triggers;
    blasts_ = snapshot.blasts;
    heard_ = snapshot.heard;
    sticky_ = snapshot.sticky;
    counts_ = snapshot.counts;
    gives_ = snapshot.gives;
    meters_ = snapshot.meters;
    contacts_ = snapshot.contacts;
}

size_t Simulation::bytes(const Snapshot& snapshot) {
    size_t bytes = Clouds::bytes(*snapshot.clouds) + Debris::bytes(*snapshot.debris);
    for (const auto& [id, pool] : snapshot.pools) {
        bytes += pool.bytes();
    }
    for (const auto& [id, trails] : snapshot.trails) {
        bytes += trails.bytes();
    }
    return bytes;
}

} // namespace ember
