// One block of particles through one step.
#pragma once

#include "core/runtime/children.h"
#include "core/runtime/piece_hulls.h"

namespace ember {

/// Processor time by element and by phase; each thread writes its own sheet.
struct CostSheet {
    explicit CostSheet(size_t elements) : element_ms(elements), source_ms(elements) {}

    std::vector<double> element_ms;
    std::vector<double> source_ms; // of the sources' blocks, by element
    double forces_ms = 0;
    double collision_ms = 0;
    double deaths_ms = 0;

    double total_ms() const { return forces_ms + collision_ms + deaths_ms; }
};

/// What a step needs to know about a source besides its rows.
struct BlockContext {
    const SourceProgram& program;
    size_t source;                // index of the running source
    EventUse events;              // which events are to be noted
    const ParentColours* colours; // not null if any are
    const std::vector<uint32_t>&
        sticking_numbers; // of the program's colliders; 0 for those that hold nothing
    const FoundPushes& found;
    const PieceHulls& pieces;
};

/// Forces, motion, collisions, deaths.
void step_block(const BlockContext& context, ParticleBlock& block, size_t block_index, float step_s,
                const BlockKernels& run, CostSheet& cost, ParticleEvents& events);

} // namespace ember
