#include "render/glare.h"

#include "render/light_levels.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

void fill(LightPlanes& light, float value) {
    for (const auto plane : light_planes) {
        std::fill_n((light.*plane).data(), (light.*plane).size(), value);
    }
}

} // namespace

// Each ray is drawn by a few passes, each of which joins a handful of places that lie four times as far apart
// as in the pass before (M. Kawase, "Frame Buffer Postprocessing Effects", GDC 2003).
void Glare::gather(const LightPlanes& light, const Stage& stage, const RenderKernels& kernels) {
    is_on_ = stage.glare > 0 && std::min(light.width, light.height) >= 16;
    if (!is_on_) {
        return;
    }
    constexpr int taps = 4;
    halve(kernels, light, stage.bloom_threshold, half_);
    halve(kernels, half_, 0, bright_);
    for (LightPlanes* each : {&ray_, &next_, &sum_}) {
        each->resize(bright_.width, bright_.height);
    }
    fill(sum_, 0);
    const float reach = std::max(stage.glare_length, 0.01f) * float(bright_.width); // to a 1/e-th
    int passes = 1;
    for (float way = taps; way < reach * 2 && passes < 5; way *= taps) {
        ++passes;
    }
    for (int r = 0; r < stage.glare_rays; ++r) {
        const float angle = (stage.glare_angle + 360.0f * float(r) / float(stage.glare_rays)) *
                            std::numbers::pi_v<float> / 180;
        const float across = std::cos(angle), down = -std::sin(angle);
        const LightPlanes* from = &bright_;
        float apart = 1;
        for (int pass = 0; pass < passes; ++pass, apart *= taps) {
            LightPlanes& to = pass % 2 == 0 ? ray_ : next_;
            float weights[taps], weight_sum = 0;
            for (int tap = 0; tap < taps; ++tap) {
                weights[tap] = std::exp(-apart * float(tap) / reach);
                weight_sum += weights[tap];
            }
            tbb::parallel_for(0, to.height, [&](int y) {
                for (const auto plane : light_planes) {
                    float* out = (to.*plane).data() + size_t(y) * size_t(to.stride);
                    std::fill_n(out, size_t(to.width), 0.0f);
                    for (int tap = 0; tap < taps; ++tap) {
                        const int dx = int(std::lround(across * apart * float(tap)));
                        const int source_y = y - int(std::lround(down * apart * float(tap)));
                        if (source_y < 0 || source_y >= to.height) {
                            continue;
                        }
                        const float* in = (from->*plane).data() + size_t(source_y) * size_t(from->stride);
                        const float weight = weights[tap] / weight_sum;
                        const int first = std::max(dx, 0), last = std::min(to.width + dx, to.width);
                        if (first < last) {
                            kernels.add_row(in + first - dx, weight, last - first, out + first);
                        }
                    }
                }
            });
            from = &to;
        }
        tbb::parallel_for(0, sum_.height, [&](int y) {
            const size_t row = size_t(y) * size_t(sum_.stride);
            for (const auto plane : light_planes) {
                kernels.add_row((from->*plane).data() + row, 1, sum_.width, (sum_.*plane).data() + row);
            }
        });
    }
    fill(half_, 0);
    // The light of one bright place is shared by its rays.
    const float gain = 4 / float(stage.glare_rays);
    tbb::parallel_for(0, half_.height, [&](int y) { add_enlarged(kernels, sum_, gain, y, {half_, y}); });
}

size_t Glare::bytes() const {
    return half_.bytes() + bright_.bytes() + ray_.bytes() + next_.bytes() + sum_.bytes();
}

} // namespace ember
