// What particles do to one another: flocks, and contacts between particles. Both look at the state at the
// start of the step and at nothing that others do within it, so the order does not matter.
#pragma once

#include "core/particles/pool.h"
#include "core/scene/meters.h"

#include <functional>
#include <map>
#include <memory>

namespace ember {

/// A source that is running.
struct RunningSource {
    const SourceProgram* program = nullptr;
    ParticlePool* pool = nullptr;
};

/// Accelerations for the particles of some sources, block by block.
class FoundPushes {
  public:
    /// Those of one block of a source by one influence; null pointers if there are none.
    FoundPush of(size_t influence, size_t source, size_t block) const;

  private:
    friend FoundPushes find_pushes(const std::vector<RunningSource>& sources, const PreparedEffect& prepared,
                                   const StepTime& time, const StepPlacements& placed,
                                   const BlockKernels& kernels, Meters& meters);
    struct alignas(64) Block {
        float x[block_size], y[block_size], z[block_size];
    };
    std::map<std::pair<size_t, size_t>, std::unique_ptr<Block[]>> by_influence_and_source_;
};

/// The pushes of all flocks.
FoundPushes find_pushes(const std::vector<RunningSource>& sources, const PreparedEffect& prepared,
                        const StepTime& time, const StepPlacements& placed, const BlockKernels& kernels,
                        Meters& meters);

/// Lets the particles of sources that are linked to contacts hit one another: changes their places and
/// velocities.
void let_collide(const std::vector<RunningSource>& sources, const PreparedEffect& prepared,
                 const StepTime& time, const BlockKernels& kernels, Meters& meters);

} // namespace ember
