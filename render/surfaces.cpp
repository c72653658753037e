#include "render/surfaces.h"

#include "core/base/hash.h"
#include "core/textures/texture_maker.h"

#include <algorithm>
#include <bit>
#include <cmath>

namespace ember {

namespace {

constexpr int made_side = 256;
constexpr int most_surface_side = 1024;

// The image at another size, each pixel the mean of what it covers.
Image resized(const Image& from, int width, int height) {
    if (from.width == width && from.height == height) {
        return from;
    }
    Image to{width, height, std::vector<Colour>(size_t(width) * size_t(height))};
    for (int y = 0; y < height; ++y) {
        for (int x = 0; x < width; ++x) {
            const int left = x * from.width / width, right = std::max((x + 1) * from.width / width, left + 1);
            const int top = y * from.height / height,
                      bottom = std::max((y + 1) * from.height / height, top + 1);
            Colour sum = {0, 0, 0, 0};
            for (int j = top; j < bottom; ++j) {
                for (int i = left; i < right; ++i) {
                    const Colour& c = from.at(i, j);
                    sum = {sum.red + c.red * c.alpha, sum.green + c.green * c.alpha,
                           sum.blue + c.blue * c.alpha, sum.alpha + c.alpha};
                }
            }
            const float by = 1 / std::max(sum.alpha, 1e-6f);
            to.pixels[size_t(y) * size_t(width) + size_t(x)] = {sum.red * by, sum.green * by, sum.blue * by,
                                                                sum.alpha /
                                                                    float((right - left) * (bottom - top))};
        }
    }
    return to;
}

int power_of_two(int side) {
    return int(std::bit_ceil(uint32_t(std::min(side, most_surface_side))));
}

std::vector<uint32_t> packed(const Image& image, float brightest) {
    std::vector<uint32_t> texels(image.pixels.size());
    std::transform(image.pixels.begin(), image.pixels.end(), texels.begin(), [&](const Colour& c) {
        const auto part = [&](float light, int shift) {
            return uint32_t(std::sqrt(std::clamp(light / brightest, 0.0f, 1.0f)) * 255 + 0.5f) << shift;
        };
        return part(c.red, 0) | part(c.green, 8) | part(c.blue, 16) |
               uint32_t(std::clamp(c.alpha, 0.0f, 1.0f) * 255 + 0.5f) << 24;
    });
    return texels;
}

std::unique_ptr<ReadyTexture> ready(const Texture& texture, const std::shared_ptr<const Image>& image) {
    auto made = std::make_unique<ReadyTexture>();
    made->texture = texture;
    made->image = image;
    Image level = made_texture(texture, made_side, image.get());
    level = resized(level, power_of_two(level.width), power_of_two(level.height));
    for (const Colour& c : level.pixels) {
        made->brightest = std::max({made->brightest, c.red, c.green, c.blue});
    }
    made->texels.log_width = std::countr_zero(uint32_t(level.width));
    made->texels.log_height = std::countr_zero(uint32_t(level.height));
    while (true) {
        made->levels.push_back(packed(level, made->brightest));
        if (level.width == 1 && level.height == 1) {
            break;
        }
        level = resized(level, std::max(level.width / 2, 1), std::max(level.height / 2, 1));
    }
    made->texels.count = int(made->levels.size());
    for (size_t i = 0; i < made->levels.size(); ++i) {
        made->texels.levels[i] = made->levels[i].data();
    }
    return made;
}

std::shared_ptr<const Image> image_of(const Texture& texture, const Frame& frame) {
    const std::vector<AssetNeed> needs = needs_of(texture);
    return needs.empty() || frame.assets == nullptr ? nullptr
                                                    : frame.assets->find<Image>(needs.front().key());
}

} // namespace

void Surfaces::begin(const Effect& effect, const Frame& frame) {
    std::vector<std::unique_ptr<ReadyTexture>> kept;
    for (const Texture& texture : effect.textures) {
        const auto image = image_of(texture, frame);
        const auto same = std::find_if(textures_.begin(), textures_.end(), [&](const auto& old) {
            return old != nullptr && old->texture == texture && old->image == image;
        });
        kept.push_back(same != textures_.end() ? std::move(*same) : ready(texture, image));
    }
    textures_ = std::move(kept);
    list_.assign(1, {});
}

uint32_t Surfaces::add(const Look& look) {
    DrawnSurface surface;
    if (!has_layers(look.drawn_as)) {
        return 0;
    }
    for (const Layer& layer : look.layers) {
        if (layer.from == LayerFrom::none) {
            continue;
        }
        SurfaceLayer& out = surface.layers[surface.count++];
        out.from = int(layer.from);
        out.combine = int(layer.combine);
        out.inverted = layer.inverted;
        out.tint = rgb(layer.tint) * layer.gain;
        out.tiling_x = layer.tiling_x;
        out.tiling_y = layer.tiling_y;
        out.per_edge = 1 / layer.edge_width;
        const auto texture = std::find_if(textures_.begin(), textures_.end(), [&](const auto& each) {
            return each->texture.id == layer.texture;
        });
        if (layer.from == LayerFrom::texture && texture != textures_.end()) {
            out.texels = (*texture)->texels;
            out.tint = out.tint * (*texture)->brightest;
            const bool is_sheet = (*texture)->texture.kind == TextureKind::image;
            out.columns = is_sheet ? float((*texture)->texture.columns) : 1;
            out.rows = is_sheet ? float((*texture)->texture.rows) : 1;
        }
    }
    if (surface.count == 0) {
        return 0;
    }
    list_.push_back(surface);
    return uint32_t(list_.size() - 1);
}

size_t Surfaces::bytes() const {
    size_t bytes = 0;
    for (const auto& texture : textures_) {
        for (const auto& level : texture->levels) {
            bytes += level.size() * sizeof(uint32_t);
        }
    }
    return bytes;
}

ReadyLayers ReadyLayers::of(const Look& look, const Effect& effect, double time_s) {
    ReadyLayers ready;
    ready.look = &look;
    ready.time_s = float(std::fmod(time_s, 10000.0));
    for (size_t number = 0; number < look.layers.size(); ++number) {
        const Layer& layer = look.layers[number];
        if (layer.from == LayerFrom::none) {
            continue;
        }
        ready.numbers.push_back(number);
        ready.strengths.push_back(sampled(layer.strength_over_life));
        const Texture* texture = find_texture(effect, layer.texture);
        const bool is_sheet = texture != nullptr && texture->kind == TextureKind::image;
        ready.frames.push_back(is_sheet ? float(texture->columns * texture->rows) : 1);
        const auto& strength = ready.strengths.back().values;
        ready.varies = ready.varies || layer.strength.low != layer.strength.high || layer.scatter != 0 ||
                       (is_sheet && layer.frame != SheetFrame::first) ||
                       std::any_of(strength.begin(), strength.end(),
                                   [&](float value) { return value != strength.front(); });
    }
    return ready;
}

Skin ReadyLayers::skin(uint32_t surface, uint32_t number, float age_share) const {
    Skin skin;
    skin.surface = surface;
    for (size_t i = 0; i < strengths.size(); ++i) {
        const Layer& layer = look->layers[numbers[i]];
        const auto random = [&](uint32_t what) {
            return float(mixed_seed(mixed_seed(number, uint32_t(numbers[i]) + 31), what) >> 8) / 16777216.0f;
        };
        const float strength = layer.strength.low + (layer.strength.high - layer.strength.low) * random(1);
        skin.strength[i] = strength * std::clamp(strengths[i].at(age_share), 0.0f, 1.0f);
        const auto shift = [&](float scroll, uint32_t what) {
            const float way = scroll * time_s + layer.scatter * random(what);
            return way - std::floor(way);
        };
        // What a surface shows moves against the shift.
        skin.shift_x[i] = -shift(layer.scroll_x, 2);
        skin.shift_y[i] = shift(layer.scroll_y, 3);
        const float last = frames[i] - 1;
        skin.frame[i] =
            layer.frame == SheetFrame::over_life ? std::min(std::floor(age_share * frames[i]), last)
            : layer.frame == SheetFrame::random  ? std::min(std::floor(random(4) * frames[i]), last)
                                                 : 0;
    }
    return skin;
}

} // namespace ember
