#include "render/renderer.h"

#include "core/base/stopwatch.h"
#include "render/tiles.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>
#include <numeric>

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

// Each breakable whole, with its pieces away from its middle.
std::vector<FrameDebris> pieces_apart(const Frame& frame, float apart) {
    std::vector<FrameDebris> cuts;
    for (const FrameDebris& debris : frame.debris) {
        FrameDebris& cut = cuts.emplace_back(FrameDebris{debris.element, debris.cut, {}});
        const Placement& whole = frame.placements[debris.element];
        Vec3 middle;
        for (const Piece& piece : debris.cut->pieces) {
            middle += piece.centre * (piece.volume / float(debris.cut->volume));
        }
        for (uint32_t i = 0; i < debris.cut->pieces.size(); ++i) {
            const Vec3 centre = debris.cut->pieces[i].centre;
            cut.pieces.push_back(
                {i, {whole.position + whole.axes.out(centre + (centre - middle) * apart), whole.axes}, 1, 1});
        }
    }
    return cuts;
}

} // namespace

Renderer::Renderer(Isa isa) : kernels_(render_kernels(isa)), stage_(kernels_), clouds_(kernels_, isa) {}

void Renderer::draw(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height,
                    Picture& picture) {
    Stopwatch whole;
    Stopwatch watch;
    const bool stage_changed = stage_.draw(frame, effect.stage, camera, width, height);
    meters_.stage_ms = watch.lap_ms();
    focus_.draw(stage_, stage_changed, effect.stage, camera, kernels_);
    meters_.focus_ms = watch.lap_ms();
    clouds_.draw(frame, effect, Lighting::of(effect.stage, frame.lights),
                 projection_of(camera, width, height), stage_);
    meters_.smoke_ms = watch.lap_ms();
    gather(frame, effect, camera, width, height);
    draw_things();
    meters_.dots_ms = watch.lap_ms();
    Stopwatch part;
    gather_bloom(effect.stage);
    meters_.bloom_ms = part.lap_ms();
    glare_.gather(light_, effect.stage, kernels_);
    meters_.glare_ms = part.lap_ms();
    finish(frame, effect.stage, picture);
    meters_.tone_ms = part.lap_ms();
    meters_.finishing_ms = watch.lap_ms();
    meters_.dots = things_.count();
    meters_.triangles = things_.triangles();
    meters_.surface_ms = things_.surface_ms();
    meters_.total_ms = whole.elapsed_ms();
}

size_t Renderer::bytes() const {
    size_t bytes = stage_.bytes() + focus_.bytes() + clouds_.bytes() + sun_map_.bytes() + glare_.bytes() +
                   light_.bytes() + mirror_light_.bytes() + things_.bytes() + mirrored_.bytes() +
                   surfaces_.bytes() + depth_.size() * sizeof(float);
    for (const LightPlanes& level : bloom_levels_) {
        bytes += level.bytes();
    }
    return bytes;
}

void Renderer::gather(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height) {
    const Projection to = projection_of(camera, width, height);
    const Lighting lighting = Lighting::of(effect.stage, frame.lights);
    const int across = tiles_across(stage_.light()), down = tiles_down(stage_.light());
    surfaces_.begin(effect, frame);
    const std::vector<FrameDebris>& debris = cut_apart_ ? cuts_ : frame.debris;
    cuts_ = cut_apart_ ? pieces_apart(frame, *cut_apart_) : std::vector<FrameDebris>();
    sun_map_.draw(debris, frame.colliders, effect.stage, shelf_);
    camera_ = camera;
    kept_in_shadow_ = lighting.kept_in_shadow();
    GatherOptions options = {tint_,
                             is_preview_,
                             {},
                             clouds_.is_on() ? &clouds_ : nullptr,
                             sun_map_.is_on() ? &sun_map_ : nullptr,
                             &debris,
                             cut_apart_.has_value()};
    things_.gather(frame, effect, lighting, to, options, surfaces_, shelf_);
    things_.list_by_tiles(across, down);

    const auto mirror = std::find_if(frame.colliders.begin(), frame.colliders.end(),
                                     [](const FrameCollider& each) { return each.mirror > 0; });
    is_mirrored_ = mirror != frame.colliders.end() && !backdrop_;
    if (is_mirrored_) {
        options.smoke = nullptr;
        options.mirror = MirrorPlane{mirror->row.position, mirror->row.axis_y};
        mirrored_.gather(frame, effect, lighting, options.mirror->seen_by(to), options, surfaces_, shelf_);
        mirrored_.list_by_tiles(across, down);
    }
    shelf_.forget_others();
}

void Renderer::draw_things() {
    const LightPlanes& stage = focus_.is_on() ? focus_.light() : stage_.light();
    depth_.resize(stage_.depth().size());
    if (is_mirrored_) {
        mirror_light_.resize(stage.width, stage.height);
        mirror_depth_.resize(depth_.size());
    }
    const int across = tiles_across(stage);
    const int down = tiles_down(stage);
    if (light_.width != stage.width || light_.height != stage.height) {
        light_.resize(stage.width, stage.height);
        plain_.assign(size_t(across) * size_t(down), 0);
    }
    const bool is_kept = !backdrop_ && !focus_.is_on();
    tile_ms_.resize(size_t(across) * size_t(down));
    const ViewAxes view = axes_of(camera_);
    tbb::parallel_for(0, across * down, [&](int index) {
        const Stopwatch watch;
        Tile tile = tile_at(light_, index, stage_.nearest(index));
        const bool has_solids = things_.has_solids(size_t(index));
        const float* depth = has_solids ? depth_.data() : stage_.depth().data();
        const Canvas canvas = {light_.stride, light_.red.data(), light_.green.data(), light_.blue.data(),
                               depth,         depth_.data()};
        char& plain = plain_[size_t(index)];
        const bool has_stage = plain != 0 && is_kept && !stage_.has_changed(index);
        for (int y = tile.top; y < tile.bottom; ++y) {
            const size_t row = size_t(y) * size_t(light_.stride) + size_t(tile.left);
            const size_t count = size_t(tile.right - tile.left);
            const auto fill = [&](const FloatPlane& from, FloatPlane& to) {
                if (backdrop_) {
                    std::fill_n(to.data() + row, count, *backdrop_);
                } else if (!has_stage) {
                    std::copy_n(from.data() + row, count, to.data() + row);
                }
            };
            fill(stage.red, light_.red);
            fill(stage.green, light_.green);
            fill(stage.blue, light_.blue);
            if (has_solids) {
                std::copy_n(stage_.depth().data() + row, count, depth_.data() + row);
            }
        }
        const bool is_dark =
            sun_map_.is_on() && !backdrop_ &&
            sun_map_.darken(kernels_, view, tile, stage_.farthest(index), kept_in_shadow_, depth, light_);
        const bool has_mirrored = is_mirrored_ && stage_.is_mirror(index) && mirrored_.has_any(size_t(index));
        const bool has_smoke = clouds_.is_in(tile);
        plain = is_kept && !is_dark && !has_mirrored && !things_.has_any(size_t(index)) && !has_smoke;
        if (has_mirrored) {
            draw_mirrored(index, tile);
        }
        if (has_solids) {
            things_.draw_solids(size_t(index), tile, canvas, kernels_, surfaces_);
            tile.nearest = 0;
        }
        for (int y = tile.top; y < tile.bottom && has_smoke; ++y) {
            const size_t row = size_t(y) * size_t(light_.stride);
            clouds_.blend_row(y, tile.left, std::min(tile.right, light_.width), depth + row,
                              light_.red.data() + row, light_.green.data() + row, light_.blue.data() + row);
        }
        things_.draw_blended(size_t(index), tile, canvas, kernels_, surfaces_);
        tile_ms_[size_t(index)] = float(watch.elapsed_ms());
    });
}

// What is mirrored is drawn over the ground as if it were all there, then taken in the share in which the
// ground mirrors.
void Renderer::draw_mirrored(int index, Tile tile) {
    tile.nearest = 0;
    const Canvas canvas = {
        light_.stride,        mirror_light_.red.data(), mirror_light_.green.data(), mirror_light_.blue.data(),
        mirror_depth_.data(), mirror_depth_.data()};
    const int count = tile.right - tile.left;
    const auto each_row = [&](auto visit) {
        for (int y = tile.top; y < tile.bottom; ++y) {
            visit(size_t(y) * size_t(light_.stride) + size_t(tile.left));
        }
    };
    const auto planes = {&LightPlanes::red, &LightPlanes::green, &LightPlanes::blue};
    each_row([&](size_t row) {
        for (const auto plane : planes) {
            std::copy_n((light_.*plane).data() + row, count, (mirror_light_.*plane).data() + row);
        }
        std::fill_n(mirror_depth_.data() + row, count, 1e6f);
    });
    mirrored_.draw_solids(size_t(index), tile, canvas, kernels_, surfaces_);
    mirrored_.draw_blended(size_t(index), tile, canvas, kernels_, surfaces_);
    each_row([&](size_t row) {
        for (const auto plane : planes) {
            float* light = (light_.*plane).data() + row;
            kernels_.mix_row(stage_.mirror().data() + row, light, (mirror_light_.*plane).data() + row, count,
                             light);
        }
    });
}

std::optional<float> Renderer::depth_at(int x, int y) const {
    constexpr float sky_m = 9e5f;
    const auto tile = size_t(y / tile_height * tiles_across(light_) + x / tile_width);
    const FloatPlane& depth = things_.has_solids(tile) ? depth_ : stage_.depth();
    const float nearest = std::min(depth[size_t(y) * size_t(light_.stride) + size_t(x)],
                                   things_.depth_at(tile, float(x) + 0.5f, float(y) + 0.5f));
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
    things_.add_steps(frame, map.across, map.down, map.ms);
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
            add_enlarged(kernels_, bloom_levels_[level], wide_share(stage), y, {to, y});
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
    // The levels' shares add up to 1 - wide^levels.
    const float wide = wide_share(stage);
    bloom_threshold_ = stage.bloom_threshold;
    bloom_share_ = stage.bloom;
    bloom_gain_ = stage.bloom * (1 - wide) / (1 - std::pow(wide, float(bloom_levels_.size())));
    glare_gain_ = stage.glare;
    const Finish finish = {std::exp2(stage.exposure),
                           {tones_[0].data(), tones_[1].data(), tones_[2].data()},
                           light_.width,
                           light_.height,
                           stage.vignette,
                           stage.grain,
                           uint32_t(frame.step)};
    tbb::parallel_for(0, light_.height, [&](int y) {
        thread_local LightPlanes shown;
        shown.resize(light_.width, 1);
        const LightRow row = {shown, 0};
        spread(y, row);
        kernels_.resolve_row(row.red, row.green, row.blue, y, finish,
                             picture.pixels.data() + size_t(y) * size_t(light_.width));
    });
}

// A row of light as the lens spreads it. What is spread is taken from where it shone: the light in all stays
// the same.
void Renderer::spread(int y, const LightRow& out) const {
    const auto copy = [&](const FloatPlane& plane, float* row) {
        std::copy_n(plane.data() + size_t(y) * size_t(light_.stride), light_.stride, row);
        if (!bloom_levels_.empty()) {
            kernels_.take_row(row, bloom_threshold_, bloom_share_, light_.width);
        }
    };
    copy(light_.red, out.red);
    copy(light_.green, out.green);
    copy(light_.blue, out.blue);
    if (!bloom_levels_.empty()) {
        add_enlarged(kernels_, bloom_levels_.front(), bloom_gain_, y, out);
    }
    if (glare_.is_on()) {
        add_enlarged(kernels_, glare_.light(), glare_gain_, y, out);
    }
}

LightPlanes Renderer::light() const {
    LightPlanes light;
    light.resize(light_.width, light_.height);
    tbb::parallel_for(0, light.height, [&](int y) { spread(y, {light, y}); });
    return light;
}

} // namespace ember
