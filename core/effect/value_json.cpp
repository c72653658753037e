#include "core/effect/value_json.h"

#include "core/effect/track.h"

#include <algorithm>
#include <charconv>
#include <limits>

namespace ember {

namespace {

template <class... Numbers>
Json list_of(Numbers... numbers) {
    return Json::array({json_number(numbers)...});
}

// Exactly `count` numbers, as floats; nothing otherwise.
std::optional<std::vector<float>> numbers(const Json& json, size_t count) {
    if (!json.is_array() || json.size() != count) {
        return std::nullopt;
    }
    std::vector<float> result;
    for (const Json& item : json) {
        if (!item.is_number()) {
            return std::nullopt;
        }
        result.push_back(item.get<float>());
    }
    return result;
}

// A list of at most a few thousand lists of `count` numbers, each given to `add`.
bool each_point(const Json& json, size_t count, const auto& add) {
    if (!json.is_array() || json.size() > 4096) {
        return false;
    }
    for (const Json& item : json) {
        const auto point = numbers(item, count);
        if (!point) {
            return false;
        }
        add(*point);
    }
    return true;
}

std::optional<Value> whole_number(const Json& json) {
    if (!json.is_number()) {
        return std::nullopt;
    }
    const double number = json.get<double>();
    if (number != double(int64_t(std::clamp(number, -1e15, 1e15)))) {
        return std::nullopt;
    }
    return int(
        std::clamp(number, double(std::numeric_limits<int>::min()), double(std::numeric_limits<int>::max())));
}

std::optional<Value> choice_from(const Parameter& parameter, const Json& json) {
    const auto found = json.is_string() ? std::find(parameter.choices.begin(), parameter.choices.end(),
                                                    json.get_ref<const std::string&>())
                                        : parameter.choices.end();
    if (found == parameter.choices.end()) {
        return std::nullopt;
    }
    return int(found - parameter.choices.begin());
}

std::optional<Value> curve_from(const Json& json) {
    if (!json.is_array() || json.size() > 4096) {
        return std::nullopt;
    }
    Curve curve;
    curve.points.clear();
    for (const Json& item : json) {
        if (const auto plain = numbers(item, 2)) {
            curve.points.push_back({(*plain)[0], (*plain)[1]});
        } else if (const auto s = numbers(item, 4)) {
            curve.points.push_back({(*s)[0], (*s)[1], Curve::Bend::slopes, 0, (*s)[2], 0, (*s)[3]});
        } else if (const auto h = numbers(item, 6)) {
            curve.points.push_back(
                {(*h)[0], (*h)[1], Curve::Bend::handles, (*h)[2], (*h)[3], (*h)[4], (*h)[5]});
        } else {
            return std::nullopt;
        }
    }
    return curve;
}

Json point_json(const Curve::Point& p) {
    switch (p.bend) {
    case Curve::Bend::smooth:
        return list_of(p.time, p.value);
    case Curve::Bend::slopes:
        return list_of(p.time, p.value, p.in_value, p.out_value);
    case Curve::Bend::handles:
        return list_of(p.time, p.value, p.in_time, p.in_value, p.out_time, p.out_value);
    }
    return {};
}

std::optional<Value> ramp_from(const Json& json) {
    Ramp ramp;
    ramp.stops.clear();
    const bool read = each_point(json, 5, [&](const auto& p) {
        ramp.stops.push_back({p[0], {p[1], p[2], p[3], p[4]}});
    });
    return read ? std::optional<Value>(ramp) : std::nullopt;
}

struct ToJson {
    const Parameter& parameter;

    Json operator()(float number) const { return json_number(number); }
    Json operator()(int number) const {
        return parameter.kind == ParameterKind::choice ? Json(std::string(parameter.choices[size_t(number)]))
                                                       : Json(number);
    }
    Json operator()(bool on) const { return on; }
    Json operator()(const Vec3& v) const { return list_of(v.x, v.y, v.z); }
    Json operator()(const Range& range) const { return list_of(range.low, range.high); }
    Json operator()(const Colour& c) const { return list_of(c.red, c.green, c.blue); }
    Json operator()(const Curve& curve) const {
        Json json = Json::array();
        for (const Curve::Point& point : curve.points) {
            json.push_back(point_json(point));
        }
        return json;
    }
    Json operator()(const Ramp& ramp) const {
        Json json = Json::array();
        for (const auto& [time, c] : ramp.stops) {
            json.push_back(list_of(time, c.red, c.green, c.blue, c.alpha));
        }
        return json;
    }
    Json operator()(const Points& points) const {
        Json json = Json::array();
        for (const Vec3& p : points) {
            json.push_back(list_of(p.x, p.y, p.z));
        }
        return json;
    }
    Json operator()(const std::string& text) const { return text; }
};

} // namespace

Json json_number(float number) {
    if (number == float(int64_t(std::clamp(number, -1e7f, 1e7f)))) {
        return int64_t(number);
    }
    // The double that prints as shortly as the float did.
    const std::string text = text_of(number);
    double value = number;
    std::from_chars(text.data(), text.data() + text.size(), value);
    return value;
}

Json json_of(const Parameter& parameter, const Value& value) {
    return std::visit(ToJson{parameter}, value);
}

std::optional<Value> value_from(const Parameter& parameter, const Json& json) {
    switch (parameter.kind) {
    case ParameterKind::number:
        return json.is_number() ? std::optional<Value>(json.get<float>()) : std::nullopt;
    case ParameterKind::count:
        return whole_number(json);
    case ParameterKind::toggle:
        return json.is_boolean() ? std::optional<Value>(json.get<bool>()) : std::nullopt;
    case ParameterKind::choice:
        return choice_from(parameter, json);
    case ParameterKind::vector:
        if (const auto v = numbers(json, 3)) {
            return Vec3{(*v)[0], (*v)[1], (*v)[2]};
        }
        return std::nullopt;
    case ParameterKind::range:
        if (const auto v = numbers(json, 2)) {
            return Range{(*v)[0], (*v)[1]};
        }
        return std::nullopt;
    case ParameterKind::colour:
        if (const auto v = numbers(json, 3)) {
            return Colour{(*v)[0], (*v)[1], (*v)[2], 1};
        }
        return std::nullopt;
    case ParameterKind::curve:
        return curve_from(json);
    case ParameterKind::ramp:
        return ramp_from(json);
    case ParameterKind::points: {
        Points points;
        const bool read = each_point(json, 3, [&](const auto& p) { points.emplace_back(p[0], p[1], p[2]); });
        return read ? std::optional<Value>(points) : std::nullopt;
    }
    case ParameterKind::look:
    case ParameterKind::texture:
    case ParameterKind::source:
    case ParameterKind::emitter:
    case ParameterKind::breakable:
    case ParameterKind::actor:
    case ParameterKind::number_of:
    case ParameterKind::place:
    case ParameterKind::file:
        return json.is_string() ? std::optional<Value>(json.get<std::string>()) : std::nullopt;
    }
    return std::nullopt;
}

std::vector<Curve> curves_from(const Parameter& parameter, const Json& track) {
    std::vector<Curve> curves;
    if (switches(parameter)) {
        const Json keys = track.value("keys", Json());
        Curve curve{{}};
        for (const Json& key : keys.is_array() ? keys : Json::array()) {
            const bool is_pair = key.is_array() && key.size() == 2 && key[0].is_number();
            const auto value = is_pair ? value_from(parameter, key[1]) : std::nullopt;
            if (!value) {
                return {};
            }
            const auto* on = std::get_if<bool>(&*value);
            curve.points.push_back(
                {key[0].get<float>(), on != nullptr ? float(*on) : float(std::get<int>(*value))});
        }
        return {curve};
    }
    const Json list = track.value("curves", Json());
    for (const Json& json : list.is_array() ? list : Json::array()) {
        const auto curve = curve_from(json);
        if (!curve) {
            return {};
        }
        curves.push_back(std::get<Curve>(*curve));
    }
    return curves;
}

} // namespace ember
