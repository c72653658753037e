// A function of numbers above 0 as a table, for what is worked out for each part of each pixel.
//
//     const OctaveTable bright(0x1p-9f, 1, srgb_of);
//     code = bright.at(light);
#pragma once

#include <algorithm>
#include <bit>
#include <cstdint>
#include <vector>

namespace ember {

/// Values at each 256th of an octave, straight lines between them: of powers and what is as smooth, within
/// two millionths. Below the range the line goes on to nothing at 0; above it all is as at its end.
class OctaveTable {
  public:
    /// From a power of two to a power of two.
    template <class Function>
    OctaveTable(float low, float high, Function function) : first_(place(low)), low_(low), high_(high) {
        for (uint32_t i = first_; i <= place(high) + 1; ++i) {
            values_.push_back(function(std::bit_cast<float>(i << shift)));
        }
    }
    /// NaN is as what is above the range.
    float at(float x) const {
        if (x < low_) {
            return values_.front() * std::max(x, 0.0f) / low_;
        }
        const auto bits = std::bit_cast<uint32_t>(x < high_ ? x : high_);
        const float* value = &values_[(bits >> shift) - first_];
        return value[0] + (value[1] - value[0]) * float(bits & (step - 1)) * (1.0f / float(step));
    }

  private:
    static constexpr int shift = 15;
    static constexpr uint32_t step = 1u << shift;
    static uint32_t place(float x) { return std::bit_cast<uint32_t>(x) >> shift; }

    uint32_t first_;
    float low_, high_;
    std::vector<float> values_;
};

} // namespace ember
