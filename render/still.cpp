#include "render/still.h"

#include "core/assets/image.h"
#include "render/png.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// Draws until the stage is smooth.
void draw_smooth(Renderer& renderer, const Frame& frame, const Effect& effect, const Camera& camera,
                 const StillOptions& options, Picture& picture) {
    do {
        renderer.draw(frame, effect, camera, options.width, options.height, picture);
    } while (!renderer.is_settled());
}

void each_pixel(const LightPlanes& light, auto visit) {
    for (int y = 0; y < light.height; ++y) {
        for (int x = 0; x < light.width; ++x) {
            visit(size_t(y) * size_t(light.width) + size_t(x), size_t(y) * size_t(light.stride) + size_t(x));
        }
    }
}

// What lets nothing through of a white light behind it.
std::vector<float> opacities(Renderer& renderer, const Frame& frame, Effect effect, const Camera& camera,
                             const StillOptions& options) {
    effect.stage.bloom = effect.stage.glare = 0;
    Picture ignored;
    std::vector<float> opacity(size_t(options.width) * size_t(options.height), 1);
    for (const float backdrop : {1.0f, 0.0f}) {
        renderer.set_backdrop(backdrop);
        renderer.draw(frame, effect, camera, options.width, options.height, ignored);
        const LightPlanes light = renderer.light();
        each_pixel(light, [&](size_t i, size_t at) {
            opacity[i] += light.green[at] * (backdrop > 0 ? -1.0f : 1.0f);
        });
    }
    for (float& each : opacity) {
        each = std::clamp(each, 0.0f, 1.0f);
    }
    return opacity;
}

} // namespace

std::optional<Problem> save_still(const Frame& frame, const Effect& effect, const Camera& camera,
                                  const StillOptions& options, const std::filesystem::path& path) {
    const bool is_exr = path.extension() == ".exr";
    Renderer renderer;
    Picture picture;
    std::vector<float> opacity;
    if (options.is_alone) {
        opacity = opacities(renderer, frame, effect, camera, options);
        renderer.draw(frame, effect, camera, options.width, options.height, picture);
    } else {
        draw_smooth(renderer, frame, effect, camera, options, picture);
        if (!is_exr) {
            return write_png(picture, path);
        }
    }
    Image image{options.width, options.height, std::vector<Colour>(picture.pixels.size())};
    if (is_exr) {
        const LightPlanes light = renderer.light();
        const float exposure = std::exp2(effect.stage.exposure);
        each_pixel(light, [&](size_t i, size_t at) {
            image.pixels[i] = {light.red[at] * exposure, light.green[at] * exposure,
                               light.blue[at] * exposure, opacity.empty() ? 1 : opacity[i]};
        });
        return write_exr(image, path);
    }
    for (size_t i = 0; i < image.pixels.size(); ++i) {
        const auto part = [&](int shift) { return light_of(float(picture.pixels[i] >> shift & 255u) / 255); };
        const Colour shown = {part(16), part(8), part(0), 1};
        const float alpha = std::max({opacity[i], shown.red, shown.green, shown.blue});
        const float by = 1 / std::max(alpha, 1e-4f);
        image.pixels[i] = {shown.red * by, shown.green * by, shown.blue * by, alpha};
    }
    return write_png(image, PngDepth::bits8, path);
}

} // namespace ember
