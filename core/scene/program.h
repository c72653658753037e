// The board, compiled for one step: for each source the rows of data that its particles run through.
#pragma once

#include "core/base/axes.h"
#include "core/blocks/block_kernels.h"
#include "core/scene/placements.h"
#include "kernels/rows.h"

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace ember {

/// Of a hull: whose pieces it is, and what they feel of a particle.
struct MetPieces {
    std::optional<size_t> of; // the breakable's index; nothing: of all
    float push_kg = 0;
};

/// A row and the element it stands for (index in Effect::elements), so that its cost finds its way back.
template <class Row>
struct Influence {
    size_t element = 0;
    Row row{};
    float weight = 1; // of the link
    MetPieces pieces = {};
};

struct SourceProgram {
    size_t element = 0;
    BirthRow birth{};
    Placement from, to; // of the birth shape, at the ends of the step
    double start_s = 0; // when births begin
    LifeUse life;
    std::vector<Influence<ForceRow>> forces;       // in the order of the board
    std::vector<Influence<ColliderRow>> colliders; // in the order of the board
    bool is_sticky = false;                        // one of the colliders holds what hits it

    const Emitter* emitter = nullptr; // these two live as long as the prepared effect
    const PreparedElement* ready = nullptr;
};

/// Grids of colliders that follow a mover or what stands on the stage, and of smoke that carries particles,
/// by the element's index; see core/scene/windows.h.
using WindowGrids = std::map<size_t, std::shared_ptr<const GridTable>>;

/// The active sources with their active influences. Forces are as they are in the middle of the step,
/// colliders as they are at its end. Weights are applied here and nowhere else. `blasts`: those that go off
/// in the step, by their elements' indices.
std::vector<SourceProgram> compiled(const PreparedEffect& prepared, const WindowGrids& windows,
                                    const StepTime& time, const StepPlacements& placed,
                                    const std::vector<size_t>& blasts = {});

/// What acts on the pieces of a breakable or on a volume of smoke: a program without births. They are pushed
/// as particles of mass 1 are.
SourceProgram compiled_for(const PreparedEffect& prepared, const WindowGrids& windows, const StepTime& time,
                           const StepPlacements& placed, size_t element);

/// The reach of an influence as it is at `placements`.
ReachRow reach_row(const PreparedEffect& prepared, const std::vector<Placement>& placements, size_t element);

/// Where a collider is at the end of a step, and how it has come there.
void set_motion(ColliderRow& row, const Placement& from, const Placement& to, double step_s);

/// The row of a collider, with full weight, as it is when it goes from one place to another within a step.
/// False for one that lacks what it needs, and for what is no solid collider.
bool collider_row(const PreparedEffect& prepared, size_t element, const WindowGrids& windows,
                  const Placement& from, const Placement& to, double step_s, ColliderRow& row);

/// The strength of a gust at a time of the run: smooth in time, between -1 and 1.
float gust(double run_s, double period_s, uint32_t seed);

} // namespace ember
