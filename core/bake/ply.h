// Particles as a PLY file (binary, little endian), one vertex each.
#pragma once

#include "core/base/problem.h"
#include "core/runtime/simulation.h"

#include <filesystem>
#include <optional>

namespace ember {

/// Vertex properties: x y z (m) vx vy vz (m/s) age lifetime (s) size (m, with size over life) red green blue
/// alpha (linear light, with glow and opacity) as float, id source as unsigned int. `source` is the index
/// among the effect's sources; `id` is the particle's number in its source. Ordered by source, then id.
std::optional<Problem> write_ply(const Simulation& simulation, const std::filesystem::path& path);

} // namespace ember
