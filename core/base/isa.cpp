#include "core/base/isa.h"

namespace ember {

Isa best_isa() {
    return __builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma") ? Isa::avx2 : Isa::v2;
}

std::string_view name_of(Isa isa) {
    switch (isa) {
    case Isa::scalar:
        return "scalar";
    case Isa::v2:
        return "x86-64-v2";
    case Isa::avx2:
        return "AVX2+FMA";
    }
    return "";
}

} // namespace ember
