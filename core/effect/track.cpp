#include "core/effect/track.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ember {

namespace {

using Parts = std::array<float, 3>;

Parts parts_of(const Value& value) {
    if (const auto* range = std::get_if<Range>(&value)) {
        return {range->low, range->high, 0};
    }
    if (const auto* vector = std::get_if<Vec3>(&value)) {
        return {vector->x, vector->y, vector->z};
    }
    if (const auto* colour = std::get_if<Colour>(&value)) {
        return {colour->red, colour->green, colour->blue};
    }
    if (const auto* number = std::get_if<int>(&value)) {
        return {float(*number), 0, 0};
    }
    if (const auto* on = std::get_if<bool>(&value)) {
        return {*on ? 1.0f : 0.0f, 0, 0};
    }
    return {std::get<float>(value), 0, 0};
}

// What the effect's own camera is set by: nothing drives it, but it may fly along a track.
bool is_of_camera(std::string_view key) {
    return key.starts_with("camera_") || key == "field_of_view";
}

// The light that a colour may have.
constexpr float most_light = 1000;

Range keyed_limits(const Parameter& parameter) {
    switch (parameter.kind) {
    case ParameterKind::toggle:
        return {0, 1};
    case ParameterKind::choice:
        return {0, float(parameter.choices.size()) - 1};
    case ParameterKind::colour:
        return {0, most_light};
    default:
        return {float(parameter.hard_low), float(parameter.hard_high)};
    }
}

Value value_of(const Parameter& parameter, const Parts& parts) {
    switch (parameter.kind) {
    case ParameterKind::range:
        return Range{parts[0], std::max(parts[0], parts[1])};
    case ParameterKind::vector:
        return Vec3{parts[0], parts[1], parts[2]};
    case ParameterKind::colour:
        return Colour{parts[0], parts[1], parts[2], 1};
    case ParameterKind::toggle:
        return parts[0] >= 0.5f;
    case ParameterKind::choice:
    case ParameterKind::count:
        return int(std::lround(parts[0]));
    default:
        return parts[0];
    }
}

// The last key that has come; before the first, that.
float switched(const Curve& curve, double time_s) {
    constexpr double rounding_s = 1e-4; // of a key's moment, far below a step
    const auto next = std::upper_bound(curve.points.begin(), curve.points.end(), time_s + rounding_s,
                                       [](double t, const Curve::Point& p) { return t < double(p.time); });
    return next == curve.points.begin() ? curve.points.front().value : std::prev(next)->value;
}

// Of the parameter, or nullptr if it cannot be keyed.
const Parameter* keyed(const Effect& effect, std::string_view holder_id, std::string_view key) {
    const auto holder = find_holder(effect, holder_id);
    const Parameter* parameter = holder ? holder->find(key) : nullptr;
    return parameter != nullptr && track_parts(*parameter) > 0 ? parameter : nullptr;
}

auto key_at(std::vector<Curve::Point>& points, double time_s) {
    return std::find_if(points.begin(), points.end(), [&](const Curve::Point& point) {
        return std::fabs(double(point.time) - time_s) < double(one_key_s);
    });
}

void put(std::vector<Curve::Point>& points, Curve::Point key) {
    if (const auto same = key_at(points, double(key.time)); same != points.end()) {
        points.erase(same);
    }
    const auto behind = std::upper_bound(points.begin(), points.end(), key.time,
                                         [](float t, const Curve::Point& p) { return t < p.time; });
    points.insert(behind, key);
}

Track& track_in(Effect& effect, std::string_view holder, std::string_view parameter) {
    return *std::find_if(effect.tracks.begin(), effect.tracks.end(), [&](const Track& track) {
        return track.holder == holder && track.parameter == parameter;
    });
}

float at_moment(double time_s) {
    return std::clamp(float(time_s), first_key_s, last_key_s);
}

} // namespace

int track_parts(const Parameter& parameter) {
    if (parameter.is_fixed && !is_of_camera(parameter.key)) {
        return 0;
    }
    switch (parameter.kind) {
    case ParameterKind::number:
    case ParameterKind::count:
    case ParameterKind::toggle:
    case ParameterKind::choice:
        return 1;
    case ParameterKind::range:
        return 2;
    case ParameterKind::vector:
    case ParameterKind::colour:
        return 3;
    default:
        return 0;
    }
}

bool switches(const Parameter& parameter) {
    return parameter.kind == ParameterKind::count || parameter.kind == ParameterKind::toggle ||
           parameter.kind == ParameterKind::choice;
}

const Track* find_track(const Effect& effect, std::string_view holder, std::string_view parameter) {
    const auto found = std::find_if(effect.tracks.begin(), effect.tracks.end(), [&](const Track& track) {
        return track.holder == holder && track.parameter == parameter;
    });
    return found == effect.tracks.end() ? nullptr : &*found;
}

bool has_flying_camera(const Effect& effect) {
    return std::any_of(effect.tracks.begin(), effect.tracks.end(), [](const Track& track) {
        return track.holder == stage_id && is_of_camera(track.parameter);
    });
}

Value value_at(const Track& track, const Parameter& parameter, double time_s) {
    const Range limits = keyed_limits(parameter);
    Parts parts{};
    for (size_t i = 0; i < track.curves.size(); ++i) {
        const float value =
            switches(parameter) ? switched(track.curves[i], time_s) : track.curves[i].at(float(time_s));
        parts[i] = std::clamp(value, limits.low, limits.high); // handles may lead beyond
    }
    return value_of(parameter, parts);
}

std::optional<std::string> refusal_of(const Effect& effect, const Track& track) {
    const Parameter* parameter = keyed(effect, track.holder, track.parameter);
    if (parameter == nullptr || track.holder == budget_id || find_texture(effect, track.holder) != nullptr) {
        return "a parameter that can be keyed, of something in this effect";
    }
    const Range limits = keyed_limits(*parameter);
    const auto is_sound = [&](const Curve& curve) {
        const auto is_finite = [](const Curve::Point& p) {
            return std::isfinite(p.in_time + p.in_value + p.out_time + p.out_value);
        };
        float before = -HUGE_VALF;
        for (const Curve::Point& p : curve.points) {
            if (!is_finite(p) || !(p.time > before) || !(p.time >= first_key_s && p.time <= last_key_s) ||
                !(p.value >= limits.low && p.value <= limits.high)) {
                return false;
            }
            before = p.time;
        }
        return !curve.points.empty() && curve.points.size() <= most_keys;
    };
    if (int(track.curves.size()) != track_parts(*parameter) ||
        !std::all_of(track.curves.begin(), track.curves.end(), is_sound)) {
        return "keys in order of time, at most " + std::to_string(most_keys) + ", from " +
               text_of(first_key_s) + " to " + text_of(last_key_s) + " s, each " + expectation_of(*parameter);
    }
    return std::nullopt;
}

Effect with_track(const Effect& effect, const Track& track) {
    Effect edited = without_track(effect, track.holder, track.parameter);
    edited.tracks.push_back(track);
    return edited;
}

Effect without_track(const Effect& effect, std::string_view holder, std::string_view parameter) {
    Effect edited = effect;
    std::erase_if(edited.tracks,
                  [&](const Track& track) { return track.holder == holder && track.parameter == parameter; });
    return edited;
}

Effect with_key(const Effect& effect, std::string_view holder, std::string_view parameter, double time_s,
                const Value& value) {
    Effect edited = effect;
    const Parameter& of = *keyed(effect, holder, parameter);
    if (find_track(effect, holder, parameter) == nullptr) {
        Track track = {std::string(holder), std::string(parameter), {}, {}};
        track.curves.resize(size_t(track_parts(of)), Curve{{}});
        edited.tracks.push_back(std::move(track));
    }
    const Parts parts = parts_of(value);
    Track& track = track_in(edited, holder, parameter);
    for (size_t i = 0; i < track.curves.size(); ++i) {
        if (track.curves[i].points.size() < most_keys) {
            put(track.curves[i].points, {at_moment(time_s), parts[i]});
        }
    }
    return edited;
}

Effect without_key(const Effect& effect, std::string_view holder, std::string_view parameter, double time_s) {
    Effect edited = effect;
    Track& track = track_in(edited, holder, parameter);
    bool is_empty = false;
    for (Curve& curve : track.curves) {
        if (const auto key = key_at(curve.points, time_s); key != curve.points.end()) {
            curve.points.erase(key);
        }
        is_empty = is_empty || curve.points.empty();
    }
    return is_empty ? without_track(edited, holder, parameter) : edited;
}

Effect with_moved_key(const Effect& effect, std::string_view holder, std::string_view parameter,
                      double from_s, double to_s) {
    Effect edited = effect;
    for (Curve& curve : track_in(edited, holder, parameter).curves) {
        if (const auto key = key_at(curve.points, from_s); key != curve.points.end()) {
            Curve::Point moved = *key;
            moved.time = at_moment(to_s);
            curve.points.erase(key);
            put(curve.points, moved);
        }
    }
    return edited;
}

Effect with_copied_key(const Effect& effect, std::string_view holder, std::string_view parameter,
                       double from_s, double to_s) {
    Effect edited = effect;
    for (Curve& curve : track_in(edited, holder, parameter).curves) {
        const auto key = key_at(curve.points, from_s);
        if (key != curve.points.end() && curve.points.size() < most_keys) {
            Curve::Point copy = *key;
            copy.time = at_moment(to_s);
            put(curve.points, copy);
        }
    }
    return edited;
}

Effect with_stretched_track(const Effect& effect, std::string_view holder, std::string_view parameter,
                            const Range& from_s, const Range& to_s) {
    Effect edited = effect;
    const float by = (to_s.high - to_s.low) / (from_s.high - from_s.low);
    for (Curve& curve : track_in(edited, holder, parameter).curves) {
        std::vector<Curve::Point> keys;
        for (Curve::Point key : curve.points) {
            key.time = at_moment(double(to_s.low + (key.time - from_s.low) * by));
            key.in_time *= by;
            key.out_time *= by;
            put(keys, key);
        }
        curve.points = std::move(keys);
    }
    return edited;
}

} // namespace ember
