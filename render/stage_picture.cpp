#include "render/stage_picture.h"

#include "core/base/axes.h"
#include "core/base/stopwatch.h"
#include "render/tiles.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <numbers>
#include <optional>

namespace ember {

namespace {

// Beyond this nothing that moves is seen to darken a surface (m).
constexpr float closeness_m = 0.8f;
// From here to there it darkens it only softly (m).
constexpr float close_m = 0.4f;
// Of tiles that change softly one in so many is drawn in a picture.
constexpr int soft_turns = 3;
// Farther parts of a tile are not looked at for shadows (m).
constexpr float far_m = 80;
// Lamps that are told apart.
constexpr size_t lamp_bits = 64;

StageShape shape_of(const ColliderRow& row, const Vec3& colour) {
    if (row.kind == COLLIDER_BALL || row.kind == COLLIDER_CAPSULE || row.kind == COLLIDER_CYLINDER) {
        const float radius = row.half_size.x + (row.kind == COLLIDER_BALL ? 0.0f : row.half_size.y);
        return {row, colour, row.position, radius, {}};
    }
    // The box that a grid fills.
    const Axes axes = {row.axis_x, row.axis_y, row.axis_z};
    Vec3 low = row.grid_low, high = row.half_size;
    if (row.kind == COLLIDER_DISTANCES) {
        high = low + row.grid_cells * (1 / row.per_cell.x);
    } else {
        low = {-high.x, -2 * high.y, -high.z};
        high.y *= 2;
    }
    const Vec3 middle = row.position + axes.out((low + high) * 0.5f);
    const Vec3 half = (high - low) * 0.5f;
    return {row, colour, middle, length(half), {middle, axes.x, axes.y, axes.z, half, colour, length(half)}};
}

bool same_place(const FrameCollider& a, const FrameCollider& b) {
    const ColliderRow &p = a.row, &q = b.row;
    return p.kind == q.kind && p.position == q.position && p.axis_x == q.axis_x && p.axis_y == q.axis_y &&
           p.half_size == q.half_size && p.grid == q.grid && p.grid_low == q.grid_low &&
           p.per_cell == q.per_cell && a.colour == b.colour && a.mirror == b.mirror && a.puddles == b.puddles;
}

// The ball that holds a collider; nothing for a plane.
std::optional<StageShape> bounds_of(const FrameCollider& collider) {
    const ColliderRow& row = collider.row;
    if (row.kind == COLLIDER_PLANE) {
        return std::nullopt;
    }
    if (row.kind == COLLIDER_BOX) {
        return StageShape{row, {}, row.position, length(row.half_size), {}};
    }
    return shape_of(row, {});
}

// The means of what lies low over the horizon, and above.
class SkyMeans {
  public:
    /// `height`: the sine of the angle over the horizon; `share`: of the sky all round.
    void add(float height, const Colour& colour, float share) {
        constexpr float low = 0.25f;
        if (height > 0) {
            Part& part = height < low ? horizon_ : top_;
            part.sum = part.sum + rgb(colour) * (colour.alpha * share);
            part.share += share;
        }
    }
    SkyLight sky() const { return {top_.mean(), horizon_.mean()}; }

  private:
    struct Part {
        Vec3 sum;
        float share = 0;
        Vec3 mean() const { return sum * (1 / std::max(share, 1e-9f)); }
    };
    Part top_, horizon_;
};

SkyLight sky_in(const LifeTable<Colour>& ramp) {
    SkyMeans means;
    for (size_t i = 0; i < ramp.values.size(); ++i) {
        // Equal heights are equal shares of the sky (Archimedes).
        Colour colour = ramp.values[i];
        colour.alpha = 1; // a ramp has no opacity
        means.add(2 * float(i) / float(ramp.values.size() - 1) - 1, colour, 1);
    }
    return means.sky();
}

SkyLight sky_in(const Image& panorama) {
    SkyMeans means;
    for (int y = 0; y < panorama.height; ++y) {
        const float down = (float(y) + 0.5f) / float(panorama.height) * std::numbers::pi_v<float>;
        for (int x = 0; x < panorama.width; ++x) {
            means.add(std::cos(down), panorama.pixels[size_t(y) * size_t(panorama.width) + size_t(x)],
                      std::sin(down));
        }
    }
    return means.sky();
}

std::shared_ptr<const Image> image_of(const Stage& stage, const Frame& frame) {
    const std::vector<AssetNeed> needs = needs_of(stage);
    return needs.empty() || frame.assets == nullptr ? nullptr
                                                    : frame.assets->find<Image>(needs.front().key());
}

} // namespace

void StagePicture::read_background(const Frame& frame) {
    const LifeTable<Colour> ramp = sampled(stage_.background_ramp);
    for (size_t i = 0; i < ramp.values.size(); ++i) {
        ramp_[0].values[i] = ramp.values[i].red;
        ramp_[1].values[i] = ramp.values[i].green;
        ramp_[2].values[i] = ramp.values[i].blue;
    }
    if (const auto image = image_of(stage_, frame); image != image_) {
        image_ = image;
        for (std::vector<float>& plane : panorama_) {
            plane.clear();
        }
        for (const Colour& c : image_ != nullptr ? image_->pixels : std::vector<Colour>()) {
            panorama_[0].push_back(c.red * c.alpha);
            panorama_[1].push_back(c.green * c.alpha);
            panorama_[2].push_back(c.blue * c.alpha);
        }
        panorama_sky_ = image_ != nullptr ? sky_in(*image_) : SkyLight();
    }
    sky_ = {rgb(stage_.sky_top), rgb(stage_.sky_horizon)};
    if (stage_.background_lights && stage_.background == Background::ramp) {
        sky_ = sky_in(ramp);
    } else if (stage_.background_lights && image_ != nullptr) {
        sky_ = panorama_sky_;
    } else {
        return;
    }
    sky_.top = sky_.top * stage_.background_strength;
    sky_.horizon = sky_.horizon * stage_.background_strength;
}

bool StagePicture::is_settled() const {
    return std::all_of(tiles_.begin(), tiles_.end(),
                       [](const TileState& tile) { return tile.samples >= most_samples && !tile.is_rough; });
}

bool StagePicture::draw(const Frame& frame, const Stage& stage, const Camera& camera, int width, int height) {
    std::vector<Moved> moved;
    const bool same_view = shown_.light.width == width && shown_.light.height == height &&
                           camera_ == camera && stage_ == stage && image_ == image_of(stage, frame) &&
                           find_moved(frame, moved);
    if (!same_view) {
        stage_ = stage;
        camera_ = camera;
        for (Layer* layer : {&shown_, &still_}) {
            layer->resize(width, height);
        }
        for (Layer* layer : {&half_, &half_still_}) {
            layer->resize((width + 1) / 2, (height + 1) / 2);
        }
        change_.resize(half_.depth.size());
        read_background(frame);
        tiles_.assign(size_t(tiles_across(shown_.light) * tiles_down(shown_.light)), {});
        moved.clear();
    }
    colliders_ = frame.colliders;
    frame_lights_ = frame.lights;
    lights_.clear();
    for (const FrameLight& lamp : frame_lights_) {
        lights_.push_back({lamp.position, lamp.direction, lamp.light, lamp.reach, lamp.cos_outer,
                           lamp.cos_inner, lamp.shadows});
    }
    planes_.clear();
    boxes_.clear();
    shapes_.clear();
    for (const FrameCollider& collider : colliders_) {
        const ColliderRow& row = collider.row;
        const Vec3 colour = rgb(collider.colour);
        if (row.kind == COLLIDER_PLANE) {
            planes_.push_back({row.position, row.axis_y, colour, collider.mirror, collider.puddles});
        } else if (row.kind == COLLIDER_BOX) {
            boxes_.push_back({row.position, row.axis_x, row.axis_y, row.axis_z, row.half_size, colour,
                              length(row.half_size)});
        } else {
            shapes_.push_back(shape_of(row, colour));
        }
    }
    const bool changes = !moved.empty() || !is_settled();
    choose(moved);
    const StageScene half_scene = scene_of(half_.light.width, half_.light.height, 0);
    tbb::parallel_for(0, int(tiles_.size()), [&](int tile) {
        const Stopwatch watch;
        TileState& state = tiles_[size_t(tile)];
        if (state.next == Next::rough) {
            draw_roughly(tile, half_scene);
        } else if (state.next == Next::finer) {
            refine(tile, half_scene);
        }
        state.ms = float(watch.elapsed_ms());
    });
    return changes;
}

double StagePicture::share_out(double ms, std::vector<double>& element_ms) const {
    double whole = 1e-9, sum = 0;
    for (const TileState& tile : tiles_) {
        whole += double(tile.ms);
    }
    for (const TileState& tile : tiles_) {
        const double share = double(tile.ms) * ms / whole / std::max(std::popcount(tile.lamps), 1);
        for (size_t i = 0; i < frame_lights_.size() && tile.lamps != 0; ++i) {
            if ((tile.lamps >> i % lamp_bits & 1) != 0) {
                element_ms[frame_lights_[i].element] += share;
                sum += share;
            }
        }
    }
    return sum;
}

// What becomes of each tile. While something moves only some become finer in each picture: those that it has
// left would take more time than those that it is in. What is rough comes first.
void StagePicture::choose(const std::vector<Moved>& moved) {
    turn_ = (turn_ + 1) % soft_turns;
    tbb::parallel_for(size_t(0), tiles_.size(), [&](size_t tile) {
        TileState& state = tiles_[tile];
        const Touched touched = touch_of(int(tile), moved);
        const Touch touch = touched.most();
        state.lamps = touched.by_bodies == Touch::plain ? 0 : touched.lamps;
        const bool is_empty = !state.is_rough && state.samples == 0;
        if (touch == Touch::soft && !is_empty && int(tile) % soft_turns != turn_) {
            state.next = Next::nothing;
            state.is_rough = true; // once all rests, it has to be drawn anew
        } else if (touch != Touch::none) {
            state.next = Next::rough;
        } else if (!moved.empty() && state.is_rough && state.is_still) {
            state.next = Next::nothing;
        } else if (!moved.empty() && state.is_rough && state.has_still && state.was_touched) {
            state.next = Next::rough; // what has moved has left it: a look whether it is as before
        } else {
            state.next = state.samples >= most_samples && !state.is_rough ? Next::nothing : Next::finer;
        }
        state.was_touched = touch != Touch::none;
    });
    if (moved.empty()) {
        return;
    }
    size_t rough = std::max<size_t>(tiles_.size() / 8, 1), finer = std::max<size_t>(tiles_.size() / 32, 1);
    size_t touched = std::max<size_t>(tiles_.size() / 128, 1);
    for (TileState& state : tiles_) {
        const bool is_empty = !state.is_rough && state.samples == 0;
        if (state.next == Next::rough && !state.has_still && touched > 0) {
            state.next = Next::finer;
            --touched;
        } else if (state.next == Next::finer && !is_empty) {
            size_t& left = state.is_rough ? rough : finer;
            state.next = left > 0 ? Next::finer : Next::nothing;
            left -= left > 0 ? 1 : 0;
        }
    }
}

// Sample places within the pixel: the middle, then the R2 sequence (M. Roberts, 2018), which fills a square
// evenly.
StageScene StagePicture::scene_of(int width, int height, int sample) const {
    const ViewAxes view = ember::axes_of(camera_);
    const auto shift = [sample](double step) {
        const double place = 0.5 + step * sample;
        return float(place - std::floor(place));
    };
    return {view.eye,
            view.right,
            view.up,
            view.forward,
            view.focal,
            view.lowered,
            width,
            height,
            shift(0.7548776662466927),
            shift(0.5698402909980532),
            direction_from(stage_.sun_azimuth, stage_.sun_height),
            rgb(stage_.sun_colour) * stage_.sun_strength,
            sky_.top,
            sky_.horizon,
            stage_.sky_strength,
            stage_.mist,
            int(stage_.background),
            {ramp_[0].values.data(), ramp_[1].values.data(), ramp_[2].values.data()},
            {panorama_[0].data(), panorama_[1].data(), panorama_[2].data(),
             image_ != nullptr ? image_->width : 0, image_ != nullptr ? image_->height : 0,
             stage_.background_turn / 360},
            stage_.background_strength,
            stage_.stars,
            std::pow(std::max(1.3f / (view.focal * float(height)), 0.0006f) * 1.6f, 2.0f),
            planes_,
            boxes_,
            shapes_,
            lights_};
}

// The places that moving colliders have left and come to. False if everything has to be drawn anew.
bool StagePicture::find_moved(const Frame& frame, std::vector<Moved>& moved) const {
    const std::vector<FrameCollider>& now = frame.colliders;
    if (now.size() != colliders_.size() || frame.lights.size() != frame_lights_.size()) {
        return false;
    }
    for (size_t i = 0; i < frame.lights.size(); ++i) {
        if (frame.lights[i] == frame_lights_[i]) {
            continue;
        }
        for (const FrameLight& lamp : {frame_lights_[i], frame.lights[i]}) {
            moved.push_back({lamp.position, lamp.reach, i});
        }
    }
    for (size_t i = 0; i < now.size(); ++i) {
        if (same_place(now[i], colliders_[i])) {
            continue;
        }
        for (const FrameCollider* each : {&colliders_[i], &now[i]}) {
            const auto bounds = bounds_of(*each);
            if (!bounds) {
                return false;
            }
            moved.push_back({bounds->middle, bounds->radius});
        }
    }
    return true;
}

// Whether anything that has moved can be seen in a tile, or darkens what is seen there.
StagePicture::Touched StagePicture::touch_of(int tile, const std::vector<Moved>& moved) const {
    if (moved.empty()) {
        return {};
    }
    // A ball round what the tile shows, from its nearest to its farthest surface.
    const TileState& state = tiles_[size_t(tile)];
    const Tile area = tile_at(shown_.light, tile, 0);
    const ViewAxes view = ember::axes_of(camera_);
    const float scale = 2 / (float(shown_.light.height) * view.focal);
    const auto ray = [&](int x, int y) {
        return view.forward + view.right * ((float(x) - float(shown_.light.width) * 0.5f) * scale) +
               view.up * ((float(shown_.light.height) * 0.5f * (1 + view.lowered) - float(y)) * scale);
    };
    const Vec3 middle_ray = ray((area.left + area.right) / 2, (area.top + area.bottom) / 2);
    const float wide = length(ray(area.left, area.top) - middle_ray); // per metre of depth
    const float farthest = std::min(state.farthest, far_m);
    const float nearest = std::min(state.nearest, farthest);
    const Vec3 middle = view.eye + middle_ray * ((nearest + farthest) * 0.5f);
    const float radius = (farthest - nearest) * 0.5f * length(middle_ray) + wide * farthest;
    const Vec3 from_sun = direction_from(stage_.sun_azimuth, stage_.sun_height) * -1.0f;
    const Vec3 along_ray = normalized(middle_ray);
    const float tile_spread = wide / length(middle_ray);

    const auto touch_by = [&](const Moved& each) {
        const Vec3 from_eye = each.middle - view.eye;
        const float depth = dot(from_eye, along_ray);
        const float beside = length(from_eye - along_ray * depth);
        const bool in_front =
            depth > -each.radius && beside < each.radius * 1.1f + tile_spread * std::max(depth, 0.0f);
        const Vec3 way = middle - each.middle;
        const float gap = length(way) - radius - each.radius;
        const float behind = dot(way, from_sun);
        const float off_axis = length(way - from_sun * behind);
        const bool in_shadow = behind > -(radius + each.radius) &&
                               off_axis < radius + each.radius * 1.2f + 0.07f * std::max(behind, 0.0f);
        // A lamp's shadow widens behind what casts it.
        const auto hides_lamp = [&](const FrameLight& lamp) {
            const Vec3 to_each = each.middle - lamp.position, to_tile = middle - lamp.position;
            const float apart = length(to_each);
            if (!lamp.shadows || apart > lamp.reach + each.radius || length(to_tile) > lamp.reach + radius) {
                return false;
            }
            if (apart <= each.radius) {
                return true; // it is round the lamp
            }
            const Vec3 way_on = to_each / apart;
            const float along = dot(to_tile, way_on);
            const float spread = each.radius / std::sqrt(apart * apart - each.radius * each.radius);
            return along > apart - each.radius - radius &&
                   length(to_tile - way_on * along) < radius * (1 + spread) + spread * std::max(along, 0.0f);
        };
        const bool is_plain = in_front || gap < close_m || in_shadow ||
                              std::any_of(frame_lights_.begin(), frame_lights_.end(), hides_lamp);
        return is_plain ? Touch::plain : gap < closeness_m ? Touch::soft : Touch::none;
    };
    Touched touched;
    for (const Moved& each : moved) {
        if (!each.lamp) {
            touched.by_bodies = std::max(touched.by_bodies, touch_by(each));
        } else if (length(middle - each.middle) < radius + each.radius) {
            touched.lamps |= uint64_t(1) << *each.lamp % lamp_bits;
        }
    }
    return touched;
}

} // namespace ember
