// Breakables: bodies that come apart, and what keeps their pieces or takes them away.
#pragma once

#include "core/effect/place.h"

namespace ember {

enum class BreakShape { block, mesh };
enum class CutPattern { even, graded, spokes, layers, courses };

} // namespace ember
