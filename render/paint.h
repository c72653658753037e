// What flat pieces and bodies are drawn with. Written in the language of kernels/prelude_cpp.h and included
// inside the namespace of an instruction set by render_kernels.cpp, once.

#pragma once

namespace {

// The pixel that an edge falls into, within the tile; edges may lie far outside of what an int holds.
int pixel_at(float edge, int low, int high) {
    return int(std::clamp(edge, float(low), float(high)));
}

// A value that grows evenly over the picture, from where a thing begins: its middle or
// its first corner.
template <class T>
struct SlopeOf {
    T at, per_x, per_y;

    KERNEL SlopeOf operator*(T by) const { return {at * by, per_x * by, per_y * by}; }
    KERNEL SlopeOf operator+(const SlopeOf& other) const {
        return {at + other.at, per_x + other.per_x, per_y + other.per_y};
    }
};
using Slope = SlopeOf<float>;

// Where along a row such a value lies within -1..1: round start + slope * row, by `half`.
struct Band {
    float start = 0, slope = 0, half = 1e9f;

    static Band of(const Slope& value) {
        if (std::fabs(value.per_x) < 1e-6f) {
            return {};
        }
        const float by = 1 / value.per_x;
        return {-value.at * by, -value.per_y * by, std::fabs(by)};
    }
    bool is_there() const { return half < 1e9f; }
    float middle(float row) const { return start + slope * row; }
};

// What a tile draws lies scattered: asks for it some things ahead.
template <class Thing>
void fetch_ahead(std::span<const Thing> things, std::span<const uint32_t> order, size_t at) {
    constexpr size_t ahead = 6;
    if (at + ahead < order.size()) {
        const auto* from = reinterpret_cast<const char*>(&things[order[at + ahead]]);
        for (size_t byte = 0; byte < sizeof(Thing); byte += 64) {
            __builtin_prefetch(from + byte);
        }
    }
}

} // namespace
