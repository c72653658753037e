// Curves and colour ramps: a handful of points for the artist, a table for the machine.
#pragma once

#include "kernels/vec3.h"

#include <array>
#include <vector>

namespace ember {

/// A curve through points in order of time; outside of them it is constant. At each point it bends
///
/// - smoothly, with a slope chosen so that the curve never overshoots its points (F. N. Fritsch, R. E.
/// Carlson,
///   "Monotone Piecewise Cubic Interpolation", 1980);
/// - or with given slopes on either side (cubic Hermite);
/// - or with handles on either side (cubic Bézier). Either of these may overshoot.
struct Curve {
    enum class Bend { smooth, slopes, handles };
    struct Point {
        float time = 0; // 0..1
        float value = 0;
        Bend bend = Bend::smooth;
        // Slopes: in_value and out_value, per unit of time. Handles: offsets from the point.
        float in_time = 0, in_value = 0;
        float out_time = 0, out_value = 0;
        bool operator==(const Point&) const = default;
    };

    std::vector<Point> points = {{0, 1}};
    bool operator==(const Curve&) const = default;

    /// The value at `time`. Needs at least one point.
    float at(float time) const;
};

/// Where the handles of a point end, as offsets from it, however it bends: as cubic Bézier segments on either
/// side. The first and last point have handles of a tenth of life on their free side.
struct CurveHandles {
    float in_time, in_value, out_time, out_value;
};
CurveHandles handles_of(const Curve& curve, size_t point);

/// Linear-light colour with opacity. Components may exceed 1: such a colour glows.
struct Colour {
    float red = 1, green = 1, blue = 1, alpha = 1;
    bool operator==(const Colour&) const = default;

    friend Colour operator*(const Colour& a, const Colour& b) {
        return {a.red * b.red, a.green * b.green, a.blue * b.blue, a.alpha * b.alpha};
    }
    /// `a` at share 0, `b` at share 1.
    static Colour mixed(const Colour& a, const Colour& b, float share);
};

/// Colours at times 0..1, in order; between them colour is mixed in linear light.
struct Ramp {
    struct Stop {
        float time = 0; // 0..1
        Colour colour;
        bool operator==(const Stop&) const = default;
    };

    std::vector<Stop> stops = {{0, {}}};
    bool operator==(const Ramp&) const = default;

    /// The colour at `time`. Needs at least one stop.
    Colour at(float time) const;
};

/// Values at 256 even times from 0 to 1: what a curve or ramp is sampled into once per edit.
template <class T>
struct LifeTable {
    static constexpr int size = 256;
    std::array<T, size> values{};

    /// The nearest entry; `share` of life in 0..1.
    const T& at(float share) const { return values[size_t(share * (size - 1) + 0.5f)]; }
};

LifeTable<float> sampled(const Curve& curve);
LifeTable<Colour> sampled(const Ramp& ramp);

} // namespace ember
