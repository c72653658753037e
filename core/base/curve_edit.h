// What an editor does to the points of a curve. Curves stay in order of time, within 0..1, with at least one
// point.
#pragma once

#include "core/base/curve.h"

#include <cstddef>
#include <optional>
#include <vector>

namespace ember {

/// Indices of points, ascending.
using PointSet = std::vector<size_t>;

constexpr size_t most_curve_points = 64;
/// Points never come closer in time than this.
constexpr float least_gap = 0.002f;

struct ValueLimits {
    float low, high;
};

/// Puts a point where the curve runs at `time`. Nothing if another is too close or there is no room for more.
std::optional<size_t> add_point(Curve& curve, float time);

/// One point stays, whatever is removed.
Curve without_points(const Curve& curve, const PointSet& points);

/// Moves points together, as far as the points between, the ends of life and the limits let them.
Curve shifted(const Curve& curve, const PointSet& points, float time, float value, const ValueLimits& limits);

/// Stretches times about the first of the points, and values about zero. Values are held within the limits;
/// the curve is returned as it was if times would leave their order.
Curve scaled(const Curve& curve, const PointSet& points, float time_factor, float value_factor,
             const ValueLimits& limits);

/// Lets points bend in another way; handles and slopes begin as the curve runs.
Curve bent(const Curve& curve, const PointSet& points, Curve::Bend bend);

/// Moves the end of a handle of a point, which then bends by handles. `breaks`: the other side stays as it
/// is; otherwise it stays in line.
Curve with_handle(const Curve& curve, size_t point, bool outgoing, float time, float value, bool breaks);

/// A ready shape; scaled to a parameter's use by whoever applies it.
struct CurvePreset {
    const char* name;
    Curve curve;
};
const std::vector<CurvePreset>& curve_presets();

} // namespace ember
