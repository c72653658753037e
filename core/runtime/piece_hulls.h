// Pieces of breakables, live and played, as particles meet them: the convex body round each piece, as it
// moves within a step.
#pragma once

#include "core/blocks/block_kernels.h"
#include "core/debris/hull_tables.h"
#include "core/debris/piece_push.h"
#include "core/scene/program.h"

#include <array>
#include <optional>
#include <span>
#include <utility>
#include <vector>

namespace ember {

/// Pieces within one step. Reading it from several threads at once is safe.
class PieceHulls {
  public:
    PieceHulls() = default;
    /// From the pieces as they are at both ends of a step; what is only there at its end stands still. The
    /// tables have to outlive this.
    PieceHulls(std::span<const FrameDebris> before, std::span<const FrameDebris> after, HullTables& tables,
               double step_s);

    /// Lets the particles of a block hit the pieces of a breakable (its element's index), or all: each at
    /// most the one that its path meets first. `surface`: what a hit does; `impacts`: how each was met;
    /// `pushes` receives what pieces feel of it.
    void collide(const ColliderRow& surface, const MetPieces& met, const PathStarts& starts, float step_s,
                 ParticleBlock& block, Impacts& impacts, std::vector<PiecePush>& pushes,
                 const BlockKernels& kernels) const;

    /// The piece that a particle of this radius (m) touches, at the start of the step or at its end, as it
    /// moves; nullptr where there is none.
    const ColliderRow* touching(const Vec3& place, float radius, bool at_end, std::optional<size_t> of) const;

  private:
    struct Hull {
        uint32_t number = 0; // of the breakable's pieces
        ColliderRow row{};
    };
    struct Box { // of all places that a hull has within the step
        Vec3 low, high;
        size_t breakable = 0;
    };
    class Pairs;
    struct Gathered;
    struct Cells {
        Vec3 low, per_cell; // m, 1/m
        int counts[3] = {1, 1, 1};

        /// The cell that has a place; the nearest for what is outside.
        std::array<int, 3> at(const Vec3& place) const;
        /// `visit(cell)` for those that a box lies in, if there are not more than `most`; else false.
        template <class Visit>
        bool each(const Vec3& low, const Vec3& high, size_t most, Visit visit) const;
    };
    void sort_into_cells();
    static void add_push(const Hull& hull, const Box& box, std::span<const uint32_t> particles,
                         const ParticleBlock& before, const ParticleBlock& after, float kg,
                         std::vector<PiecePush>& pushes);
    template <class Visit>
    void each_near(const Vec3& low, const Vec3& high, std::optional<size_t> of, Visit visit) const;

    std::vector<Hull> hulls_;
    std::vector<Box> boxes_; // of the hulls
    Cells cells_;
    std::vector<uint32_t> starts_; // of each cell, in `in_cells_`, and the end
    std::vector<uint32_t> in_cells_;
};

} // namespace ember
