#include "render/still.h"

#include "core/assets/image.h"
#include "core/base/memory.h"
#include "render/light_levels.h"
#include "render/png.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int part_grid = 64; // rows: parts begin where smoke's coarse picture and what is out of focus have
                              // whole cells
constexpr int overlap = 3 * part_grid; // rows beside a part that it is blurred with
constexpr int least_rows = 4 * part_grid;

// Bytes of a pixel, as measured on pictures of 1024 to 16384 pixels a side.
constexpr uint64_t while_drawn = 120, of_light = 12, of_opacity = 4;
constexpr uint64_t while_finished = 34, while_finished_with_opacity = 58, while_finished_as_exr = 56;

// What drawing the light takes besides pixels.
uint64_t bytes_of_things(const Frame& frame, const Effect& effect) {
    constexpr uint64_t of_a_triangle = 130, of_a_dot = 64;
    constexpr uint64_t triangles_of_a_body = 12; // at least
    uint64_t bytes = 0;
    for (const FrameSource& source : frame.sources) {
        const auto* emitter = std::get_if<Emitter>(&effect.elements[source.element].body);
        const Look* look = emitter != nullptr ? find_look(effect, emitter->look) : nullptr;
        const bool is_body = look != nullptr && look->drawn_as == Drawing::meshes;
        const uint64_t shown = source.particles.size() * uint64_t(1 + (look != nullptr ? look->copies : 0));
        bytes += shown * (is_body ? triangles_of_a_body * of_a_triangle : of_a_dot);
    }
    return bytes;
}

int rows_of_part(const StillOptions& options, int parts) {
    const int rows = (options.height + parts - 1) / parts;
    return parts == 1 ? rows : (rows + part_grid - 1) / part_grid * part_grid;
}

uint64_t bytes_of(const Frame& frame, const Effect& effect, const StillOptions& options, bool is_exr,
                  int parts) {
    const uint64_t across = uint64_t(options.width);
    const int with_overlap = std::min(rows_of_part(options, parts) + 2 * overlap, options.height);
    const uint64_t drawing = across * uint64_t(with_overlap) * while_drawn + bytes_of_things(frame, effect);
    const uint64_t pixels = across * uint64_t(options.height);
    const uint64_t finishing = pixels * (is_exr             ? while_finished_as_exr
                                         : options.is_alone ? while_finished_with_opacity
                                                            : while_finished);
    return pixels * (of_light + (options.is_alone ? of_opacity : 0)) + std::max(drawing, finishing);
}

int most_parts(const StillOptions& options) {
    return std::max(options.height / least_rows, 1);
}

uint64_t room_for(const StillOptions& options) {
    const uint64_t free = free_memory();
    return options.room.value_or(free - free / 8);
}

void each_pixel(const LightPlanes& light, auto visit) {
    for (int y = 0; y < light.height; ++y) {
        for (int x = 0; x < light.width; ++x) {
            visit(size_t(y) * size_t(light.width) + size_t(x), size_t(y) * size_t(light.stride) + size_t(x));
        }
    }
}

// A still before its finishing.
struct StillLight {
    LightPlanes light;
    std::vector<float> opacity; // row by row; empty unless it is alone
};

// Of what is alone, before white and before black.
struct Painters {
    Renderer &on_stage, &on_white, &on_black;
};

StillLight light_of_still(const Frame& frame, const Effect& effect, Camera camera,
                          const StillOptions& options, int parts, const Painters& painters) {
    StillLight still;
    still.light.resize(options.width, options.height);
    if (options.is_alone) {
        still.opacity.assign(size_t(options.width) * size_t(options.height), 1);
    }
    const int rows = rows_of_part(options, parts);
    for (int top = 0; top < options.height; top += rows) {
        const int bottom = std::min(top + rows, options.height);
        const int first = std::max(top - overlap, 0), last = std::min(bottom + overlap, options.height);
        camera.rows = {first, last - first, options.height};
        const auto draw = [&](Renderer& renderer) -> const LightPlanes& {
            return renderer.draw_light(frame, effect, camera, options.width, last - first, true);
        };
        const auto each_row = [&](const LightPlanes& drawn, auto visit) {
            for (int y = top; y < bottom; ++y) {
                visit(size_t(y), size_t(y - first) * size_t(drawn.stride));
            }
        };
        // Opacity is what lets nothing through of a white light behind it. What only glows has none, but for
        // the last digits of light that is taken from light.
        constexpr float noise = 1e-4f;
        if (options.is_alone) {
            painters.on_white.set_backdrop(1.0f);
            const LightPlanes& on_white = draw(painters.on_white);
            each_row(on_white, [&](size_t y, size_t from) {
                for (size_t x = 0; x < size_t(options.width); ++x) {
                    still.opacity[y * size_t(options.width) + x] -= on_white.green[from + x];
                }
            });
            painters.on_black.set_backdrop(0.0f);
        }
        const LightPlanes& drawn = draw(options.is_alone ? painters.on_black : painters.on_stage);
        each_row(drawn, [&](size_t y, size_t from) {
            for (const auto plane : light_planes) {
                std::copy_n((drawn.*plane).data() + from, options.width,
                            (still.light.*plane).data() + y * size_t(still.light.stride));
            }
            if (options.is_alone) {
                for (size_t x = 0; x < size_t(options.width); ++x) {
                    float& opacity = still.opacity[y * size_t(options.width) + x];
                    opacity = std::clamp(opacity + drawn.green[from + x], 0.0f, 1.0f);
                    opacity = opacity < noise ? 0.0f : opacity;
                }
            }
        });
    }
    return still;
}

} // namespace

std::optional<int> parts_of_still(const Frame& frame, const Effect& effect, const StillOptions& options,
                                  bool is_exr) {
    const uint64_t room = room_for(options);
    for (int parts = 1; parts <= most_parts(options); ++parts) {
        if (bytes_of(frame, effect, options, is_exr, parts) <= room) {
            return parts;
        }
    }
    return {};
}

StillPainter::StillPainter() : finishing_(render_kernels(best_isa())) {}

Still StillPainter::draw(const Frame& frame, const Effect& effect, const Camera& camera,
                         const StillOptions& options, StillKind kind, int parts) {
    const StillLight drawn =
        light_of_still(frame, effect, camera, options, parts, {on_stage_, on_white_, on_black_});
    is_alone_ = options.is_alone;
    Still still{kind, {}, {}};
    Image& image = still.image;
    if (kind == StillKind::deep) {
        image = finishing_.finish_deep(drawn.light, effect.stage, uint32_t(frame.step));
    } else {
        finishing_.finish(drawn.light, effect.stage, uint32_t(frame.step), still.picture);
        if (kind == StillKind::finished && !options.is_alone) {
            return still;
        }
        image = {options.width, options.height, std::vector<Colour>(still.picture.pixels.size())};
    }
    const auto opacity_of = [&](size_t i) { return options.is_alone ? drawn.opacity[i] : 1; };
    if (kind == StillKind::light) {
        const LightPlanes light = finishing_.spread(drawn.light);
        const float exposure = std::exp2(effect.stage.exposure);
        each_pixel(light, [&](size_t i, size_t at) {
            image.pixels[i] = {light.red[at] * exposure, light.green[at] * exposure,
                               light.blue[at] * exposure, opacity_of(i)};
        });
    } else if (options.is_alone) {
        for (size_t i = 0; i < image.pixels.size(); ++i) {
            const auto part = [&](int shift) {
                return light_of(float(still.picture.pixels[i] >> shift & 255u) / 255);
            };
            const Colour shown =
                kind == StillKind::deep ? image.pixels[i] : Colour{part(16), part(8), part(0), 1};
            const float alpha = std::max({opacity_of(i), shown.red, shown.green, shown.blue});
            const float by = 1 / std::max(alpha, 1e-4f);
            image.pixels[i] = {shown.red * by, shown.green * by, shown.blue * by, alpha};
        }
    }
    still.picture = {};
    return still;
}

void draw_still(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height,
                Picture& picture) {
    picture =
        StillPainter().draw(frame, effect, camera, {width, height, false, {}}, StillKind::finished).picture;
}

std::optional<Problem> write_still(const Still& still, PngDepth depth, const std::filesystem::path& path) {
    if (still.kind == StillKind::light) {
        return write_exr(still.image, path);
    }
    return still.picture.pixels.empty() ? write_png(still.image, depth, path)
                                        : write_png(still.picture, path);
}

std::optional<Problem> save_still(const Frame& frame, const Effect& effect, const Camera& camera,
                                  const StillOptions& options, const std::filesystem::path& path) {
    const bool is_exr = path.extension() == ".exr";
    const std::optional<int> parts = parts_of_still(frame, effect, options, is_exr);
    if (!parts) {
        const auto gigabytes = [](uint64_t bytes) { return std::to_string(bytes / 1'000'000'000) + " GB"; };
        return Problem{path.string(), 0, "",
                       "a picture that takes about " +
                           gigabytes(bytes_of(frame, effect, options, is_exr, most_parts(options))) +
                           " to draw, of " + gigabytes(room_for(options)) + " that may be taken",
                       "a smaller picture, fewer particles, or dots in place of meshes"};
    }
    const Still still = StillPainter().draw(frame, effect, camera, options,
                                            is_exr ? StillKind::light : StillKind::finished, *parts);
    return write_still(still, PngDepth::bits8, path);
}

} // namespace ember
