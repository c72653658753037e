// Breakables as a picture needs them.
#pragma once

#include "core/base/axes.h"
#include "core/cutting/cut.h"

#include <memory>
#include <vector>

namespace ember {

/// A piece of a cut, where it is.
struct FramePiece {
    uint32_t piece = 0;  // of the cut
    uint32_t number = 0; // of the breakable's pieces: the same from frame to frame
    Placement placement;
    float size = 1; // of its own, 0..1
    float opacity = 1;
};

/// The pieces of one breakable, of one cut.
struct FrameDebris {
    size_t element = 0; // index in Effect::elements
    std::shared_ptr<const Cut> cut;
    std::vector<FramePiece> pieces;
};

} // namespace ember
