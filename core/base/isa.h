// Instruction sets that the kernels are built for.
#pragma once

#include <string_view>

namespace ember {

enum class Isa { scalar, v2, avx2 };

/// The fastest instruction set that this processor has.
Isa best_isa();

/// "scalar", "x86-64-v2" or "AVX2+FMA".
std::string_view name_of(Isa isa);

} // namespace ember
