// Pieces of breakables as those see them who need no more than a box of each.
#pragma once

#include "core/base/axes.h"

#include <cstddef>
#include <cstdint>

namespace ember {

/// The box round a piece in the piece's own axes.
struct PieceBox {
    size_t element = 0;  // the breakable's index in Effect::elements
    uint32_t number = 0; // of the breakable's pieces: the same from step to step
    Placement placement; // of the box's middle
    Vec3 half_size;      // m
};

} // namespace ember
