// The particles of one source.
#pragma once

#include "core/blocks/block.h"
#include "core/blocks/block_kernels.h"
#include "core/particles/births.h"
#include "core/particles/rests.h"
#include "core/scene/program.h"

#include <array>
#include <cstdint>
#include <memory>
#include <vector>

namespace ember {

/// Blocks in order of birth. Deaths are closed up inside each block, so live particles never change their
/// order; blocks that have thinned out are merged with their neighbours.
class ParticlePool {
  public:
    using Blocks = ParticleBlocks;

    ParticlePool() = default;
    /// With particles of its own.
    ParticlePool(const ParticlePool& other);
    ParticlePool(ParticlePool&&) noexcept = default;
    ParticlePool& operator=(ParticlePool&&) noexcept = default;

    /// Births that are due by the source's own rate, bursts and way. Returns how many bursts came.
    uint32_t give_birth(const SourceProgram& program, const StepTime& time, const BlockKernels& kernels);

    /// Bears one particle for each origin. What does not fit into the capacity is refused and counted.
    void bear(const SourceProgram& program, const BirthList& births, const BlockKernels& kernels);

    /// Takes the dead out of one block, keeping the order of the others.
    static void bury(ParticleBlock& block);

    /// Merges runs of thin blocks. To be called once a step, after the deaths.
    void close_ranks();

    /// Makes these its particles, in place of those that it has.
    void show(Blocks blocks);

    void clear();

    /// How those lie that stick to something.
    Rests& rests() { return rests_; }
    const Rests& rests() const { return rests_; }

    Blocks& blocks() { return blocks_; }
    const Blocks& blocks() const { return blocks_; }
    size_t live() const { return live_; }
    uint64_t born() const { return born_; }
    uint64_t refused() const { return refused_; }
    /// Of the last so many steps.
    static constexpr size_t lately_steps = 60;
    uint64_t refused_lately() const { return refused_ - refused_then_[lately_]; }
    size_t bytes() const { return (blocks_.size() + spare_.size()) * sizeof(ParticleBlock); }

  private:
    std::unique_ptr<ParticleBlock> fresh_block();
    void append(const ParticleBlock& newborns);

    Blocks blocks_;
    Rests rests_;
    Blocks spare_; // a few empty ones to reuse
    size_t live_ = 0;
    BirthDebt debt_;
    uint64_t born_ = 0;
    uint64_t refused_ = 0;
    std::array<uint64_t, lately_steps> refused_then_{}; // after each of the last steps, in a ring
    size_t lately_ = 0;                                 // the oldest of them
};

} // namespace ember
