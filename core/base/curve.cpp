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

Colour mix(const Colour& a, const Colour& b, float share) {
    const auto between = [share](float from, float to) { return from + (to - from) * share; };
    return {between(a.red, b.red), between(a.green, b.green), between(a.blue, b.blue),
            between(a.alpha, b.alpha)};
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

float Curve::at(float time) const {
    const auto later = std::upper_bound(points.begin(), points.end(), time,
                                        [](float t, const Point& point) { return t < point.time; });
    if (later == points.begin()) {
        return points.front().value;
    }
    if (later == points.end()) {
        return points.back().value;
    }
    const size_t i = size_t(later - points.begin());
    const Point& a = points[i - 1];
    const Point& b = points[i];
    const float width = b.time - a.time;
    const float t = (time - a.time) / width;
    const float t2 = t * t;
    const float t3 = t2 * t;
    return a.value * (2 * t3 - 3 * t2 + 1) + b.value * (3 * t2 - 2 * t3) +
           width * (slope_at(points, i - 1) * (t3 - 2 * t2 + t) + slope_at(points, i) * (t3 - t2));
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
    return mix(a.colour, later->colour, (time - a.time) / (later->time - a.time));
}

LifeTable<float> sampled(const Curve& curve) {
    return sample<float>(curve);
}

LifeTable<Colour> sampled(const Ramp& ramp) {
    return sample<Colour>(ramp);
}

} // namespace ember
