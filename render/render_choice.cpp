#include "render/cloud_kernels.h"
#include "render/render_kernels.h"

namespace ember {

namespace v2 {
extern const RenderKernels render_set;
extern const CloudKernels cloud_set;
} // namespace v2
namespace avx2 {
extern const RenderKernels render_set;
extern const CloudKernels cloud_set;
} // namespace avx2

const RenderKernels& render_kernels(Isa isa) {
    return isa == Isa::avx2 ? avx2::render_set : v2::render_set;
}

const CloudKernels& cloud_kernels(Isa isa) {
    return isa == Isa::avx2 ? avx2::cloud_set : v2::cloud_set;
}

void FloatPlane::resize(size_t size) {
    if (size == size_) {
        return;
    }
    constexpr size_t alignment = 16; // floats
    memory_ = std::make_unique<float[]>(size + shift_ + alignment);
    const auto address = reinterpret_cast<uintptr_t>(memory_.get());
    const size_t to_boundary = (64 - address % 64) % 64 / sizeof(float);
    start_ = memory_.get() + to_boundary + shift_;
    size_ = size;
}

void LightPlanes::resize(int new_width, int new_height) {
    width = new_width;
    height = new_height;
    stride = (new_width + 15) / 16 * 16;
    for (FloatPlane* plane : {&red, &green, &blue}) {
        plane->resize(size_t(stride) * size_t(new_height));
    }
}

} // namespace ember
