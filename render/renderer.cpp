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
static_assert(most_copies < blocks_a_chunk);

// A box on the picture, in pixels.
struct Extent {
    float left, top, right, bottom;
};

Extent extent_of(const Sprite& s) {
    return {s.x - s.width, s.y - s.height, s.x + s.width, s.y + s.height};
}

Extent extent_of(const Segment& s) {
    const float wide = std::max(s.half_a, s.half_b);
    return {std::min(s.ax, s.bx) - wide, std::min(s.ay, s.by) - wide, std::max(s.ax, s.bx) + wide,
            std::max(s.ay, s.by) + wide};
}

// The tiles that a box touches.
template <class Visit>
void each_tile(const Extent& extent, int across, int down, Visit visit) {
    const auto tile_of = [](float pixel, int size, int count) {
        return int(std::clamp(pixel / float(size), 0.0f, float(count - 1)));
    };
    const int left = tile_of(extent.left, tile_width, across);
    const int right = tile_of(extent.right, tile_width, across);
    const int top = tile_of(extent.top, tile_height, down);
    const int bottom = tile_of(extent.bottom, tile_height, down);
    for (int y = top; y <= bottom; ++y) {
        for (int x = left; x <= right; ++x) {
            visit(size_t(y) * size_t(across) + size_t(x));
        }
    }
}

// Lists what lies in which tile. Chunks hold the first `counts[c]` of each `chunk` things.
template <class Thing>
void list_by_tile(const std::vector<Thing>& things, size_t chunk, const std::vector<uint32_t>& counts,
                  int across, int down, TileLists& lists) {
    const size_t tiles = size_t(across) * size_t(down);
    const size_t chunks = counts.size();
    const auto each_in_chunk = [&](size_t c, auto visit) {
        for (size_t i = c * chunk; i < c * chunk + counts[c]; ++i) {
            each_tile(extent_of(things[i]), across, down, [&](size_t tile) { visit(tile, uint32_t(i)); });
        }
    };
    // How many each chunk puts into each tile, then where in the tile's list they begin: chunk after chunk,
    // so that the lists do not depend on which thread did what.
    std::vector<uint32_t> places(chunks * tiles, 0);
    tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
        each_in_chunk(c, [&](size_t tile, uint32_t) { ++places[c * tiles + tile]; });
    });
    lists.starts.assign(tiles + 1, 0);
    uint32_t total = 0;
    for (size_t tile = 0; tile < tiles; ++tile) {
        lists.starts[tile] = total;
        for (size_t c = 0; c < chunks; ++c) {
            const uint32_t count = places[c * tiles + tile];
            places[c * tiles + tile] = total;
            total += count;
        }
    }
    lists.starts[tiles] = total;
    lists.items.resize(total);
    tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
        each_in_chunk(c, [&](size_t tile, uint32_t i) { lists.items[places[c * tiles + tile]++] = i; });
    });
}

// Equal depths stay in order of birth. The key is the depth turned round, as bits (depths are positive, so
// their bits are in order), above the index.
void sort_far_to_near(const std::vector<Sprite>& sprites, std::span<uint32_t>::iterator first,
                      std::span<uint32_t>::iterator last) {
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

Renderer::Renderer(Isa isa) : kernels_(render_kernels(isa)), stage_(kernels_) {}

void Renderer::draw(const Frame& frame, const Effect& given, const Camera& camera, int width, int height,
                    Picture& picture) {
    Stopwatch whole;
    const Effect& effect = given.drives.empty() ? given : driven_ = driven(given, frame.modulators);
    Stopwatch watch;
    const bool stage_changed = stage_.draw(frame, effect.stage, camera, width, height);
    meters_.stage_ms = watch.lap_ms();
    focus_.draw(stage_, stage_changed, effect.stage, camera, kernels_);
    meters_.focus_ms = watch.lap_ms();
    const Projection to = projection_of(camera, width, height);
    gather_sprites(frame, effect, to);
    gather_segments(frame, effect, to);
    list_by_tiles();
    draw_sprites();
    meters_.dots_ms = watch.lap_ms();
    Stopwatch part;
    gather_bloom(effect.stage);
    meters_.bloom_ms = part.lap_ms();
    glare_.gather(light_, effect.stage, kernels_);
    meters_.glare_ms = part.lap_ms();
    finish(frame, effect.stage, picture);
    meters_.tone_ms = part.lap_ms();
    meters_.finishing_ms = watch.lap_ms();
    meters_.dots = std::accumulate(chunk_counts_.begin(), chunk_counts_.end(), size_t(0));
    meters_.total_ms = whole.elapsed_ms();
}

size_t Renderer::bytes() const {
    size_t bytes = stage_.bytes() + focus_.bytes() + glare_.bytes() + light_.bytes() +
                   sprites_.capacity() * sizeof(Sprite) + segments_.capacity() * sizeof(Segment) +
                   (tile_sprites_.items.capacity() + tile_segments_.items.capacity()) * sizeof(uint32_t);
    for (const LightPlanes& level : bloom_levels_) {
        bytes += level.bytes();
    }
    return bytes;
}

// The look of a source as it is now: it may have been edited since the frame was made. Null if nothing of it
// is to be seen.
const Look* Renderer::look_of(const Frame& frame, const FrameSource& source, const Effect& effect) const {
    const Element* element = find_element(effect, frame.effect->elements[source.element].id);
    const auto* emitter = element != nullptr ? std::get_if<Emitter>(&element->body) : nullptr;
    return emitter != nullptr && is_active(effect, *element) ? find_look(effect, emitter->look) : nullptr;
}

void Renderer::gather_sprites(const Frame& frame, const Effect& effect, const Projection& to) {
    const Lens lens = lens_of(effect.stage, to);
    any_over_ = false;
    chunk_sources_.clear();
    size_t used = 0;
    for (const FrameSource& source : frame.sources) {
        const Look* look = look_of(frame, source, effect);
        // A trail begins at its particle: until the frame has trails, there is the particle.
        if (look == nullptr || (look->drawn_as == Drawing::trails && !source.trails.empty())) {
            continue;
        }
        any_over_ = any_over_ || look->blend == Blend::over;
        PreparedLook ready = prepared(*look, effect.stage);
        if (tint_ == DotTint::age) {
            tint_by_age(ready);
        }
        if (is_preview_) {
            ready.copies = int(std::lround(float(ready.copies) * effect.stage.copies_shown));
        }
        ready.copies = source.numbers.empty() ? 0 : ready.copies;
        // Copies take the room of other blocks in a chunk.
        const size_t chunk_blocks = blocks_a_chunk / size_t(1 + ready.copies);
        const size_t chunks = (source.blocks.size() + chunk_blocks - 1) / chunk_blocks;
        sprites_.resize(std::max(sprites_.size(), (used + chunks) * chunk_size));
        chunk_counts_.resize(used + chunks);
        chunk_sources_.resize(used + chunks, size_t(&source - frame.sources.data()));
        tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
            Sprite* const first = sprites_.data() + (used + c) * chunk_size;
            Sprite* next = first;
            const size_t end = std::min((c + 1) * chunk_blocks, source.blocks.size());
            for (size_t b = c * chunk_blocks; b < end; ++b) {
                const FrameBlock& block = source.blocks[b];
                const FrameParticle* particles = source.particles.data() + block.first;
                const Mark* marks = source.marks.empty() ? nullptr : source.marks.data() + block.first;
                const FrameForm* forms = source.forms.empty() ? nullptr : source.forms.data() + block.first;
                for (int i = 0; i < block.count; ++i) {
                    Drawn drawn = {block.place(particles[i]),
                                   {},
                                   float(particles[i].age_share) / 65535,
                                   float(particles[i].size_share) / 65535 * source.largest_size,
                                   marks == nullptr || tint_ != DotTint::look ? nullptr : marks + i,
                                   forms == nullptr ? nullptr : forms + i};
                    if (!source.motions.empty()) {
                        drawn.velocity = source.motions[block.first + size_t(i)].velocity(source.fastest);
                    }
                    next += project(drawn, ready, lens, to, *next) ? 1 : 0;
                    const Vec3 place = drawn.place;
                    for (int copy = 1; copy <= ready.copies; ++copy) {
                        const uint32_t number = source.numbers[block.first + size_t(i)];
                        drawn.place = place + copy_offset(number, copy, drawn.age, ready);
                        next += project(drawn, ready, lens, to, *next) ? 1 : 0;
                    }
                }
            }
            chunk_counts_[used + c] = uint32_t(next - first);
        });
        used += chunks;
    }
    chunk_counts_.resize(used);
    sprites_.resize(used * chunk_size);
}

// Trails of all sources, in their order.
void Renderer::gather_segments(const Frame& frame, const Effect& effect, const Projection& to) {
    constexpr size_t trails_a_piece = 64;
    segments_.clear();
    for (const FrameSource& source : frame.sources) {
        const Look* look = look_of(frame, source, effect);
        if (look == nullptr || look->drawn_as != Drawing::trails || source.trails.empty()) {
            continue;
        }
        PreparedLook ready = prepared(*look, effect.stage);
        if (tint_ == DotTint::age) {
            tint_by_age(ready);
        }
        const size_t pieces = (source.trails.size() + trails_a_piece - 1) / trails_a_piece;
        std::vector<std::vector<Segment>> drawn(pieces);
        tbb::parallel_for(size_t(0), pieces, [&](size_t p) {
            const size_t end = std::min((p + 1) * trails_a_piece, source.trails.size());
            for (size_t i = p * trails_a_piece; i < end; ++i) {
                project_trail(source.trails[i], source.trail_points, ready, to, drawn[p]);
            }
        });
        for (const std::vector<Segment>& piece : drawn) {
            segments_.insert(segments_.end(), piece.begin(), piece.end());
        }
    }
}

void Renderer::list_by_tiles() {
    const int across = tiles_across(stage_.light());
    const int down = tiles_down(stage_.light());
    list_by_tile(sprites_, chunk_size, chunk_counts_, across, down, tile_sprites_);
    std::vector<uint32_t> counts;
    for (size_t left = segments_.size(); left > 0; left -= counts.back()) {
        counts.push_back(uint32_t(std::min(left, chunk_size)));
    }
    list_by_tile(segments_, chunk_size, counts, across, down, tile_segments_);
}

void Renderer::draw_sprites() {
    const LightPlanes& stage = focus_.is_on() ? focus_.light() : stage_.light();
    light_.resize(stage.width, stage.height);
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
            std::copy_n(stage.red.data() + row, count, light_.red.data() + row);
            std::copy_n(stage.green.data() + row, count, light_.green.data() + row);
            std::copy_n(stage.blue.data() + row, count, light_.blue.data() + row);
        }
        const std::span<uint32_t> sprites = tile_sprites_.of(size_t(index));
        if (any_over_) {
            sort_far_to_near(sprites_, sprites.begin(), sprites.end());
        }
        kernels_.draw_segments(segments_, tile_segments_.of(size_t(index)), tile, light_.stride,
                               light_.red.data(), light_.green.data(), light_.blue.data(),
                               stage_.depth().data());
        kernels_.splat(sprites_, sprites, tile, light_.stride, light_.red.data(), light_.green.data(),
                       light_.blue.data(), stage_.depth().data());
        tile_ms_[size_t(index)] = float(watch.elapsed_ms());
    });
}

std::optional<float> Renderer::depth_at(int x, int y) const {
    constexpr float sky_m = 9e5f;
    float nearest = stage_.depth()[size_t(y) * size_t(light_.stride) + size_t(x)];
    const auto tile = size_t(y / tile_height * tiles_across(light_) + x / tile_width);
    for (const uint32_t i : tile_sprites_.of(tile)) {
        const Sprite& sprite = sprites_[i];
        const float dy = float(y) + 0.5f - sprite.y;
        const float dx = float(x) + 0.5f - sprite.x - dy * sprite.slant;
        const bool is_there = dx * dx < sprite.square - dy * dy * sprite.narrowing;
        nearest = is_there ? std::min(nearest, sprite.depth) : nearest;
    }
    return nearest < sky_m ? std::optional(nearest) : std::nullopt;
}

HeatMap Renderer::heat(const Frame& frame) const {
    HeatMap map = {tiles_across(light_), tiles_down(light_), tile_width, tile_height, {}};
    const size_t tiles = tile_ms_.size();
    map.ms.assign(tiles, float((meters_.finishing_ms + meters_.focus_ms) / double(tiles)));

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
    for (LightPlanes& half : bloom_levels_) {
        halve(kernels_, *larger, larger == &light_ ? stage.bloom_threshold : 0.0f, half);
        larger = &half;
    }

    // Back up: each level takes the wider one below it.
    for (size_t level = bloom_levels_.size(); level-- > 1;) {
        LightPlanes& to = bloom_levels_[level - 1];
        tbb::parallel_for(0, to.height, [&](int y) {
            add_enlarged(kernels_, bloom_levels_[level], wide_share(stage), y, to);
        });
    }
}

// Adds bloom and glare and turns light into pixels, row by row, while the row is in the cache.
void Renderer::finish(const Frame& frame, const Stage& stage, Picture& picture) {
    const std::array grades = {stage.grade_red, stage.grade_green, stage.grade_blue};
    if (tones_[0].empty() || tone_contrast_ != stage.contrast || grades != grades_) {
        for (size_t i = 0; i < tones_.size(); ++i) {
            tones_[i] = tone_table(stage.contrast, grades[i]);
        }
        tone_contrast_ = stage.contrast;
        grades_ = grades;
    }
    picture.width = light_.width;
    picture.height = light_.height;
    picture.pixels.resize(size_t(light_.width) * size_t(light_.height));
    const float bloom_gain = stage.bloom * (1 - wide_share(stage));
    const Finish finish = {std::exp2(stage.exposure),
                           {tones_[0].data(), tones_[1].data(), tones_[2].data()},
                           light_.width,
                           light_.height,
                           stage.vignette,
                           stage.grain,
                           uint32_t(frame.step)};
    tbb::parallel_for(0, light_.height, [&](int y) {
        if (!bloom_levels_.empty()) {
            add_enlarged(kernels_, bloom_levels_.front(), bloom_gain, y, light_);
        }
        if (glare_.is_on()) {
            add_enlarged(kernels_, glare_.light(), stage.glare, y, light_);
        }
        const size_t row = size_t(y) * size_t(light_.stride);
        kernels_.resolve_row(light_.red.data() + row, light_.green.data() + row, light_.blue.data() + row, y,
                             finish, picture.pixels.data() + size_t(y) * size_t(light_.width));
    });
}

} // namespace ember
