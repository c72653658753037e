// Turned axes and placements: where something is and which way it faces.
#pragma once

#include "kernels/vec3.h"

#include <cmath>
#include <numbers>

namespace ember {

constexpr float radians_per_degree = std::numbers::pi_v<float> / 180;

/// The direction towards something seen at an azimuth (from +z towards +x) and a height, in degrees;
/// length 1.
inline Vec3 direction_from(float azimuth, float height) {
    const float a = azimuth * radians_per_degree, h = height * radians_per_degree;
    return {std::sin(a) * std::cos(h), std::sin(h), std::cos(a) * std::cos(h)};
}

/// Three directions of length 1, right-handed.
struct Axes {
    Vec3 x = {1, 0, 0}, y = {0, 1, 0}, z = {0, 0, 1};
    bool operator==(const Axes&) const = default;

    /// A vector given in these axes, in those that these are given in.
    Vec3 out(const Vec3& v) const { return x * v.x + y * v.y + z * v.z; }
    /// The opposite.
    Vec3 in(const Vec3& v) const { return {dot(v, x), dot(v, y), dot(v, z)}; }
    Axes out(const Axes& a) const { return {out(a.x), out(a.y), out(a.z)}; }
    /// Round a box that lies in these axes: half the size of the box along those that these are given in.
    Vec3 box_round(const Vec3& half_size) const {
        const auto along = [&](float a, float b, float c) {
            return std::fabs(a) * half_size.x + std::fabs(b) * half_size.y + std::fabs(c) * half_size.z;
        };
        return {along(x.x, y.x, z.x), along(x.y, y.y, z.y), along(x.z, y.z, z.z)};
    }
};

/// Axes that result from turning x, y, z by degrees about x, then y, then z.
inline Axes turned_axes(const Vec3& degrees) {
    const Vec3 a = degrees * radians_per_degree;
    const float cx = std::cos(a.x), sx = std::sin(a.x);
    const float cy = std::cos(a.y), sy = std::sin(a.y);
    const float cz = std::cos(a.z), sz = std::sin(a.z);
    const auto turn = [&](Vec3 v) {
        v = {v.x, cx * v.y - sx * v.z, sx * v.y + cx * v.z};
        v = {cy * v.x + sy * v.z, v.y, cy * v.z - sy * v.x};
        return Vec3{cz * v.x - sz * v.y, sz * v.x + cz * v.y, v.z};
    };
    return {turn({1, 0, 0}), turn({0, 1, 0}), turn({0, 0, 1})};
}

/// Axes whose y is `direction` (length 1).
inline Axes axes_along_y(const Vec3& direction) {
    const Vec3 other = std::fabs(direction.y) < 0.9f ? Vec3{0, 1, 0} : Vec3{1, 0, 0};
    const Vec3 a = normalized(cross(direction, other));
    return {a, direction, cross(a, direction)};
}

/// A turn, of length 1.
struct Quaternion {
    Vec3 v;
    float w = 1;

    /// First `b`, then `a`.
    friend Quaternion operator*(const Quaternion& a, const Quaternion& b) {
        return {b.v * a.w + a.v * b.w + cross(a.v, b.v), a.w * b.w - dot(a.v, b.v)};
    }
    static Quaternion about(const Vec3& axis, float degrees) {
        const float half = degrees * radians_per_degree * 0.5f;
        return {axis * std::sin(half), std::cos(half)};
    }
    /// As turned_axes().
    static Quaternion turned(const Vec3& degrees) {
        return about({0, 0, 1}, degrees.z) * about({0, 1, 0}, degrees.y) * about({1, 0, 0}, degrees.x);
    }
    /// K. Shoemake, "Animating Rotation with Quaternion Curves", 1985, appendix: from the largest of the
    /// four.
    static Quaternion of(const Axes& a) {
        const float trace = a.x.x + a.y.y + a.z.z;
        if (trace > 0) {
            const float w = std::sqrt(1 + trace) * 0.5f, s = 0.25f / w;
            return {Vec3{a.y.z - a.z.y, a.z.x - a.x.z, a.x.y - a.y.x} * s, w};
        }
        if (a.x.x > a.y.y && a.x.x > a.z.z) {
            const float x = std::sqrt(1 + a.x.x - a.y.y - a.z.z) * 0.5f, s = 0.25f / x;
            return {{x, (a.x.y + a.y.x) * s, (a.z.x + a.x.z) * s}, (a.y.z - a.z.y) * s};
        }
        if (a.y.y > a.z.z) {
            const float y = std::sqrt(1 + a.y.y - a.x.x - a.z.z) * 0.5f, s = 0.25f / y;
            return {{(a.x.y + a.y.x) * s, y, (a.y.z + a.z.y) * s}, (a.z.x - a.x.z) * s};
        }
        const float z = std::sqrt(1 + a.z.z - a.x.x - a.y.y) * 0.5f, s = 0.25f / z;
        return {{(a.z.x + a.x.z) * s, (a.y.z + a.z.y) * s, z}, (a.x.y - a.y.x) * s};
    }
    Axes axes() const {
        const Vec3 x = v * (2 * v.x), y = v * (2 * v.y), z = v * (2 * v.z);
        const Vec3 spun = v * (2 * w);
        return {{1 - y.y - z.z, x.y + spun.z, x.z - spun.y},
                {x.y - spun.z, 1 - x.x - z.z, y.z + spun.x},
                {x.z + spun.y, y.z - spun.x, 1 - x.x - y.y}};
    }
};

inline float dot(const Quaternion& a, const Quaternion& b) {
    return dot(a.v, b.v) + a.w * b.w;
}

/// At an even speed, the short way (K. Shoemake, "Animating Rotation with Quaternion Curves", 1985).
inline Quaternion between(const Quaternion& a, Quaternion b, float share) {
    float cosine = dot(a, b);
    if (cosine < 0) {
        b = {b.v * -1.0f, -b.w};
        cosine = -cosine;
    }
    const float angle = std::acos(std::min(cosine, 1.0f));
    const float sine = std::sin(angle);
    const float of_a = sine < 1e-4f ? 1 - share : std::sin((1 - share) * angle) / sine;
    const float of_b = sine < 1e-4f ? share : std::sin(share * angle) / sine;
    return {a.v * of_a + b.v * of_b, a.w * of_a + b.w * of_b};
}

struct Placement {
    Vec3 position; // m
    Axes axes;
    bool operator==(const Placement&) const = default;

    /// Where something is that rides on this at an offset.
    Placement carrying(const Vec3& offset, const Vec3& turn_degrees) const {
        return {position + axes.out(offset), axes.out(turned_axes(turn_degrees))};
    }
    Vec3 in(const Vec3& place) const { return axes.in(place - position); }
};

} // namespace ember
