// What a particle carries besides its motion, in 32 bits: its own tint and opacity, and what it sticks to.
#pragma once

#include "core/base/curve.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace ember {

/// Tint and opacity take six bits each, as square roots of 0..1; the collider that a particle sticks to takes
/// eight: 0 for none, else a number that the simulation gives.
struct Mark {
    uint32_t bits = 0x00ffffffu;

    bool operator==(const Mark&) const = default;

    uint32_t stuck_to() const { return bits >> 24; }
    void stick_to(uint32_t collider) { bits = (bits & 0x00ffffffu) | collider << 24; }

    Colour tint() const {
        const auto part = [this](int shift) {
            const float root = float(bits >> shift & 63u) / 63;
            return root * root;
        };
        return {part(0), part(6), part(12), part(18)};
    }
    void set_tint(const Colour& c) {
        const auto part = [](float a, int shift) {
            return uint32_t(std::sqrt(std::clamp(a, 0.0f, 1.0f)) * 63 + 0.5f) << shift;
        };
        bits =
            (bits & 0xff000000u) | part(c.red, 0) | part(c.green, 6) | part(c.blue, 12) | part(c.alpha, 18);
    }
};

} // namespace ember
