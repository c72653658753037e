#include "render/renderer.h"

#include "core/base/stopwatch.h"
#include "core/particles/block.h"
#include "render/tiles.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>
#include <numeric>

namespace ember {

namespace {

constexpr size_t blocks_a_chunk = 8;
constexpr size_t chunk_size = blocks_a_chunk * block_size;
constexpr float nearest_m = 0.02f;
constexpr float smallest_radius = 0.75f; // pixels; smaller dots are dimmed instead

Vec3 rgb(const Colour& colour) {
    return {colour.red, colour.green, colour.blue};
}

// A look, prepared for a frame: tables with glow, opacity and the stage's light already inside.
struct PreparedLook {
    LifeTable<float> sizes;
    LifeTable<Colour> colours;
    float cover = 0;
    float sharpness = 1;
    float fade = 1e6f;
};

PreparedLook prepared(const Look& look, const Stage& stage) {
    PreparedLook result;
    result.sizes = sampled(look.size_over_life);
    result.colours = sampled(look.colour_over_life);
    result.cover = look.blend == Blend::over ? 1.0f : 0.0f;
    result.sharpness = 1 / std::max(look.edge, 0.05f);
    result.fade = 1 / std::max(look.surface_fade, 1e-4f);

    // A small ball in the open, seen from all sides: the sky all round and a quarter of the sun (Lambert,
    // averaged).
    const Vec3 sky = (rgb(stage.sky_top) + rgb(stage.sky_horizon)) * (0.5f * stage.sky_strength);
    const Vec3 light = sky + rgb(stage.sun_colour) * (0.25f * stage.sun_strength);
    const Vec3 tint = Vec3{1, 1, 1} * (1 - look.lit) + light * look.lit;
    const LifeTable<float> glow = sampled(look.glow_over_life);
    const LifeTable<float> opacity = sampled(look.opacity_over_life);
    for (size_t i = 0; i < result.colours.values.size(); ++i) {
        result.colours.values[i] =
            result.colours.values[i] * Colour{look.glow * glow.values[i] * tint.x,
                                              look.glow * glow.values[i] * tint.y,
                                              look.glow * glow.values[i] * tint.z,
                                              look.opacity * std::clamp(opacity.values[i], 0.0f, 1.0f)};
        result.sizes.values[i] = std::max(result.sizes.values[i], 0.0f);
    }
    return result;
}

// Newborn white, then warm, then blue and dark towards death; as opaque as the look has it.
void tint_by_age(PreparedLook& look) {
    static const Ramp ages = {
        {{0, {1.4f, 1.3f, 1.1f, 1}}, {0.3f, {1, 0.32f, 0.09f, 1}}, {1, {0.03f, 0.1f, 0.35f, 1}}}};
    const LifeTable<Colour> table = sampled(ages);
    for (size_t i = 0; i < table.values.size(); ++i) {
        const float alpha = look.colours.values[i].alpha;
        look.colours.values[i] = table.values[i];
        look.colours.values[i].alpha = alpha;
    }
}

struct Projection {
    ViewAxes view;
    float pixels; // focal length
    float middle_x, middle_y;
    float right, bottom;
};

// What a particle covers on the picture.
struct Outline {
    float width, height, square, narrowing, slant; // see Sprite
    float dimmed;                                  // share of the light that is left to it
};

Outline round_outline(float true_radius) {
    const float radius = std::max(true_radius, smallest_radius);
    const float share = true_radius / radius;
    return {radius, radius, radius * radius, 1, 0, share * share};
}

// The outline of an ellipsoid, seen in parallel: its points, d, are those with d' C^-1 d = 1, where C sums
// the outer squares of its half axes as they lie on the picture. `radius`: of the ball, in pixels, before it
// is stretched.
Outline stretched_outline(const FrameForm& form, float radius, const ViewAxes& view) {
    const Axes axes = form.axes();
    const Vec3 stretch = form.stretch() * radius;
    float xx = 0, xy = 0, yy = 0;
    for (const Vec3& axis : {axes.x * stretch.x, axes.y * stretch.y, axes.z * stretch.z}) {
        const float x = dot(axis, view.right), y = -dot(axis, view.up);
        xx += x * x;
        xy += x * y;
        yy += y * y;
    }
    // What is thinner than a pixel is widened, and dimmed by as much as its area grows.
    const float true_area = std::max(xx * yy - xy * xy, 0.0f);
    xx += smallest_radius * smallest_radius;
    yy += smallest_radius * smallest_radius;
    const float area = xx * yy - xy * xy;
    return {std::sqrt(xx), std::sqrt(yy), area / yy, area / (yy * yy), xy / yy, std::sqrt(true_area / area)};
}

// The sprite of a particle; false if none of it is in the picture.
bool project(const Vec3& place, const FrameParticle& particle, const Mark* mark, const FrameForm* form,
             float largest_size, const PreparedLook& look, const Projection& to, Sprite& out) {
    const Vec3 away = place - to.view.eye;
    const float depth = dot(away, to.view.forward);
    if (!(depth > nearest_m)) {
        return false;
    }
    const float scale = to.pixels / depth;
    const float share = float(particle.age_share) / 65535;
    const float size = float(particle.size_share) / 65535 * largest_size * look.sizes.at(share);
    const float radius = 0.5f * size * scale;
    const Outline outline =
        form == nullptr ? round_outline(radius) : stretched_outline(*form, radius, to.view);
    const float x = to.middle_x + dot(away, to.view.right) * scale;
    const float y = to.middle_y - dot(away, to.view.up) * scale;
    Colour colour = look.colours.at(share);
    if (mark != nullptr) {
        colour = colour * mark->tint();
    }
    const float opacity = colour.alpha * outline.dimmed;
    const bool in_picture = x + outline.width > 0 && y + outline.height > 0 && x - outline.width < to.right &&
                            y - outline.height < to.bottom;
    if (!in_picture || opacity <= 1e-4f) {
        return false;
    }
    out = {x,
           y,
           outline.width,
           outline.height,
           outline.square,
           outline.narrowing,
           outline.slant,
           depth,
           colour.red * opacity,
           colour.green * opacity,
           colour.blue * opacity,
           look.cover * opacity,
           std::min(look.sharpness, 1 + std::min(outline.width, outline.height) * 0.5f) / outline.square,
           look.fade};
    return true;
}

// The tiles that a sprite touches.
template <class Visit>
void each_tile(const Sprite& sprite, int across, int down, Visit visit) {
    const auto tile_of = [](float pixel, int size, int count) {
        return int(std::clamp(pixel / float(size), 0.0f, float(count - 1)));
    };
    const int left = tile_of(sprite.x - sprite.width, tile_width, across);
    const int right = tile_of(sprite.x + sprite.width, tile_width, across);
    const int top = tile_of(sprite.y - sprite.height, tile_height, down);
    const int bottom = tile_of(sprite.y + sprite.height, tile_height, down);
    for (int y = top; y <= bottom; ++y) {
        for (int x = left; x <= right; ++x) {
            visit(size_t(y) * size_t(across) + size_t(x));
        }
    }
}

// Equal depths stay in order of birth. The key is the depth turned round, as bits (depths are positive, so
// their bits are in order), above the index.
void sort_far_to_near(const std::vector<Sprite>& sprites, std::vector<uint32_t>::iterator first,
                      std::vector<uint32_t>::iterator last) {
    thread_local std::vector<uint64_t> keys;
    keys.clear();
    for (auto index = first; index != last; ++index) {
        keys.push_back(uint64_t(~std::bit_cast<uint32_t>(sprites[*index].depth)) << 32 | *index);
    }
    std::sort(keys.begin(), keys.end());
    std::transform(keys.begin(), keys.end(), first, [](uint64_t key) { return uint32_t(key); });
}

// Extended Reinhard (E. Reinhard et al., "Photographic Tone Reproduction", 2002, eq. 4) with white at 4,
// after a power about middle grey for contrast, then the sRGB transfer function (IEC 61966-2-1).
float toned(float light, float contrast) {
    constexpr float middle_grey = 0.18f;
    constexpr float white = 4;
    const float bent = middle_grey * std::pow(light / middle_grey, contrast);
    const float mapped = std::min(bent * (1 + bent / (white * white)) / (1 + bent), 1.0f);
    return mapped <= 0.0031308f ? 12.92f * mapped : 1.055f * std::pow(mapped, 1 / 2.4f) - 0.055f;
}

std::vector<int32_t> tone_table(float contrast) {
    std::vector<int32_t> table(ToneTable::size);
    for (uint32_t i = 0; i < ToneTable::size; ++i) {
        const uint32_t bits =
            ((i + ToneTable::first_bits) << ToneTable::shift) + (1u << (ToneTable::shift - 1));
        table[i] = int32_t(toned(std::bit_cast<float>(bits), contrast) * 255 * 256);
    }
    return table;
}

// How much of the bloom each level takes from the wider one below it; with the rest of the light in the
// narrower ones their sum stays 1.
float wide_share(const Stage& stage) {
    return 0.3f + 0.65f * stage.bloom_radius;
}

} // namespace

Renderer::Renderer(Isa isa) : kernels_(render_kernels(isa)), stage_(kernels_) {}

void Renderer::draw(const Frame& frame, const Effect& given, const Camera& camera, int width, int height,
                    Picture& picture) {
    Stopwatch whole;
    const Effect& effect = given.drives.empty() ? given : driven_ = driven(given, frame.modulators);
    Stopwatch watch;
    stage_.draw(frame, effect.stage, camera, width, height);
    meters_.stage_ms = watch.lap_ms();
    gather_sprites(frame, effect, camera);
    bin_sprites();
    draw_sprites();
    meters_.dots_ms = watch.lap_ms();
    gather_bloom(effect.stage);
    finish(effect.stage, picture);
    meters_.finishing_ms = watch.lap_ms();
    meters_.dots = std::accumulate(chunk_counts_.begin(), chunk_counts_.end(), size_t(0));
    meters_.total_ms = whole.elapsed_ms();
}

size_t Renderer::bytes() const {
    size_t bytes = stage_.bytes() + light_.bytes() + sprites_.capacity() * sizeof(Sprite) +
                   tile_sprites_.capacity() * sizeof(uint32_t);
    for (const LightPlanes& level : bloom_levels_) {
        bytes += level.bytes();
    }
    return bytes;
}

void Renderer::gather_sprites(const Frame& frame, const Effect& effect, const Camera& camera) {
    Projection to;
    to.view = ember::axes_of(camera);
    to.pixels = to.view.focal * float(stage_.light().height) * 0.5f;
    to.middle_x = float(stage_.light().width) * 0.5f;
    to.middle_y = float(stage_.light().height) * 0.5f;
    to.right = float(stage_.light().width);
    to.bottom = float(stage_.light().height);

    any_over_ = false;
    chunk_sources_.clear();
    size_t used = 0;
    for (const FrameSource& source : frame.sources) {
        // The source as it is now: its look may have been edited since the frame was made.
        const Element* element = find_element(effect, frame.effect->elements[source.element].id);
        const auto* emitter = element != nullptr ? std::get_if<Emitter>(&element->body) : nullptr;
        const Look* look =
            emitter != nullptr && is_active(effect, *element) ? find_look(effect, emitter->look) : nullptr;
        if (look == nullptr) {
            continue;
        }
        any_over_ = any_over_ || look->blend == Blend::over;
        PreparedLook ready = prepared(*look, effect.stage);
        if (tint_ == DotTint::age) {
            tint_by_age(ready);
        }
        const size_t chunks = (source.blocks.size() + blocks_a_chunk - 1) / blocks_a_chunk;
        sprites_.resize(std::max(sprites_.size(), (used + chunks) * chunk_size));
        chunk_counts_.resize(used + chunks);
        chunk_sources_.resize(used + chunks, size_t(&source - frame.sources.data()));
        tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
            Sprite* const first = sprites_.data() + (used + c) * chunk_size;
            Sprite* next = first;
            const size_t end = std::min((c + 1) * blocks_a_chunk, source.blocks.size());
            for (size_t b = c * blocks_a_chunk; b < end; ++b) {
                const FrameBlock& block = source.blocks[b];
                const FrameParticle* particles = source.particles.data() + block.first;
                const Mark* marks = source.marks.empty() ? nullptr : source.marks.data() + block.first;
                const FrameForm* forms = source.forms.empty() ? nullptr : source.forms.data() + block.first;
                for (int i = 0; i < block.count; ++i) {
                    const Mark* mark = marks == nullptr || tint_ != DotTint::look ? nullptr : marks + i;
                    const FrameForm* form = forms == nullptr ? nullptr : forms + i;
                    next += project(block.place(particles[i]), particles[i], mark, form, source.largest_size,
                                    ready, to, *next)
                                ? 1
                                : 0;
                }
            }
            chunk_counts_[used + c] = uint32_t(next - first);
        });
        used += chunks;
    }
    chunk_counts_.resize(used);
    sprites_.resize(used * chunk_size);
}

void Renderer::bin_sprites() {
    const int across = tiles_across(stage_.light());
    const int down = tiles_down(stage_.light());
    const size_t tiles = size_t(across) * size_t(down);
    const size_t chunks = chunk_counts_.size();
    // Runs `visit(tile, sprite index)` for a chunk.
    const auto each_in_chunk = [&](size_t c, auto visit) {
        for (size_t i = c * chunk_size; i < c * chunk_size + chunk_counts_[c]; ++i) {
            each_tile(sprites_[i], across, down, [&](size_t tile) { visit(tile, uint32_t(i)); });
        }
    };

    // How many sprites each chunk puts into each tile, then where in the tile's list they begin: chunk after
    // chunk, so that the lists do not depend on which thread did what.
    std::vector<uint32_t> places(chunks * tiles, 0);
    tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
        each_in_chunk(c, [&](size_t tile, uint32_t) { ++places[c * tiles + tile]; });
    });
    tile_starts_.assign(tiles + 1, 0);
    uint32_t total = 0;
    for (size_t tile = 0; tile < tiles; ++tile) {
        tile_starts_[tile] = total;
        for (size_t c = 0; c < chunks; ++c) {
            const uint32_t count = places[c * tiles + tile];
            places[c * tiles + tile] = total;
            total += count;
        }
    }
    tile_starts_[tiles] = total;
    tile_sprites_.resize(total);
    tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
        each_in_chunk(
            c, [&](size_t tile, uint32_t sprite) { tile_sprites_[places[c * tiles + tile]++] = sprite; });
    });
}

void Renderer::draw_sprites() {
    light_.resize(stage_.light().width, stage_.light().height);
    const int across = tiles_across(light_);
    const int down = tiles_down(light_);
    tile_ms_.resize(size_t(across) * size_t(down));
    tbb::parallel_for(0, across * down, [&](int index) {
        const Stopwatch watch;
        const Tile tile = tile_at(light_, index, stage_.nearest(index));
        const int left = tile.left;
        for (int y = tile.top; y < tile.bottom; ++y) {
            const size_t row = size_t(y) * size_t(light_.stride) + size_t(left);
            const size_t count = size_t(tile.right - left);
            std::copy_n(stage_.light().red.data() + row, count, light_.red.data() + row);
            std::copy_n(stage_.light().green.data() + row, count, light_.green.data() + row);
            std::copy_n(stage_.light().blue.data() + row, count, light_.blue.data() + row);
        }
        const auto first = tile_sprites_.begin() + tile_starts_[size_t(index)];
        const auto last = tile_sprites_.begin() + tile_starts_[size_t(index) + 1];
        if (any_over_) {
            sort_far_to_near(sprites_, first, last);
        }
        kernels_.splat(sprites_, {first, last}, tile, light_.stride, light_.red.data(), light_.green.data(),
                       light_.blue.data(), stage_.depth().data());
        tile_ms_[size_t(index)] = float(watch.elapsed_ms());
    });
}

HeatMap Renderer::heat(const Frame& frame) const {
    HeatMap map = {tiles_across(light_), tiles_down(light_), tile_width, tile_height, {}};
    const size_t tiles = tile_ms_.size();
    map.ms.assign(tiles, float(meters_.finishing_ms / double(tiles)));

    // Time of single threads is scaled so that tiles add up to what the artist waits for.
    double stage_sum = 1e-9, dots_sum = 1e-9;
    for (size_t tile = 0; tile < tiles; ++tile) {
        stage_sum += double(stage_.tile_ms(int(tile)));
        dots_sum += double(tile_ms_[tile]);
    }
    for (size_t tile = 0; tile < tiles; ++tile) {
        map.ms[tile] += float(double(stage_.tile_ms(int(tile))) * meters_.stage_ms / stage_sum +
                              double(tile_ms_[tile]) * meters_.dots_ms / dots_sum);
    }
    for (size_t c = 0; c < chunk_counts_.size(); ++c) {
        const FrameSource& source = frame.sources[chunk_sources_[c]];
        const auto step_ms = float(frame.meters.elements[source.element].blocks_ms /
                                   double(std::max<size_t>(source.particles.size(), 1)));
        for (size_t i = c * chunk_size; i < c * chunk_size + chunk_counts_[c]; ++i) {
            const int x = std::clamp(int(sprites_[i].x) / tile_width, 0, map.across - 1);
            const int y = std::clamp(int(sprites_[i].y) / tile_height, 0, map.down - 1);
            map.ms[size_t(y) * size_t(map.across) + size_t(x)] += step_ms;
        }
    }
    return map;
}

void Renderer::gather_bloom(const Stage& stage) {
    // Six levels reach 64 pixels at the finest picture; fewer in small ones.
    int levels = 0;
    while (stage.bloom > 0 && levels < 6 && std::min(light_.width, light_.height) >> (levels + 1) >= 4) {
        ++levels;
    }
    bloom_levels_.resize(size_t(levels));
    const LightPlanes* larger = &light_;
    for (int level = 0; level < levels; ++level) {
        LightPlanes& half = bloom_levels_[size_t(level)];
        half.resize(larger->width / 2, larger->height / 2);
        const float threshold = level == 0 ? stage.bloom_threshold : 0.0f;
        tbb::parallel_for(0, half.height, [&](int y) {
            const size_t from = size_t(2 * y) * size_t(larger->stride);
            const size_t to = size_t(y) * size_t(half.stride);
            for (const auto plane : {&LightPlanes::red, &LightPlanes::green, &LightPlanes::blue}) {
                const float* upper = (larger->*plane).data() + from;
                kernels_.halve_row(upper, upper + larger->stride, half.width, threshold,
                                   (half.*plane).data() + to);
            }
        });
        larger = &half;
    }

    // Back up: each level takes the wider one below it.
    for (size_t level = bloom_levels_.size(); level-- > 1;) {
        LightPlanes& to = bloom_levels_[level - 1];
        tbb::parallel_for(0, to.height,
                          [&](int y) { add_enlarged(bloom_levels_[level], wide_share(stage), y, to); });
    }
}

void Renderer::add_enlarged(const LightPlanes& from, float gain, int y, LightPlanes& to) const {
    thread_local std::vector<float> scratch;
    scratch.resize(size_t(from.width) + 2);
    const int near = std::min(y / 2, from.height - 1);
    const int far = std::clamp(y % 2 == 0 ? near - 1 : near + 1, 0, from.height - 1);
    for (const auto plane : {&LightPlanes::red, &LightPlanes::green, &LightPlanes::blue}) {
        const float* source = (from.*plane).data();
        kernels_.enlarge_row(source + size_t(near) * size_t(from.stride),
                             source + size_t(far) * size_t(from.stride), from.width, to.width, gain,
                             scratch.data(), (to.*plane).data() + size_t(y) * size_t(to.stride));
    }
}

// Adds the bloom and turns light into pixels, row by row, while the row is in the cache.
void Renderer::finish(const Stage& stage, Picture& picture) {
    if (tone_.empty() || tone_contrast_ != stage.contrast) {
        tone_ = tone_table(stage.contrast);
        tone_contrast_ = stage.contrast;
    }
    picture.width = light_.width;
    picture.height = light_.height;
    picture.pixels.resize(size_t(light_.width) * size_t(light_.height));
    const float exposure = std::exp2(stage.exposure);
    const float bloom_gain = stage.bloom * (1 - wide_share(stage));
    tbb::parallel_for(0, light_.height, [&](int y) {
        if (!bloom_levels_.empty()) {
            add_enlarged(bloom_levels_.front(), bloom_gain, y, light_);
        }
        const size_t row = size_t(y) * size_t(light_.stride);
        kernels_.resolve_row(light_.red.data() + row, light_.green.data() + row, light_.blue.data() + row,
                             light_.width, y, exposure, tone_.data(),
                             picture.pixels.data() + size_t(y) * size_t(light_.width));
    });
}

} // namespace ember
