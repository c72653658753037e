// Smoke as a picture needs it.
#pragma once

#include "core/effect/smoke_size.h"

#include <cstdint>
#include <vector>

namespace ember {

/// Of one volume.
struct FrameSmoke {
    size_t element = 0; // index in Effect::elements
    SmokeSize size;
    uint64_t moves = 0;         // how often it has moved on
    std::vector<float> density; // of the cells, x fastest, then y
    std::vector<float> heat;    // K, the same; empty if nothing glows
};

} // namespace ember
