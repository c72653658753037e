// What forces do, or what smoke is, at places: for lenses that look at them.
#pragma once

#include "core/scene/program.h"

#include <memory>
#include <optional>
#include <string>
#include <vector>

namespace ember {

/// What of the volumes of smoke is read: density; how the gas flows; what flows out of each cell, as the
/// pressure's solver left it and as it is found in the velocities afterwards.
enum class SmokeAspect { density, flow, remains, outflow };

/// What to read: of one influence (by its id; empty: the sum of all) on a source (empty: the first that it
/// acts on).
struct FieldOrder {
    std::string influence;
    std::string source;
    std::vector<Vec3> places;
    std::vector<Vec3> seeds; // of streamlines
    int line_steps = 0;
    float line_step = 0;              // m
    std::optional<SmokeAspect> smoke; // this, and no force
    bool operator==(const FieldOrder&) const = default;
};

struct FieldReading {
    FieldOrder order;
    std::vector<Vec3> vectors;     // for each place, m/s^2 on a particle at rest with a mass of 1
    std::vector<Vec3> line_points; // seed after seed, line_steps + 1 of each
    std::vector<float> amounts;    // of smoke, for each place: NaN outside of all volumes; m/s but of density
};

/// Empty vectors if nothing acts. What particles do to one another is left out.
FieldReading read_field(const PreparedEffect& prepared, const WindowGrids& windows, const StepTime& time,
                        const FieldOrder& order, const BlockKernels& kernels);

} // namespace ember
