#include "core/base/curve_edit.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

bool is_in(const PointSet& points, size_t i) {
    return std::binary_search(points.begin(), points.end(), i);
}

bool in_order(const Curve& curve) {
    const auto too_close = [](const Curve::Point& a, const Curve::Point& b) {
        return b.time - a.time < least_gap * 0.5f;
    };
    return curve.points.front().time >= 0 && curve.points.back().time <= 1 &&
           std::adjacent_find(curve.points.begin(), curve.points.end(), too_close) == curve.points.end();
}

} // namespace

std::optional<size_t> add_point(Curve& curve, float time) {
    time = std::clamp(time, 0.0f, 1.0f);
    const auto after = std::upper_bound(curve.points.begin(), curve.points.end(), time,
                                        [](float t, const Curve::Point& point) { return t < point.time; });
    const bool is_close = (after != curve.points.end() && after->time - time < least_gap) ||
                          (after != curve.points.begin() && time - (after - 1)->time < least_gap);
    if (is_close || curve.points.size() >= most_curve_points) {
        return std::nullopt;
    }
    const Curve::Point point = {time, curve.at(time)};
    const auto index = size_t(after - curve.points.begin());
    curve.points.insert(after, point);
    return index;
}

Curve without_points(const Curve& curve, const PointSet& points) {
    Curve result;
    result.points.clear();
    for (size_t i = 0; i < curve.points.size(); ++i) {
        if (!is_in(points, i)) {
            result.points.push_back(curve.points[i]);
        }
    }
    if (result.points.empty()) {
        result.points = {curve.points.front()};
    }
    return result;
}

Curve shifted(const Curve& curve, const PointSet& points, float time, float value,
              const ValueLimits& limits) {
    for (const size_t i : points) {
        const Curve::Point& point = curve.points[i];
        const bool stays_before = i + 1 < curve.points.size() && !is_in(points, i + 1);
        const bool stays_after = i > 0 && !is_in(points, i - 1);
        const float earliest = stays_after ? curve.points[i - 1].time + least_gap : 0;
        const float latest = stays_before ? curve.points[i + 1].time - least_gap : 1;
        time = std::clamp(time, std::min(earliest - point.time, 0.0f), std::max(latest - point.time, 0.0f));
        value = std::clamp(value, limits.low - point.value, limits.high - point.value);
    }
    Curve result = curve;
    for (const size_t i : points) {
        result.points[i].time += time;
        result.points[i].value = std::clamp(result.points[i].value + value, limits.low, limits.high);
    }
    return result;
}

Curve scaled(const Curve& curve, const PointSet& points, float time_factor, float value_factor,
             const ValueLimits& limits) {
    if (points.empty()) {
        return curve;
    }
    Curve result = curve;
    const float first = curve.points[points.front()].time;
    for (const size_t i : points) {
        Curve::Point& point = result.points[i];
        point.time = first + (point.time - first) * time_factor;
        point.value = std::clamp(point.value * value_factor, limits.low, limits.high);
        point.in_time *= time_factor;
        point.out_time *= time_factor;
        const float slope = point.bend == Curve::Bend::slopes ? value_factor / time_factor : value_factor;
        point.in_value *= slope;
        point.out_value *= slope;
    }
    return time_factor > 0 && in_order(result) ? result : curve;
}

Curve bent(const Curve& curve, const PointSet& points, Curve::Bend bend) {
    Curve result = curve;
    for (const size_t i : points) {
        Curve::Point& point = result.points[i];
        const CurveHandles handles = handles_of(curve, i);
        point.bend = bend;
        point.in_time = point.in_value = point.out_time = point.out_value = 0;
        if (bend == Curve::Bend::handles) {
            point.in_time = handles.in_time;
            point.in_value = handles.in_value;
            point.out_time = handles.out_time;
            point.out_value = handles.out_value;
        } else if (bend == Curve::Bend::slopes) {
            point.in_value = handles.in_value / std::min(handles.in_time, -1e-4f);
            point.out_value = handles.out_value / std::max(handles.out_time, 1e-4f);
        }
    }
    return result;
}

Curve with_handle(const Curve& curve, size_t point, bool outgoing, float time, float value, bool breaks) {
    Curve result = bent(curve, {point}, Curve::Bend::handles);
    Curve::Point& p = result.points[point];
    float& own_time = outgoing ? p.out_time : p.in_time;
    float& own_value = outgoing ? p.out_value : p.in_value;
    float& other_time = outgoing ? p.in_time : p.out_time;
    float& other_value = outgoing ? p.in_value : p.out_value;
    own_time = outgoing ? std::max(time, 0.0f) : std::min(time, 0.0f);
    own_value = value;
    if (!breaks && std::fabs(own_time) > 1e-4f) {
        other_value = other_time * own_value / own_time;
    }
    return result;
}

const std::vector<CurvePreset>& curve_presets() {
    using enum Curve::Bend;
    static const std::vector<CurvePreset> list = {
        {"steady", {{{0, 1}}}},
        {"rise", {{{0, 0}, {1, 1}}}},
        {"fall", {{{0, 1}, {1, 0}}}},
        {"soft ends", {{{0, 0}, {0.2f, 1}, {0.8f, 1}, {1, 0}}}},
        {"spring open",
         {{{0, 0, slopes, 0, 9, 0, 9}, {0.1f, 1.3f}, {0.2f, 0.88f}, {0.3f, 1.05f}, {0.4f, 1}}}},
        {"flash", {{{0, 1, slopes, 0, 0, 0, -9}, {0.35f, 0.08f}, {1, 0}}}},
        {"linger, then fall", {{{0, 1}, {0.7f, 0.92f}, {1, 0}}}},
        {"three beats",
         {{{0, 0}, {0.12f, 1}, {0.28f, 0.1f}, {0.45f, 0.8f}, {0.62f, 0.1f}, {0.78f, 0.6f}, {1, 0}}}},
    };
    return list;
}

} // namespace ember
