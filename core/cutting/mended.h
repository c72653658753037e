// Meshes that are to be cut: whether they have an inside, and small repairs.
#pragma once

#include "core/base/problem.h"
#include "core/cutting/closed_mesh.h"

#include <optional>

namespace ember {

/// The mesh as one with an inside. Small flat holes are closed, which is said in `problems`; what is open,
/// flat, crosses itself or is too large is refused, and said there.
std::optional<ClosedMesh> mended(const Mesh& mesh, Problems& problems);

} // namespace ember
