// The C++ view of rows.kern: what one influence or birth place looks like to a kernel.
#pragma once

#include "kernels/vec3.h"

#include <cstdint>

namespace ember {

using uni = float;
using uni3 = Vec3;
using unint = int32_t;
using unuint = uint32_t;
using TABLE = const float*;
#define KERNEL_CONST static constexpr

#include "kernels/rows.kern"

} // namespace ember
