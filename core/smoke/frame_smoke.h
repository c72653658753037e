// Smoke as a picture needs it.
#pragma once

#include "core/smoke/smoke_size.h"

#include <vector>

namespace ember {

/// Of one volume.
struct FrameSmoke {
    size_t element = 0; // index in Effect::elements
    SmokeSize size;
    std::vector<float> density; // of the cells, x fastest, then y
    std::vector<float> heat;    // K, the same; empty if nothing glows
};

} // namespace ember
