// Particles born of particles: what happened to parents within a step, and the births that follow from it.
#pragma once

#include "core/debris/debris.h"
#include "core/debris/piece_push.h"
#include "core/particles/rests.h"
#include "core/runtime/neighbourhood.h"

#include <vector>

namespace ember {

/// Something that happened to a particle, in the order of its source's particles.
struct ParticleEvent {
    Vec3 position, velocity;
    Colour colour; // what the particle looked like
    uint32_t number = 0;
    float strength = 0; // of a hit, m/s
};

/// How what a particle sticks to has turned.
struct Carried {
    uint32_t number = 0; // of the particle
    Quaternion turn;
};

struct ParticleEvents {
    std::vector<ParticleEvent> deaths, hits;
    std::vector<Landing> landings; // of what is not round
    std::vector<Carried> carried;  // the same, by pieces
    std::vector<PiecePush> pushes;

    void append(const ParticleEvents& later);
};

/// What the children of a source have to be told.
struct EventUse {
    bool deaths = false, hits = false;
};

/// For each running source, what its children and triggers ask for.
std::vector<EventUse> event_uses(const PreparedEffect& prepared, const std::vector<RunningSource>& sources);

/// The colour of a particle by its source's look and its own tint.
class ParentColours {
  public:
    ParentColours(const Effect& effect, const Emitter& emitter);
    Colour of(const ParticleBlock& block, int i) const;

  private:
    LifeTable<Colour> over_life_;
};

/// Births of all sources that have a parent. `events`: of each running source, from the step that is just
/// done; `of_pieces`: of breakables, by their id.
void give_birth_to_children(const PreparedEffect& prepared, const std::vector<RunningSource>& sources,
                            const std::vector<ParticleEvents>& events,
                            const std::map<std::string, PieceEvents>& of_pieces, const StepTime& time,
                            const BlockKernels& kernels, Meters& meters);

} // namespace ember
