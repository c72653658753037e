#include "core/smoke/smoke_kernels.h"

namespace ember {

namespace scalar {
extern const SmokeKernels smoke_kernel_set;
}
namespace v2 {
extern const SmokeKernels smoke_kernel_set;
}
namespace avx2 {
extern const SmokeKernels smoke_kernel_set;
}

const SmokeKernels& smoke_kernels(Isa isa) {
    switch (isa) {
    case Isa::scalar:
        return scalar::smoke_kernel_set;
    case Isa::v2:
        return v2::smoke_kernel_set;
    case Isa::avx2:
        return avx2::smoke_kernel_set;
    }
    return v2::smoke_kernel_set;
}

} // namespace ember
