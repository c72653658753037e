// How much memory there is.
#pragma once

#include <cstdint>

namespace ember {

/// Bytes that can still be taken without the system running short; as many as a number holds where that is
/// unknown.
uint64_t free_memory();

} // namespace ember
