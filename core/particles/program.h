// The board, compiled for one step: for each source the rows of data that its particles run through.
#pragma once

#include "core/effect/effect.h"
#include "kernels/rows.h"

#include <vector>

namespace ember {

/// A row and the element it stands for (index in Effect::elements), so that its cost finds its way back.
template <class Row>
struct Influence {
    size_t element = 0;
    Row row{};
};

struct SourceProgram {
    size_t element = 0;
    BirthRow birth{};
    double rate = 0;                               // 1/s
    size_t capacity = 0;                           // particles
    std::vector<Influence<ForceRow>> forces;       // in the order of the board
    std::vector<Influence<ColliderRow>> colliders; // in the order of the board
};

/// The active sources with their active influences, as they are at `time_s` (`step`: number of the step).
/// Weights are applied here and nowhere else.
std::vector<SourceProgram> compiled(const Effect& effect, double time_s, uint64_t step);

/// Axes of length 1 that result from turning x, y, z by degrees about x, then y, then z.
struct Axes {
    Vec3 x, y, z;
};
Axes turned_axes(const Vec3& degrees);

/// The strength of a gust at `time_s`: smooth in time, between -1 and 1.
float gust(double time_s, double period_s, uint32_t seed);

} // namespace ember
