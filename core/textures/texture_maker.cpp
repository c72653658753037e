#include "core/textures/texture_maker.h"

#include "core/base/hash.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

// 0..1, the same at places a whole number of periods apart.
float random_at(int x, int y, int period, uint32_t seed) {
    const auto wrapped = [period](int a) { return uint32_t((a % period + period) % period); };
    return float(mixed_seed(mixed_seed(seed, wrapped(x)), wrapped(y)) >> 8) / 16777216.0f;
}

float smooth(float t) {
    return t * t * t * (t * (t * 6 - 15) + 10); // K. Perlin, "Improving Noise", 2002
}

float between(float a, float b, float share) {
    return a + (b - a) * share;
}

// What the corners of a cell give to a place in it, mixed smoothly.
float of_corners(float x, float y, auto corner) {
    const float fx = std::floor(x), fy = std::floor(y);
    const float a = x - fx, b = y - fy;
    const int cx = int(fx), cy = int(fy);
    const float low = between(corner(cx, cy, a, b), corner(cx + 1, cy, a - 1, b), smooth(a));
    const float high = between(corner(cx, cy + 1, a, b - 1), corner(cx + 1, cy + 1, a - 1, b - 1), smooth(a));
    return between(low, high, smooth(b));
}

// -1..1, features one unit large, seamless over `period` units.
float value_noise(float x, float y, int period, uint32_t seed) {
    return of_corners(x, y,
                      [&](int cx, int cy, float, float) { return random_at(cx, cy, period, seed) * 2 - 1; });
}

float gradient_noise(float x, float y, int period, uint32_t seed) {
    return of_corners(x, y, [&](int cx, int cy, float dx, float dy) {
        const float turn = random_at(cx, cy, period, seed) * 2 * std::numbers::pi_v<float>;
        return (std::cos(turn) * dx + std::sin(turn) * dy) * std::numbers::sqrt2_v<float>;
    });
}

// 0..1 over the unit square. Octaves after F. K. Musgrave, "Texturing and Modeling", ch. 16.
float fractal(float u, float v, const Texture& texture) {
    float sum = 0, weights = 0, weight = 1;
    int period = texture.count;
    for (int octave = 0; octave < texture.octaves; ++octave, period *= 2, weight *= texture.roughness) {
        const uint32_t seed = mixed_seed(uint32_t(texture.variant), uint32_t(octave));
        const float x = u * float(period), y = v * float(period);
        const float noise = texture.noise == NoiseKind::value ? value_noise(x, y, period, seed)
                                                              : gradient_noise(x, y, period, seed);
        sum += weight * (texture.noise == NoiseKind::ridged ? 1 - 2 * std::fabs(noise) : noise);
        weights += weight;
    }
    return std::clamp(sum / weights * 0.5f + 0.5f, 0.0f, 1.0f);
}

// 1 inside, 0 outside of a rim that is `soft` wide.
float inside(float distance_in, float soft) {
    const float t = std::clamp(distance_in / std::max(soft, 1e-4f) + 0.5f, 0.0f, 1.0f);
    return t * t * (3 - 2 * t);
}

struct NearestCells {
    float first = 8, second = 8; // distances, in cells
    float shade = 0;             // of the nearest
};

// S. Worley, "A Cellular Texture Basis Function", 1996.
NearestCells nearest_cells(float u, float v, const Texture& texture) {
    const float x = u * float(texture.count), y = v * float(texture.count);
    const int cx = int(std::floor(x)), cy = int(std::floor(y));
    const auto seed = uint32_t(texture.variant);
    NearestCells nearest;
    for (int i = cx - 2; i <= cx + 2; ++i) {
        for (int j = cy - 2; j <= cy + 2; ++j) {
            const auto stray = [&](uint32_t what) {
                return 0.5f +
                       (random_at(i, j, texture.count, mixed_seed(seed, what)) - 0.5f) * texture.jitter;
            };
            const float distance = std::hypot(float(i) + stray(1) - x, float(j) + stray(2) - y);
            if (distance < nearest.first) {
                nearest.second = nearest.first;
                nearest.first = distance;
                nearest.shade = random_at(i, j, texture.count, mixed_seed(seed, 3));
            } else {
                nearest.second = std::min(nearest.second, distance);
            }
        }
    }
    return nearest;
}

float pattern_at(float u, float v, const Texture& texture) {
    const float x = u * float(texture.count), y = v * float(texture.count);
    const float half = texture.size * 0.5f;
    const float soft = texture.softness * std::max(half, 0.05f) * 2;
    switch (texture.kind) {
    case TextureKind::dots:
        return inside(half - nearest_cells(u, v, texture).first, soft);
    case TextureKind::grid: {
        const auto to_line = [](float a) { return std::fabs(a - std::floor(a) - 0.5f); };
        return inside(std::max(to_line(x), to_line(y)) - 0.5f + half, soft);
    }
    case TextureKind::rings: {
        const float radius = std::hypot(u - std::floor(u) - 0.5f, v - std::floor(v) - 0.5f) * 2;
        const float ring = radius * float(texture.count);
        return inside(half - std::fabs(ring - std::floor(ring) - 0.5f), soft);
    }
    case TextureKind::cells: {
        const NearestCells cells = nearest_cells(u, v, texture);
        return texture.cells == CellKind::flat       ? cells.shade
               : texture.cells == CellKind::distance ? std::min(cells.first, 1.0f)
                                                     : inside(cells.second - cells.first - 0.1f, 0.15f);
    }
    case TextureKind::noise:
        return fractal(u, v, texture);
    case TextureKind::image:
        break;
    }
    return 1;
}

float warped_at(float u, float v, const Texture& texture) {
    if (texture.warp == 0) {
        return pattern_at(u, v, texture);
    }
    const auto push = [&](uint32_t what) {
        const uint32_t seed = mixed_seed(uint32_t(texture.variant), 100 + what);
        return gradient_noise(u * float(texture.warp_count), v * float(texture.warp_count),
                              texture.warp_count, seed) *
               texture.warp;
    };
    const float across = push(0), up = push(1);
    return pattern_at(u + across, v + up, texture);
}

// Three box blurs one after the other come close to a Gaussian; the picture is thought to go on at its other
// side.
template <class T>
void blur(std::vector<T>& values, int width, int height, float share) {
    const auto line = [&](T* first, int count, int step, int radius) {
        thread_local std::vector<T> from;
        from.resize(size_t(count));
        for (int pass = 0; pass < 3; ++pass) {
            for (int i = 0; i < count; ++i) {
                from[size_t(i)] = first[int64_t(i) * step];
            }
            const auto at = [&](int i) { return from[size_t((i % count + count) % count)]; };
            T sum = at(-radius);
            for (int i = -radius + 1; i <= radius; ++i) {
                sum = sum + at(i);
            }
            for (int i = 0; i < count; ++i) {
                first[int64_t(i) * step] = sum * (1 / float(2 * radius + 1));
                sum = sum + at(i + radius + 1) - at(i - radius);
            }
        }
    };
    const int radius_x = std::min(int(share * float(width) * 0.5f + 0.5f), (width - 1) / 2);
    const int radius_y = std::min(int(share * float(height) * 0.5f + 0.5f), (height - 1) / 2);
    if (radius_x > 0) {
        tbb::parallel_for(0, height,
                          [&](int y) { line(values.data() + int64_t(y) * width, width, 1, radius_x); });
    }
    if (radius_y > 0) {
        tbb::parallel_for(0, width, [&](int x) { line(values.data() + x, height, width, radius_y); });
    }
}

// Colours that can be added up, weighted by their opacity.
struct Weighted {
    float red = 0, green = 0, blue = 0, alpha = 0;
    friend Weighted operator+(const Weighted& a, const Weighted& b) {
        return {a.red + b.red, a.green + b.green, a.blue + b.blue, a.alpha + b.alpha};
    }
    friend Weighted operator-(const Weighted& a, const Weighted& b) { return a + b * -1; }
    friend Weighted operator*(const Weighted& a, float f) {
        return {a.red * f, a.green * f, a.blue * f, a.alpha * f};
    }
};

float levelled(float value, const Texture& texture) {
    const float width = std::max(texture.levels.high - texture.levels.low, 1e-4f);
    const float share = std::clamp((value - texture.levels.low) / width, 0.0f, 1.0f);
    const float bent = texture.middle == 1 ? share : std::pow(share, 1 / texture.middle);
    return texture.inverted ? 1 - bent : bent;
}

Image made_pattern(const Texture& texture, int side, const Progress& progress) {
    std::vector<float> values(size_t(side) * size_t(side));
    constexpr int rows_a_time = 128;
    for (int top = 0; top < side; top += rows_a_time) {
        if (!progress.goes_on("making", float(top) / float(side))) {
            return {};
        }
        tbb::parallel_for(top, std::min(top + rows_a_time, side), [&](int y) {
            for (int x = 0; x < side; ++x) {
                values[size_t(y) * size_t(side) + size_t(x)] =
                    warped_at((float(x) + 0.5f) / float(side), (float(y) + 0.5f) / float(side), texture);
            }
        });
    }
    blur(values, side, side, texture.blur);
    Image image{side, side, std::vector<Colour>(values.size())};
    tbb::parallel_for(0, side, [&](int y) {
        for (size_t i = size_t(y) * size_t(side); i < size_t(y + 1) * size_t(side); ++i) {
            image.pixels[i] = texture.ramp.at(levelled(values[i], texture));
        }
    });
    return image;
}

Image changed_image(const Texture& texture, const Image& from) {
    std::vector<Weighted> values(from.pixels.size());
    std::transform(from.pixels.begin(), from.pixels.end(), values.begin(), [](const Colour& c) {
        return Weighted{c.red * c.alpha, c.green * c.alpha, c.blue * c.alpha, c.alpha};
    });
    blur(values, from.width, from.height, texture.blur);
    Image image{from.width, from.height, std::vector<Colour>(values.size())};
    std::transform(values.begin(), values.end(), image.pixels.begin(), [&](const Weighted& c) {
        const Weighted own = c * (1 / std::max(c.alpha, 1e-5f));
        if (texture.by_ramp) {
            // Brightness as the eye weighs it (ITU-R BT.709).
            const float bright = own.red * 0.2126f + own.green * 0.7152f + own.blue * 0.0722f;
            Colour colour = texture.ramp.at(levelled(bright, texture));
            colour.alpha *= c.alpha;
            return colour;
        }
        return Colour{levelled(own.red, texture), levelled(own.green, texture), levelled(own.blue, texture),
                      c.alpha};
    });
    return image;
}

} // namespace

Image made_texture(const Texture& texture, int side, const Image* image, const Progress& progress) {
    if (texture.kind == TextureKind::image) {
        return image != nullptr ? changed_image(texture, *image) : Image{1, 1, {Colour{}}};
    }
    return made_pattern(texture, side, progress);
}

} // namespace ember
