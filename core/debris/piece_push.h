// What pieces of breakables feel of what hits them.
#pragma once

#include "kernels/vec3.h"

#include <cstddef>
#include <cstdint>

namespace ember {

struct PiecePush {
    size_t breakable = 0; // its index in Effect::elements
    uint32_t number = 0;  // of the breakable's pieces
    Vec3 impulse;         // N s
    Vec3 place;           // m
};

} // namespace ember
