#include "render/light_levels.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>

namespace ember {

void add_enlarged(const RenderKernels& kernels, const LightPlanes& from, float gain, int y,
                  const LightRow& to) {
    thread_local std::vector<float> scratch;
    scratch.resize(size_t(from.width) + 2);
    const int near = std::min(y / 2, from.height - 1);
    const int far = std::clamp(y % 2 == 0 ? near - 1 : near + 1, 0, from.height - 1);
    const auto add = [&](const FloatPlane& plane, float* row) {
        kernels.enlarge_row(plane.data() + size_t(near) * size_t(from.stride),
                            plane.data() + size_t(far) * size_t(from.stride), from.width, to.width, gain,
                            scratch.data(), row);
    };
    add(from.red, to.red);
    add(from.green, to.green);
    add(from.blue, to.blue);
}

void halve(const RenderKernels& kernels, const LightPlanes& from, float threshold, LightPlanes& half) {
    half.resize(std::max(from.width / 2, 1), std::max(from.height / 2, 1));
    tbb::parallel_for(0, half.height, [&](int y) {
        const size_t upper = size_t(2 * y) * size_t(from.stride);
        const size_t lower = size_t(std::min(2 * y + 1, from.height - 1)) * size_t(from.stride);
        for (const auto plane : light_planes) {
            const float* source = (from.*plane).data();
            kernels.halve_row(source + upper, source + lower, half.width, threshold,
                              (half.*plane).data() + size_t(y) * size_t(half.stride));
        }
    });
}

} // namespace ember
