#include "core/base/curve.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

float secant(const Curve::Point& a, const Curve::Point& b) {
    return (b.value - a.value) / std::max(b.time - a.time, 1e-6f);
}

// Slope at an inner point: the harmonic mean of the neighbouring secants weighted by their lengths, or zero
// at an extremum.
float slope_at(const std::vector<Curve::Point>& points, size_t i) {
    if (i == 0) {
        return points.size() > 1 ? secant(points[0], points[1]) : 0.0f;
    }
    if (i + 1 == points.size()) {
        return secant(points[i - 1], points[i]);
    }
    const float before = secant(points[i - 1], points[i]);
    const float after = secant(points[i], points[i + 1]);
    if (before * after <= 0) {
        return 0;
    }
    const float width_before = points[i].time - points[i - 1].time;
    const float width_after = points[i + 1].time - points[i].time;
    const float weight_before = 2 * width_after + width_before;
    const float weight_after = width_after + 2 * width_before;
    return (weight_before + weight_after) / (weight_before / before + weight_after / after);
}

// The inner control points of a segment, as offsets from its ends.
struct Handle {
    float time, value;
};

Handle out_handle(const std::vector<Curve::Point>& points, size_t i, float width) {
    const Curve::Point& point = points[i];
    if (point.bend == Curve::Bend::handles) {
        return {std::clamp(point.out_time, 0.0f, width), point.out_value};
    }
    const float slope = point.bend == Curve::Bend::slopes ? point.out_value : slope_at(points, i);
    return {width / 3, slope * width / 3};
}

Handle in_handle(const std::vector<Curve::Point>& points, size_t i, float width) {
    const Curve::Point& point = points[i];
    if (point.bend == Curve::Bend::handles) {
        return {std::clamp(point.in_time, -width, 0.0f), point.in_value};
    }
    const float slope = point.bend == Curve::Bend::slopes ? point.in_value : slope_at(points, i);
    return {-width / 3, -slope * width / 3};
}

float bezier(float t, float a, float b, float c, float d) {
    const float s = 1 - t;
    return s * s * s * a + 3 * s * s * t * b + 3 * s * t * t * c + t * t * t * d;
}

// Where a segment reaches a share of its width: the handles lie within the segment, so time never runs back
// and bisection finds it.
float parameter_at(float share, float b, float c) {
    if (std::fabs(b - 1.0f / 3) < 1e-5f && std::fabs(c - 2.0f / 3) < 1e-5f) {
        return share;
    }
    float low = 0, high = 1;
    for (int i = 0; i < 24; ++i) {
        const float middle = (low + high) / 2;
        (bezier(middle, 0, b, c, 1) < share ? low : high) = middle;
    }
    return (low + high) / 2;
}

template <class T, class Source>
LifeTable<T> sample(const Source& source) {
    LifeTable<T> table;
    for (int i = 0; i < table.size; ++i) {
        table.values[size_t(i)] = source.at(float(i) / float(table.size - 1));
    }
    return table;
}

} // namespace

Colour Colour::mixed(const Colour& a, const Colour& b, float share) {
    const auto between = [share](float from, float to) { return from + (to - from) * share; };
    return {between(a.red, b.red), between(a.green, b.green), between(a.blue, b.blue),
            between(a.alpha, b.alpha)};
}

CurveHandles handles_of(const Curve& curve, size_t point) {
    const auto& points = curve.points;
    constexpr float free_width = 0.3f;
    const Handle in =
        in_handle(points, point, point > 0 ? points[point].time - points[point - 1].time : free_width);
    const Handle out = out_handle(
        points, point, point + 1 < points.size() ? points[point + 1].time - points[point].time : free_width);
    return {in.time, in.value, out.time, out.value};
}

float Curve::at(float time) const {
    const auto later = std::upper_bound(points.begin(), points.end(), time,
                                        [](float t, const Point& point) { return t < point.time; });
    if (later == points.begin()) {
        return points.front().value;
    }
    if (later == points.end()) {
        return points.back().value;
    }
    const auto i = size_t(later - points.begin());
    const Point& a = points[i - 1];
    const Point& b = points[i];
    const float width = b.time - a.time;
    const Handle from = out_handle(points, i - 1, width);
    const Handle to = in_handle(points, i, width);
    const float t = parameter_at((time - a.time) / width, from.time / width, 1 + to.time / width);
    const float value = bezier(t, a.value, a.value + from.value, b.value + to.value, b.value);
    const bool may_overshoot = a.bend != Bend::smooth || b.bend != Bend::smooth;
    return may_overshoot ? value : std::clamp(value, std::min(a.value, b.value), std::max(a.value, b.value));
}

Colour Ramp::at(float time) const {
    const auto later = std::upper_bound(stops.begin(), stops.end(), time,
                                        [](float t, const Stop& stop) { return t < stop.time; });
    if (later == stops.begin()) {
        return stops.front().colour;
    }
    if (later == stops.end()) {
        return stops.back().colour;
    }
    const Stop& a = *(later - 1);
    return Colour::mixed(a.colour, later->colour, (time - a.time) / (later->time - a.time));
}

LifeTable<float> sampled(const Curve& curve) {
    return sample<float>(curve);
}

LifeTable<Colour> sampled(const Ramp& ramp) {
    return sample<Colour>(ramp);
}

} // namespace ember
