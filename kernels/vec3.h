// Three components of any arithmetic type: a float, or one SIMD register of floats.
// Metres, metres per second, or linear-light red/green/blue, as the name of the variable says.
#pragma once

#include <cmath>

namespace ember {

template <class T>
struct Vec3Of {
    T x{}, y{}, z{};

    constexpr Vec3Of() = default;
    constexpr Vec3Of(T x_, T y_, T z_) : x(x_), y(y_), z(z_) {}
    bool operator==(const Vec3Of&) const = default; // constexpr where that of T is

    friend constexpr Vec3Of operator+(const Vec3Of& a, const Vec3Of& b) {
        return {a.x + b.x, a.y + b.y, a.z + b.z};
    }
    friend constexpr Vec3Of operator-(const Vec3Of& a, const Vec3Of& b) {
        return {a.x - b.x, a.y - b.y, a.z - b.z};
    }
    friend constexpr Vec3Of operator*(const Vec3Of& a, const Vec3Of& b) {
        return {a.x * b.x, a.y * b.y, a.z * b.z};
    }
    friend constexpr Vec3Of operator*(const Vec3Of& a, const T& s) { return {a.x * s, a.y * s, a.z * s}; }
    friend constexpr Vec3Of operator*(const T& s, const Vec3Of& a) { return a * s; }
    friend constexpr Vec3Of operator/(const Vec3Of& a, const T& s) { return a * (T(1.0f) / s); }
    friend constexpr Vec3Of operator-(const Vec3Of& a) { return a * T(-1.0f); }

    Vec3Of& operator+=(const Vec3Of& b) { return *this = *this + b; }
    Vec3Of& operator-=(const Vec3Of& b) { return *this = *this - b; }
    Vec3Of& operator*=(const T& s) { return *this = *this * s; }
};

template <class T>
constexpr T dot(const Vec3Of<T>& a, const Vec3Of<T>& b) {
    return a.x * b.x + a.y * b.y + a.z * b.z;
}

template <class T>
constexpr Vec3Of<T> cross(const Vec3Of<T>& a, const Vec3Of<T>& b) {
    return {a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x};
}

template <class T>
T length(const Vec3Of<T>& a) {
    using std::sqrt;
    return sqrt(dot(a, a));
}

using Vec3 = Vec3Of<float>;

/// `a` with length 1, or `fallback` where `a` is too short to have a direction.
inline Vec3 normalized(const Vec3& a, const Vec3& fallback = {0, 1, 0}) {
    const float size = length(a);
    return size > 1e-12f ? a / size : fallback;
}

} // namespace ember
