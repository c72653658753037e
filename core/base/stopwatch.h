// Time as the meters measure it.
#pragma once

#include <chrono>

namespace ember {

/// Milliseconds since it was made or last read by lap_ms().
class Stopwatch {
  public:
    double elapsed_ms() const { return ms_between(start_, Clock::now()); }

    /// Elapsed milliseconds; starts again from zero.
    double lap_ms() {
        const auto now = Clock::now();
        const double ms = ms_between(start_, now);
        start_ = now;
        return ms;
    }

  private:
    using Clock = std::chrono::steady_clock;
    static double ms_between(Clock::time_point from, Clock::time_point to) {
        return std::chrono::duration<double, std::milli>(to - from).count();
    }

    Clock::time_point start_ = Clock::now();
};

} // namespace ember
