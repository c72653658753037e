#include "core/blocks/block_kernels.h"

namespace ember {

namespace scalar {
extern const BlockKernels kernel_set;
}
namespace v2 {
extern const BlockKernels kernel_set;
}
namespace avx2 {
extern const BlockKernels kernel_set;
}

const BlockKernels& block_kernels(Isa isa) {
    switch (isa) {
    case Isa::scalar:
        return scalar::kernel_set;
    case Isa::v2:
        return v2::kernel_set;
    case Isa::avx2:
        return avx2::kernel_set;
    }
    return v2::kernel_set;
}

} // namespace ember
