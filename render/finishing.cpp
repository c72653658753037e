#include "render/finishing.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

constexpr auto planes = {&LightPlanes::red, &LightPlanes::green, &LightPlanes::blue};

void fill(LightPlanes& light, float value) {
    for (const auto plane : planes) {
        std::fill_n((light.*plane).data(), (light.*plane).size(), value);
    }
}

void copy(const LightPlanes& from, LightPlanes& to) {
    for (const auto plane : planes) {
        std::copy_n((from.*plane).data(), (from.*plane).size(), (to.*plane).data());
    }
}

} // namespace

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
        for (const auto plane : planes) {
            const float* source = (from.*plane).data();
            kernels.halve_row(source + upper, source + lower, half.width, threshold,
                              (half.*plane).data() + size_t(y) * size_t(half.stride));
        }
    });
}

void FocusPicture::draw(const StagePicture& stage, bool changed, const Stage& settings, const Camera& camera,
                        const RenderKernels& kernels) {
    const bool same = !changed && aperture_ == settings.aperture && focus_ == settings.focus;
    aperture_ = settings.aperture;
    focus_ = settings.focus;
    if (!is_on() || same) {
        return;
    }
    const ViewAxes view = axes_of(camera);
    const LightPlanes& sharp = stage.light();
    const float focus_m = std::max(dot(focus_ - view.eye, view.forward), 0.05f);
    const float aperture_px = aperture_ * 1e-3f * view.focal * float(sharp.height) * 0.5f / focus_m;

    // A level is as blurred as a disc of two pixels to the power of its number; no more are made than the
    // widest blur needs.
    size_t count = 1;
    while (count < 7 && 0.5f * aperture_px > float(1 << (count - 1)) &&
           std::min(sharp.width, sharp.height) >> count >= 4) {
        ++count;
    }
    levels_.resize(count);
    enlarged_.resize(count);
    levels_[0].resize(sharp.width, sharp.height);
    for (size_t level = 1; level < count; ++level) {
        halve(kernels, level == 1 ? sharp : levels_[level - 1], 0, levels_[level]);
    }
    if (count == 1) {
        copy(sharp, levels_[0]);
    }
    const float* depths = stage.depth().data();
    for (size_t level = count - 1; level-- > 0;) {
        LightPlanes& to = levels_[level];
        LightPlanes& wide = enlarged_[level];
        wide.resize(to.width, to.height);
        const FocusBlur blur = {0.5f * aperture_px, focus_m, 1 / float(1 << level)};
        tbb::parallel_for(0, to.height, [&](int y) {
            const size_t row = size_t(y) * size_t(to.stride);
            for (const auto plane : planes) {
                std::fill_n((wide.*plane).data() + row, size_t(to.width), 0.0f);
            }
            add_enlarged(kernels, levels_[level + 1], 1, y, {wide, y});
            thread_local FloatPlane depth{0}, share{1};
            depth.resize(size_t(to.stride));
            share.resize(size_t(to.stride));
            const float* from = depths + (size_t(y) << level) * size_t(sharp.stride);
            for (int x = 0; x < to.width; ++x) {
                depth.data()[x] = from[size_t(x) << level];
            }
            kernels.blur_row(depth.data(), to.width, blur, share.data());
            const LightPlanes& own = level == 0 ? sharp : to;
            for (const auto plane : planes) {
                kernels.mix_row(share.data(), (own.*plane).data() + row, (wide.*plane).data() + row, to.width,
                                (to.*plane).data() + row);
            }
        });
    }
}

size_t FocusPicture::bytes() const {
    size_t bytes = 0;
    for (const auto* list : {&levels_, &enlarged_}) {
        for (const LightPlanes& level : *list) {
            bytes += level.bytes();
        }
    }
    return bytes;
}

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
                for (const auto plane : planes) {
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
            for (const auto plane : planes) {
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
