// How something moves from frame to frame, with as few keys as show it.
#pragma once

#include "core/base/axes.h"

#include <vector>

namespace ember {

struct MotionKey {
    int frame = 0;
    Vec3 place;
    Quaternion turn;
    float size = 1;
};

/// Of keys of frames that follow one another those, taken greedily, between which all others lie within 1 mm,
/// 0.1 degrees and 0.4 % of the size `whole`.
std::vector<MotionKey> thinned(const std::vector<MotionKey>& keys, float whole = 1);

} // namespace ember
