#include "core/scene/placements.h"

#include "core/base/hash.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr double two_pi = 2 * std::numbers::pi;

// Position and turn of a mover within its own place.
struct Motion {
    double time_s, run_s; // see StepTime
    uint32_t seed;
    const PreparedElement& ready;

    Placement operator()(const PathMover& mover) const {
        double way = time_s / double(mover.period) + double(mover.phase);
        if (mover.at_end == PathEnd::loop) {
            way -= std::floor(way);
        } else if (mover.at_end == PathEnd::return_back) {
            way = std::fabs(way - 2 * std::floor(way / 2 + 0.5));
        }
        const PathPoint at = ready.path.at(float(std::clamp(way, 0.0, 1.0)));
        if (!mover.turns_along) {
            return {at.position, {}};
        }
        const Vec3 side = normalized(cross(at.tangent, {0, 1, 0}), {0, 0, 1});
        return {at.position, {at.tangent, cross(side, at.tangent), side}};
    }
    Placement operator()(const Orbit& mover) const {
        const double rounds = std::fabs(mover.period) > 1e-3f ? time_s / double(mover.period) : 0;
        const double angle = two_pi * (rounds + double(mover.phase));
        const auto c = float(std::cos(angle)), s = float(std::sin(angle));
        const Axes turned = {{c, 0, -s}, {0, 1, 0}, {s, 0, c}};
        return {turned.x * mover.radius, mover.turns_along ? turned : Axes()};
    }
    Placement operator()(const Swing& mover) const {
        const double share = time_s / double(mover.period) + double(mover.phase);
        return {{}, turned_axes({0, 0, mover.angle * float(std::sin(two_pi * share))})};
    }
    Placement operator()(const Wander& mover) const {
        const auto along = [&](uint32_t axis, float extent) {
            return 0.5f * extent * wandering(run_s * double(mover.pace), mixed_seed(seed, axis));
        };
        return {{along(1, mover.extent.x), along(2, mover.extent.y), along(3, mover.extent.z)}, {}};
    }
    Placement operator()(const KeyedMover& mover) const {
        if (!ready.keys) {
            return {};
        }
        const Key key = ready.keys->at(time_s - double(mover.start), mover.loop);
        return {key.position, turned_axes(key.turn)};
    }
    Placement operator()(const Plane& plane) const { return {{}, axes_along_y(normalized(plane.normal))}; }
    Placement operator()(const auto&) const { return {}; }

  private:
    // A smooth way through random numbers -1..1, one for each whole `place` (Catmull-Rom).
    static float wandering(double place, uint32_t seed) {
        const double whole = std::floor(place);
        const auto t = float(place - whole);
        const auto level = [&](int offset) {
            return float(mixed_seed(seed, uint32_t(int64_t(whole) + offset))) / 2147483648.0f - 1.0f;
        };
        const float a = level(-1), b = level(0), c = level(1), d = level(2);
        return b + 0.5f * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)));
    }
};

class Finder {
  public:
    Finder(const PreparedEffect& prepared, double time_s)
        : prepared_(prepared), time_s_(time_s), found_(prepared.effect->elements.size()),
          placements_(found_.size()) {}

    std::vector<Placement> all() {
        for (size_t i = 0; i < placements_.size(); ++i) {
            find(i);
        }
        return std::move(placements_);
    }

  private:
    const Placement& find(size_t i) {
        if (found_[i]) {
            return placements_[i];
        }
        found_[i] = true; // also ends a circle, which checks keep out
        const Element& element = prepared_.effect->elements[i];
        const Place* place = place_of(element.body);
        if (place == nullptr) {
            return placements_[i];
        }
        Placement below;
        if (const auto ridden = prepared_.index_of(place->rides_on)) {
            below = find(*ridden);
        }
        const bool turns = !std::holds_alternative<Plane>(element.body);
        Placement own = below.carrying(place->position, turns ? place->turn : Vec3());
        const uint32_t seed = mixed_seed(prepared_.effect->seed, hash_of(element.id));
        const double time = element.muted ? 0 : time_s_;
        const double run = time + double(prepared_.effect->stage.warm_up);
        const Placement within = std::visit(Motion{time, run, seed, *prepared_.elements[i]}, element.body);
        own = {own.position + own.axes.out(within.position), own.axes.out(within.axes)};
        if (std::holds_alternative<Pointer>(element.body) && !element.muted) {
            const Inputs& inputs = prepared_.inputs;
            const Vec3 before = pointed_at(own, inputs.pointer_before);
            const double share = (time_s_ - inputs.now_s) / inputs.step_s + 1;
            own.position =
                before + (pointed_at(own, inputs.pointer_now) - before) * float(std::clamp(share, 0.0, 1.0));
        }
        return placements_[i] = own;
    }

    // Where the pointer's line of sight meets a plane; the middle of the plane if it does not, or only far
    // off.
    static Vec3 pointed_at(const Placement& plane, const std::optional<PointerRay>& ray) {
        constexpr float farthest_m = 100;
        if (!ray) {
            return plane.position;
        }
        const float slope = dot(ray->way, plane.axes.y);
        const float way = dot(plane.position - ray->from, plane.axes.y) / slope;
        return way > 0 && way < farthest_m ? ray->from + ray->way * way : plane.position;
    }

    const PreparedEffect& prepared_;
    double time_s_;
    std::vector<char> found_;
    std::vector<Placement> placements_;
};

} // namespace

std::vector<Placement> placements_at(const PreparedEffect& prepared, double time_s) {
    return Finder(prepared, time_s).all();
}

int StepTime::moments(double first, double every) const {
    const auto before = [&](double t) {
        if (t < first) {
            return 0.0;
        }
        return every > 0 ? std::floor((t - first) / every + 1e-9) + 1 : 1.0;
    };
    return int(before(end_s() - 1e-9) - before(start_s() - 1e-9));
}

StepPlacements placements_in(const PreparedEffect& prepared, const StepTime& time) {
    return {placements_at(prepared, time.start_s()),
            placements_at(prepared, time.start_s() + time.step_s / 2), placements_at(prepared, time.end_s())};
}

Placement riding(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                 const std::string& id, const Vec3& offset, const Vec3& turn_degrees) {
    const auto index = prepared.index_of(id);
    return (index ? placements[*index] : Placement()).carrying(offset, turn_degrees);
}

} // namespace ember
