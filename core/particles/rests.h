// How particles lie that stick to something: as they were when they hit it, or flat on it, and from then on
// turned along with it. Of all others the turn follows from their number and age, and nothing is kept.
#pragma once

#include "core/base/axes.h"
#include "core/blocks/block_kernels.h"

#include <functional>
#include <optional>
#include <vector>

namespace ember {

/// A particle that begins to stick, as it arrives.
struct Landing {
    uint32_t number = 0;
    float age = 0, lifetime = 1; // s
    Vec3 velocity;               // m/s
    Vec3 normal;                 // of what it hits
};

class Rests {
  public:
    /// How what has a sticking number turned within the step, where a particle sticks to it.
    using TurnOf = std::function<Quaternion(uint32_t sticking_number, uint32_t particle)>;

    /// Turns what lies along with what it lies on, forgets what no longer sticks, and adds `landings`, which
    /// are in the order of the particles. `flat_axis`: the particles' own axis (0, 1 or 2) that is laid along
    /// the normal, the shortest way; nothing: they stay as they come.
    void update(const ParticleBlocks& blocks, const std::vector<Landing>& landings, const FormRow& form,
                std::optional<int> flat_axis, const TurnOf& turn_of, const BlockKernels& kernels);

    /// Writes the turns of a block's particles that lie over what `forms` has for them.
    void overlay(const ParticleBlock& block, BlockForms& forms) const;

    bool empty() const { return rests_.empty(); }

  private:
    struct Rest {
        uint32_t number;
        Quaternion turn; // from the particle's own axes to the world
    };
    std::vector<Rest> rests_; // by number
};

} // namespace ember
