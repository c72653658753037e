#include "render/renderer.h"

#include "core/base/stopwatch.h"
#include "render/tiles.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <limits>

namespace ember {

namespace {

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
                {i,
                 i,
                 {whole.position + whole.axes.out(centre + (centre - middle) * apart), whole.axes},
                 1,
                 1});
        }
    }
    return cuts;
}

} // namespace

Renderer::Renderer(Isa isa)
    : kernels_(render_kernels(isa)), stage_(kernels_), clouds_(kernels_, isa), finishing_(kernels_) {}

void Renderer::draw(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height,
                    Picture& picture) {
    const Stopwatch whole;
    draw_light(frame, effect, camera, width, height);
    const Stopwatch watch;
    finishing_.finish(light_, effect.stage, uint32_t(frame.step), picture);
    meters_.finishing = finishing_.meters();
    meters_.finishing_ms = watch.elapsed_ms();
    meters_.total_ms = whole.elapsed_ms();
}

const LightPlanes& Renderer::draw_light(const Frame& frame, const Effect& effect, const Camera& camera,
                                        int width, int height, bool is_smooth) {
    Stopwatch watch;
    bool stage_changed = false;
    do {
        stage_changed |= stage_.draw(frame, effect.stage, camera, width, height);
    } while (is_smooth && !is_settled());
    meters_.stage_ms = watch.lap_ms();
    focus_.draw(stage_, stage_changed, effect.stage, camera, kernels_);
    meters_.focus_ms = watch.lap_ms();
    clouds_.draw(frame, effect, Lighting::of(effect.stage, stage_.sky(), frame.lights),
                 projection_of(camera, width, height), stage_);
    meters_.smoke_ms = watch.lap_ms();
    Stopwatch drawing;
    gather(frame, effect, camera, width, height);
    drawing.lap_ms();
    draw_things();
    share_out(frame, drawing.elapsed_ms());
    meters_.dots_ms = watch.lap_ms();
    meters_.dots = things_.count();
    meters_.triangles = things_.triangles();
    meters_.surface_ms = things_.surface_ms();
    return light_;
}

size_t Renderer::bytes() const {
    return stage_.bytes() + focus_.bytes() + clouds_.bytes() + sun_map_.bytes() + finishing_.bytes() +
           light_.bytes() + mirror_light_.bytes() + things_.bytes() + mirrored_.bytes() + surfaces_.bytes() +
           depth_.size() * sizeof(float);
}

void Renderer::gather(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height) {
    const Projection to = projection_of(camera, width, height);
    const Lighting lighting = Lighting::of(effect.stage, stage_.sky(), frame.lights);
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
    tile_times_.assign(size_t(across) * size_t(down), {});
    const ViewAxes view = axes_of(camera_);
    tbb::parallel_for(0, across * down, [&](int index) {
        const Stopwatch watch;
        TileTimes& times = tile_times_[size_t(index)];
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
            draw_mirrored(index, tile, times.mirrored);
        }
        if (has_solids) {
            things_.draw_solids(size_t(index), tile, canvas, kernels_, surfaces_, times.own);
            tile.nearest = 0;
        }
        for (int y = tile.top; y < tile.bottom && has_smoke; ++y) {
            const size_t row = size_t(y) * size_t(light_.stride);
            clouds_.blend_row(y, tile.left, std::min(tile.right, light_.width), depth + row,
                              light_.red.data() + row, light_.green.data() + row, light_.blue.data() + row);
        }
        things_.draw_blended(size_t(index), tile, canvas, kernels_, surfaces_, times.own);
        times.whole_ms = watch.elapsed_ms();
    });
}

// What is mirrored is drawn over the ground as if it were all there, then taken in the share in which the
// ground mirrors.
void Renderer::draw_mirrored(int index, Tile tile, KindTimes& times) {
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
    mirrored_.draw_solids(size_t(index), tile, canvas, kernels_, surfaces_, times);
    mirrored_.draw_blended(size_t(index), tile, canvas, kernels_, surfaces_, times);
    each_row([&](size_t row) {
        for (const auto plane : planes) {
            float* light = (light_.*plane).data() + row;
            kernels_.mix_row(stage_.mirror().data() + row, light, (mirror_light_.*plane).data() + row, count,
                             light);
        }
    });
}

// Time of single threads is scaled so that it adds up to what the artist waits for.
void Renderer::share_out(const Frame& frame, double drawing_ms) {
    double whole = 1e-9;
    KindTimes own, mirrored;
    for (const TileTimes& times : tile_times_) {
        whole += times.whole_ms;
        own += times.own;
        mirrored += times.mirrored;
    }
    const double scale = drawing_ms / whole;
    for (auto* times : {&meters_.element_ms, &meters_.element_readied_ms}) {
        times->assign(frame.effect ? frame.effect->elements.size() : 0, 0);
    }
    things_.share_out(own * scale, meters_.element_ms, meters_.element_readied_ms);
    if (is_mirrored_) {
        mirrored_.share_out(mirrored * scale, meters_.element_ms, meters_.element_readied_ms);
    }
    clouds_.share_out(meters_.smoke_ms, frame.lights, meters_.element_ms);
    meters_.lamps_ms = stage_.share_out(meters_.stage_ms, meters_.element_ms);
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
    const size_t tiles = tile_times_.size();
    map.ms.assign(tiles, float((meters_.finishing_ms + meters_.focus_ms) / double(tiles)));

    // Time of single threads is scaled so that tiles add up to what the artist waits for.
    double stage_sum = 1e-9, dots_sum = 1e-9;
    for (size_t tile = 0; tile < tiles; ++tile) {
        stage_sum += double(stage_.tile_ms(int(tile)));
        dots_sum += tile_times_[tile].whole_ms;
    }
    for (size_t tile = 0; tile < tiles; ++tile) {
        map.ms[tile] += float(double(stage_.tile_ms(int(tile))) * meters_.stage_ms / stage_sum +
                              tile_times_[tile].whole_ms * meters_.dots_ms / dots_sum);
    }
    things_.add_steps(frame, map.across, map.down, map.ms);
    return map;
}

} // namespace ember
