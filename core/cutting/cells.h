// The cells of a cut: where its planes lie.
#pragma once

#include "core/cutting/closed_mesh.h"
#include "core/cutting/cut.h"

#include <functional>

namespace ember {

/// Cells that together fill the box of a mesh; numbers of cuts begin at `first_cut` and are raised. Nothing
/// if `goes_on` says no.
std::optional<std::vector<Cell>> cells_of(const ClosedMesh& mesh, const CutOrder& order, int32_t& first_cut,
                                          const std::function<bool(float)>& goes_on);

} // namespace ember
