// Gas that solid cells enclose.
#pragma once

#include "core/effect/smoke_size.h"

#include <cstdint>
#include <vector>

namespace ember {

/// Cells of a row, from `low` to before `high`.
struct CellSpan {
    int low, high, y, z;
};

/// The gas from which no way leads to an open side of the volume; if all sides are closed, all but the
/// largest part of it. No pressure could be found in it that lets what encloses it move.
std::vector<CellSpan> enclosed_gas(const SmokeSize& size, SmokeSides sides,
                                   const std::vector<uint16_t>& solid);

} // namespace ember
