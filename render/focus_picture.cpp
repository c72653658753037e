#include "render/focus_picture.h"

#include "render/light_levels.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>

namespace ember {

namespace {

void copy(const LightPlanes& from, LightPlanes& to) {
    for (const auto plane : light_planes) {
        std::copy_n((from.*plane).data(), (from.*plane).size(), (to.*plane).data());
    }
}

} // namespace

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
            for (const auto plane : light_planes) {
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
            for (const auto plane : light_planes) {
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

} // namespace ember
