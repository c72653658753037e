#include "render/finishing.h"

#include "core/base/hash.h"
#include "core/base/octave_table.h"
#include "core/base/stopwatch.h"
#include "render/light_levels.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <bit>
#include <cmath>

namespace ember {

namespace {

// Extended Reinhard (E. Reinhard et al., "Photographic Tone Reproduction", 2002, eq. 4) with white at 4,
// after a power about middle grey for contrast, then the sRGB transfer function (IEC 61966-2-1).
float toned(float light, float contrast) {
    constexpr float middle_grey = 0.18f;
    constexpr float white = 4;
    const float bent = middle_grey * std::pow(light / middle_grey, contrast);
    const float mapped = std::min(bent * (1 + bent / (white * white)) / (1 + bent), 1.0f);
    return mapped <= 0.0031308f ? 12.92f * mapped : 1.055f * std::pow(mapped, 1 / 2.4f) - 0.055f;
}

std::vector<int32_t> tone_table(float contrast, const Curve& grade) {
    const LifeTable<float> graded = sampled(grade);
    const bool is_graded = grade != Stage().grade_red;
    std::vector<int32_t> table(ToneTable::size);
    for (uint32_t i = 0; i < ToneTable::size; ++i) {
        const uint32_t bits =
            ((i + ToneTable::first_bits) << ToneTable::shift) + (1u << (ToneTable::shift - 1));
        const float tone = toned(std::bit_cast<float>(bits), contrast);
        table[i] = int32_t((is_graded ? std::clamp(graded.at(tone), 0.0f, 1.0f) : tone) * 255 * 256);
    }
    return table;
}

// How much of the bloom each level takes from the wider one below it; with the rest of the light in the
// narrower ones their sum stays 1.
float wide_share(const Stage& stage) {
    return 0.3f + 0.65f * stage.bloom_radius;
}

} // namespace

void Finishing::finish(const LightPlanes& light, const Stage& stage, uint32_t number, Picture& picture) {
    Stopwatch part;
    gather_bloom(light, stage);
    meters_.bloom_ms = part.lap_ms();
    glare_.gather(light, stage, kernels_);
    meters_.glare_ms = part.lap_ms();
    read_tones(stage);
    picture.width = light.width;
    picture.height = light.height;
    picture.pixels.resize(size_t(light.width) * size_t(light.height));
    const Finish finish = {std::exp2(stage.exposure),
                           {tones_[0].data(), tones_[1].data(), tones_[2].data()},
                           light.width,
                           light.height,
                           stage.vignette,
                           stage.grain,
                           number};
    // Row by row, while the row is in the cache.
    tbb::parallel_for(0, light.height, [&](int y) {
        thread_local LightPlanes shown;
        shown.resize(light.width, 1);
        const LightRow row = {shown, 0};
        spread_row(light, y, row);
        kernels_.resolve_row(row.red, row.green, row.blue, y, finish,
                             picture.pixels.data() + size_t(y) * size_t(light.width));
    });
    meters_.tone_ms = part.lap_ms();
}

LightPlanes Finishing::spread(const LightPlanes& light) const {
    LightPlanes all;
    all.resize(light.width, light.height);
    tbb::parallel_for(0, all.height, [&](int y) { spread_row(light, y, {all, y}); });
    return all;
}

size_t Finishing::bytes() const {
    size_t bytes = glare_.bytes();
    for (const LightPlanes& level : bloom_levels_) {
        bytes += level.bytes();
    }
    return bytes;
}

void Finishing::gather_bloom(const LightPlanes& light, const Stage& stage) {
    // Six levels reach 64 pixels at the finest picture; fewer in small ones.
    int levels = 0;
    while (stage.bloom > 0 && levels < 6 && std::min(light.width, light.height) >> (levels + 1) >= 4) {
        ++levels;
    }
    bloom_levels_.resize(size_t(levels));
    const LightPlanes* larger = &light;
    for (LightPlanes& half : bloom_levels_) {
        halve(kernels_, *larger, larger == &light ? stage.bloom_threshold : 0.0f, half);
        larger = &half;
    }

    // Back up: each level takes the wider one below it.
    const float wide = wide_share(stage);
    for (size_t level = bloom_levels_.size(); level-- > 1;) {
        LightPlanes& to = bloom_levels_[level - 1];
        tbb::parallel_for(0, to.height, [&](int y) {
            add_enlarged(kernels_, bloom_levels_[level], wide, y, {to, y});
        });
    }
    // The levels' shares add up to 1 - wide^levels.
    bloom_threshold_ = stage.bloom_threshold;
    bloom_share_ = stage.bloom;
    bloom_gain_ = stage.bloom * (1 - wide) / (1 - std::pow(wide, float(bloom_levels_.size())));
    glare_gain_ = stage.glare;
}

// As resolve_row() in render_kernels.cpp, pixel by pixel.
Image Finishing::finish_deep(const LightPlanes& light, const Stage& stage, uint32_t number) {
    gather_bloom(light, stage);
    glare_.gather(light, stage, kernels_);
    const std::array grades = {sampled(stage.grade_red), sampled(stage.grade_green),
                               sampled(stage.grade_blue)};
    const Curve plain = Stage().grade_red;
    const bool is_graded[] = {stage.grade_red != plain, stage.grade_green != plain,
                              stage.grade_blue != plain};
    const OctaveTable tones(0x1p-24f, 0x1p16f, [&](float bright) { return toned(bright, stage.contrast); });
    const OctaveTable& light_of_code = quick_light();
    const float exposure = std::exp2(stage.exposure),
                half = std::hypot(float(light.width), float(light.height)) * 0.5f;
    Image image{light.width, light.height, std::vector<Colour>(size_t(light.width) * size_t(light.height))};
    tbb::parallel_for(0, light.height, [&](int y) {
        thread_local LightPlanes shown;
        shown.resize(light.width, 1);
        const LightRow row = {shown, 0};
        spread_row(light, y, row);
        const float up = (float(y) + 0.5f - float(light.height) * 0.5f) / half;
        for (int x = 0; x < light.width; ++x) {
            const float across = (float(x) + 0.5f - float(light.width) * 0.5f) / half;
            const float slant = 1 + (across * across + up * up) * stage.vignette * 1.2f;
            const uint32_t noise = mixed_seed(uint32_t(x) + uint32_t(y) * 0x9e3779b9u, number) & 255u;
            const float grain = stage.grain * 96 * (float(noise) - 128) / (255 * 256);
            const auto part = [&](float bright, size_t channel) {
                const float tone = tones.at(bright * exposure / (slant * slant));
                const float graded = is_graded[channel] ? grades[channel].at(tone) : tone;
                return light_of_code.at(graded + grain);
            };
            image.pixels[size_t(y) * size_t(light.width) + size_t(x)] = {
                part(row.red[x], 0), part(row.green[x], 1), part(row.blue[x], 2), 1};
        }
    });
    return image;
}

void Finishing::read_tones(const Stage& stage) {
    const std::array grades = {stage.grade_red, stage.grade_green, stage.grade_blue};
    if (!tones_[0].empty() && tone_contrast_ == stage.contrast && grades == grades_) {
        return;
    }
    for (size_t i = 0; i < tones_.size(); ++i) {
        tones_[i] = tone_table(stage.contrast, grades[i]);
    }
    tone_contrast_ = stage.contrast;
    grades_ = grades;
}

// What is spread is taken from where it shone: the light in all stays the same.
void Finishing::spread_row(const LightPlanes& light, int y, const LightRow& out) const {
    const auto copy = [&](const FloatPlane& plane, float* row) {
        std::copy_n(plane.data() + size_t(y) * size_t(light.stride), light.stride, row);
        if (!bloom_levels_.empty()) {
            kernels_.take_row(row, bloom_threshold_, bloom_share_, light.width);
        }
    };
    copy(light.red, out.red);
    copy(light.green, out.green);
    copy(light.blue, out.blue);
    if (!bloom_levels_.empty()) {
        add_enlarged(kernels_, bloom_levels_.front(), bloom_gain_, y, out);
    }
    if (glare_.is_on()) {
        add_enlarged(kernels_, glare_.light(), glare_gain_, y, out);
    }
}

} // namespace ember
