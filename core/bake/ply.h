// Particles as a PLY file (binary, little endian), one vertex each.
#pragma once

#include "core/base/problem.h"
#include "core/runtime/simulation.h"

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace ember {

/// Vertex properties: x y z (m) vx vy vz (m/s) age lifetime (s) size (m, with size over life) red green blue
/// alpha (linear light, with glow and opacity) born_size (m, before size over life) tint_red tint_green
/// tint_blue tint_alpha (its own, before the look) as float, id source as unsigned int. `source` is the index
/// among the effect's sources; `id` is the particle's number in its source. Ordered by source, then id.
/// Colours, sizes and opacity are those of the last step, driven. Copies that a look draws beside a particle
/// are not there. `sources`: ids of those that are written; empty: all.
std::optional<Problem> write_ply(const Simulation& simulation, const std::filesystem::path& path,
                                 const std::vector<std::string>& sources = {});

} // namespace ember
