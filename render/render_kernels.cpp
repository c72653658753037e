// Compiled once for each instruction set; EMBER_ISA names the namespace (see render/CMakeLists.txt).
#include "render/render_kernels.h"

#include "kernels/prelude_cpp.h"

#include <algorithm>
#include <bit>

namespace ember::EMBER_ISA {

#include "kernels/random.kern"

#include "render/shade.h"

namespace {

void stage_row(const StageScene& scene, int y, float share, float* red, float* green, float* blue, float* depth)
{
    const float scale = 2 / (float(scene.height) * scene.focal);
    const float up = (float(scene.height) * 0.5f - float(y) - scene.shift_y) * scale;
    const rvec3 row_direction = every_lane(scene.forward + scene.up * up);
    for (int x = 0; x < scene.width; x += lanes) {
        const real column = (lane_index() + real(float(x) + scene.shift_x - float(scene.width) * 0.5f)) * real(scale);
        const rvec3 direction = row_direction + every_lane(scene.right) * column;
        const real size = sqrt(dot(direction, direction));
        real distance = real(far_away);
        const rvec3 light = seen_light(scene, every_lane(scene.eye), direction / size, distance);
        const real keep = real(1 - share);
        store(red + x, load(red + x) * keep + light.x * real(share));
        store(green + x, load(green + x) * keep + light.y * real(share));
        store(blue + x, load(blue + x) * keep + light.z * real(share));
        if (share == 1) {
            store(depth + x, distance / size);
        }
    }
}

int first_pixel(float edge, int least)
{
    return std::max(int(edge), least);
}

void splat(std::span<const Sprite> sprites, std::span<const uint32_t> order, const Tile& tile, int stride, float* red,
           float* green, float* blue, const float* depth)
{
    for (const uint32_t index : order) {
        const Sprite& sprite = sprites[index];
        const int top = first_pixel(sprite.y - sprite.radius, tile.top);
        const int bottom = std::min(int(sprite.y + sprite.radius) + 1, tile.bottom);
        const float square = sprite.radius * sprite.radius;
        const real per_square = real(sprite.sharpness / square);
        const real sprite_depth = real(sprite.depth);
        for (int y = top; y < bottom; ++y) {
            const float dy = float(y) + 0.5f - sprite.y;
            const float chord = square - dy * dy;
            if (chord <= 0) {
                continue;
            }
            const float reach = std::sqrt(chord);
            const int left = first_pixel(sprite.x - reach, tile.left) / lanes * lanes;
            const int right = std::min(int(sprite.x + reach) + 1, tile.right);
            const size_t row = size_t(y) * size_t(stride);
            for (int x = left; x < right; x += lanes) {
                const size_t at = row + size_t(x);
                const real dx = lane_index() + real(float(x) + 0.5f - sprite.x);
                const real inside = (real(chord) - dx * dx) * per_square;
                const real front = (load(depth + at) - sprite_depth) * real(sprite.fade);
                const real root = min(max(inside, real(0.0f)), real(1.0f));
                const real amount = root * root * min(max(front, real(0.0f)), real(1.0f));
                const real keep = real(1.0f) - amount * real(sprite.cover);
                store(red + at, load(red + at) * keep + amount * real(sprite.red));
                store(green + at, load(green + at) * keep + amount * real(sprite.green));
                store(blue + at, load(blue + at) * keep + amount * real(sprite.blue));
            }
        }
    }
}

void halve_row(const float* upper, const float* lower, int half_width, float threshold, float* out)
{
    for (int x = 0; x < half_width; ++x) {
        const float mean = (upper[2 * x] + upper[2 * x + 1] + lower[2 * x] + lower[2 * x + 1]) * 0.25f;
        out[x] = mean > threshold ? mean - threshold : 0.0f;
    }
}

void enlarge_row(const float* near, const float* far, int half_width, int width, float gain, float* scratch, float* out)
{
    // scratch holds the blended row with its ends repeated.
    for (int x = 0; x < half_width; ++x) {
        scratch[x + 1] = (near[x] * 0.75f + far[x] * 0.25f) * gain;
    }
    scratch[0] = scratch[1];
    scratch[half_width + 1] = scratch[half_width];
    const int pairs = std::min(width / 2, half_width);
    for (int x = 0; x < pairs; ++x) {
        const float middle = scratch[x + 1] * 0.75f;
        out[2 * x] += middle + scratch[x] * 0.25f;
        out[2 * x + 1] += middle + scratch[x + 2] * 0.25f;
    }
    if (width % 2 != 0) {
        out[width - 1] += scratch[half_width];
    }
}

uint32_t toned(float light, const uint16_t* tone, uint32_t dither)
{
    const uint32_t entry = (std::bit_cast<uint32_t>(light) >> ToneTable::shift) - ToneTable::first_bits;
    return (tone[entry] + dither) >> 8;
}

void resolve_row(const float* red, const float* green, const float* blue, int width, int y, float exposure,
                 const uint16_t* tone, uint32_t* pixels)
{
    const auto exposed = [exposure](float light) {
        const float value = light * exposure;
        // Written so that a NaN becomes black.
        return value > ToneTable::lowest ? (value < ToneTable::highest ? value : ToneTable::highest) : ToneTable::lowest;
    };
    for (int x = 0; x < width; ++x) {
        // Interleaved gradient noise (J. Jimenez, 2014: frac(52.98 frac(0.0671 x + 0.0058 y))) in fixed point: less than one
        // step of 8 bits, so that dark gradients do not band.
        const uint32_t dither = ((((uint32_t(x) * 4398u + uint32_t(y) * 382u) & 0xffffu) * 53u) >> 8) & 255u;
        pixels[x] = 0xff000000u | toned(exposed(red[x]), tone, dither) << 16 |
                    toned(exposed(green[x]), tone, dither) << 8 | toned(exposed(blue[x]), tone, dither);
    }
}

} // namespace

extern const RenderKernels render_set = {stage_row, splat, halve_row, enlarge_row, resolve_row};

} // namespace ember::EMBER_ISA
