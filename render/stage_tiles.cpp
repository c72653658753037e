// How a tile of the stage is drawn: ever finer while it rests; while something moves in it, only where that
// changes it, and roughly.
#include "render/stage_picture.h"
#include "render/tiles.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <utility>

namespace ember {

void StagePicture::Layer::resize(int width, int height) {
    light.resize(width, height);
    depth.resize(size_t(light.stride) * size_t(height));
    mirror.resize(depth.size());
}

namespace {

template <class Layer>
void copy_area(const Layer& from, Layer& to, const Tile& area) {
    const auto copy = [&](const FloatPlane& source, FloatPlane& target) {
        for (int y = area.top; y < area.bottom; ++y) {
            const size_t first = size_t(y) * size_t(from.light.stride) + size_t(area.left);
            std::copy_n(source.data() + first, area.right - area.left, target.data() + first);
        }
    };
    copy(from.light.red, to.light.red);
    copy(from.light.green, to.light.green);
    copy(from.light.blue, to.light.blue);
    copy(from.depth, to.depth);
    copy(from.mirror, to.mirror);
}

} // namespace

void StagePicture::refine(int tile, const StageScene& half_scene) {
    TileState& state = tiles_[size_t(tile)];
    if (state.is_rough) {
        state.samples = 0;
        state.is_rough = false;
    }
    LightPlanes& light = shown_.light;
    const Tile area = tile_at(light, tile, 0);
    const StageScene scene = scene_of(light.width, light.height, state.samples);
    const float share = 1 / float(state.samples + 1);
    for (int y = area.top; y < area.bottom; ++y) {
        const size_t row = size_t(y) * size_t(light.stride);
        kernels_.stage_row(scene, y, area.left, area.right, share, light.red.data() + row,
                           light.green.data() + row, light.blue.data() + row, shown_.depth.data() + row,
                           shown_.mirror.data() + row);
    }
    if (state.samples++ == 0) {
        measure(tile, shown_, area);
        draw_half(tile, half_scene, half_still_);
    }
    copy_area(shown_, still_, area);
    state.has_still = state.is_still = true;
}

// One sample for each four pixels of a tile; returns where they are.
Tile StagePicture::draw_half(int tile, const StageScene& half_scene, Layer& half) {
    const Tile area = tile_at(shown_.light, tile, 0);
    LightPlanes& light = half.light;
    const Tile half_area = {area.left / 2, area.top / 2, std::min(area.right / 2, light.stride),
                            std::min((area.bottom + 1) / 2, light.height), 0};
    for (int y = half_area.top; y < half_area.bottom; ++y) {
        const size_t row = size_t(y) * size_t(light.stride);
        kernels_.stage_row(half_scene, y, half_area.left, half_area.right, 1, light.red.data() + row,
                           light.green.data() + row, light.blue.data() + row, half.depth.data() + row,
                           half.mirror.data() + row);
    }
    return half_area;
}

// Where the half picture is another than when the tile was drawn finely. False if it is nowhere.
bool StagePicture::find_change(const Tile& half_area) {
    // In shares of the light: less is not seen, more is another picture.
    constexpr float unseen = 0.02f, plain = 0.06f, dark = 0.003f;
    constexpr float same_depth = 0.01f; // share
    float most = 0;
    for (int y = half_area.top; y < half_area.bottom; ++y) {
        for (int x = half_area.left; x < half_area.right; ++x) {
            const size_t at = size_t(y) * size_t(half_.light.stride) + size_t(x);
            float apart = 0, bright = dark;
            for (const auto plane : {&LightPlanes::red, &LightPlanes::green, &LightPlanes::blue}) {
                const float now = (half_.light.*plane)[at], before = (half_still_.light.*plane)[at];
                apart = std::max(apart, std::fabs(now - before));
                bright = std::max({bright, now, before});
            }
            const float now = half_.depth[at], before = half_still_.depth[at];
            const bool is_moved = std::fabs(now - before) > same_depth * std::min(now, before);
            const float change =
                is_moved ? 1.0f : std::clamp((apart / bright - unseen) / (plain - unseen), 0.0f, 1.0f);
            change_.data()[at] = change;
            most = std::max(most, change);
        }
    }
    return most > 0;
}

// Only what has changed is drawn roughly, where it is known how the rest looks.
void StagePicture::draw_roughly(int tile, const StageScene& half_scene) {
    TileState& state = tiles_[size_t(tile)];
    const Tile area = tile_at(shown_.light, tile, 0), half_area = draw_half(tile, half_scene, half_);
    state.is_rough = true;
    measure(tile, half_, half_area);
    const bool has_changed = !state.has_still || find_change(half_area);
    const bool was_still = std::exchange(state.is_still, !has_changed);
    if (!has_changed) {
        if (was_still) {
            state.next = Next::nothing;
        } else {
            copy_area(still_, shown_, area);
        }
        return;
    }
    // Between four samples of the tile, 9 : 3 : 3 : 1; depth from the nearest.
    float scratch[tile_width / 2 + 2];
    const int width = area.right - area.left, half_width = half_area.right - half_area.left;
    for (int y = area.top; y < area.bottom; ++y) {
        const int near = std::min(y / 2, half_area.bottom - 1);
        const int far = std::clamp(y % 2 == 0 ? near - 1 : near + 1, half_area.top, half_area.bottom - 1);
        const size_t near_row = size_t(near) * size_t(half_.light.stride) + size_t(half_area.left);
        const size_t far_row = size_t(far) * size_t(half_.light.stride) + size_t(half_area.left);
        const size_t row = size_t(y) * size_t(shown_.light.stride) + size_t(area.left);
        const auto enlarge = [&](const FloatPlane& from, float* out) {
            std::fill_n(out, width, 0.0f);
            kernels_.enlarge_row(from.data() + near_row, from.data() + far_row, half_width, width, 1, scratch,
                                 out);
        };
        alignas(64) float change[tile_width], rough[tile_width];
        if (state.has_still) {
            enlarge(change_, change);
        }
        const auto mix = [&](const FloatPlane& still, FloatPlane& shown) {
            if (state.has_still) {
                kernels_.mix_row(change, still.data() + row, rough, width, shown.data() + row);
            } else {
                std::copy_n(rough, width, shown.data() + row);
            }
        };
        for (const auto plane : {&LightPlanes::red, &LightPlanes::green, &LightPlanes::blue}) {
            enlarge(half_.light.*plane, rough);
            mix(still_.light.*plane, shown_.light.*plane);
        }
        const auto double_row = [&](const FloatPlane& from, const FloatPlane& still, FloatPlane& shown) {
            const float* in = from.data() + near_row;
            for (int x = 0; x < width; ++x) {
                const bool is_kept = state.has_still && change[x] < 0.5f;
                shown.data()[row + size_t(x)] =
                    is_kept ? still[row + size_t(x)] : in[std::min(x / 2, half_width - 1)];
            }
        };
        double_row(half_.depth, still_.depth, shown_.depth);
        double_row(half_.mirror, still_.mirror, shown_.mirror);
    }
}

// What a tile shows in these pixels.
void StagePicture::measure(int tile, const Layer& layer, const Tile& area) {
    const auto stride = size_t(layer.light.stride);
    TileState& state = tiles_[size_t(tile)];
    state.nearest = std::numeric_limits<float>::max();
    state.farthest = 0;
    state.is_mirror = false;
    for (int y = area.top; y < area.bottom; ++y) {
        const float* row = layer.depth.data() + size_t(y) * stride;
        const auto [least, largest] = std::minmax_element(row + area.left, row + area.right);
        state.nearest = std::min(state.nearest, *least);
        state.farthest = std::max(state.farthest, *largest);
        const float* mirrored = layer.mirror.data() + size_t(y) * stride;
        state.is_mirror = state.is_mirror || std::any_of(mirrored + area.left, mirrored + area.right,
                                                         [](float share) { return share > 0.002f; });
    }
}

} // namespace ember
