// The pieces of breakables, live and played, as boxes that hold smoke.
#pragma once

#include "core/debris/frame_debris.h"
#include "core/scene/piece_box.h"

namespace ember {

/// Of all pieces that have not faded or shrunk away.
std::vector<PieceBox> piece_boxes(const std::vector<FrameDebris>& breakables);

} // namespace ember
