// What the gathering and the drawing of things both know: how lists are made of chunks.
#pragma once

#include "core/blocks/block.h"
#include "render/things.h"

namespace ember {

constexpr size_t blocks_a_chunk = 8;
constexpr size_t chunk_size = blocks_a_chunk * block_size;
static_assert(most_copies < blocks_a_chunk);

} // namespace ember
