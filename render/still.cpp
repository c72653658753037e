#include "render/still.h"

#include "core/assets/image.h"
#include "core/base/memory.h"
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

uint64_t still_bytes(const Frame& frame, const Effect& effect, const StillOptions& options) {
    constexpr uint64_t of_a_pixel = 120; // as measured, pictures of 1024 to 4096 pixels a side
    constexpr uint64_t of_a_triangle = 130, of_a_dot = 64;
    constexpr uint64_t triangles_of_a_body = 12; // at least
    uint64_t bytes = uint64_t(options.width) * uint64_t(options.height) * of_a_pixel;
    for (const FrameSource& source : frame.sources) {
        const auto* emitter = std::get_if<Emitter>(&effect.elements[source.element].body);
        const Look* look = emitter != nullptr ? find_look(effect, emitter->look) : nullptr;
        const bool is_body = look != nullptr && look->drawn_as == Drawing::meshes;
        const uint64_t shown = source.particles.size() * uint64_t(1 + (look != nullptr ? look->copies : 0));
        bytes += shown * (is_body ? triangles_of_a_body * of_a_triangle : of_a_dot);
    }
    return bytes;
}

void draw_still(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height,
                Picture& picture) {
    Renderer renderer;
    draw_smooth(renderer, frame, effect, camera, {width, height}, picture);
}

std::optional<Problem> save_still(const Frame& frame, const Effect& effect, const Camera& camera,
                                  const StillOptions& options, const std::filesystem::path& path) {
    const bool is_exr = path.extension() == ".exr";
    const uint64_t needed = still_bytes(frame, effect, options), free = free_memory();
    if (needed > free - free / 8) {
        return Problem{path.string(), 0, "",
                       "a picture that takes about " + std::to_string(needed / 1'000'000'000) +
                           " GB to draw, of " + std::to_string(free / 1'000'000'000) + " GB that are free",
                       "a smaller picture, fewer particles, or dots in place of meshes"};
    }
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
