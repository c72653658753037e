// How many pictures a second one sees.
#pragma once

#include <cmath>
#include <cstdint>

namespace ember {

/// By the times at which pictures came: over the last second or so, or as long as the last one took.
class Pace {
  public:
    void begin() { *this = Pace(); }

    void note(int64_t at_ns) {
        constexpr double over_s = 0.7;
        if (last_ns_ > 0 && at_ns > last_ns_) {
            const double interval_s = double(at_ns - last_ns_) / 1e9;
            const double share = a_second_ > 0 ? 1 - std::exp(-interval_s / over_s) : 1;
            a_second_ += (1 / interval_s - a_second_) * share;
        }
        last_ns_ = at_ns;
    }

    /// 0 until there have been two.
    double a_second() const { return a_second_; }

  private:
    int64_t last_ns_ = 0;
    double a_second_ = 0;
};

} // namespace ember
