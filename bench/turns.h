// Two sides of a ratio, timed in turn: the moods of a shared machine last for seconds and so meet both alike.
#pragma once

#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <vector>

namespace ember::bench {

template <class Work>
double seconds_of(const Work& work) {
    const auto start = std::chrono::steady_clock::now();
    work();
    benchmark::ClobberMemory();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

inline double middle_of(std::vector<double> list) {
    const auto middle = list.begin() + std::ptrdiff_t(list.size() / 2);
    std::nth_element(list.begin(), middle, list.end());
    return *middle;
}

/// `ours` and `other` each do their work once and return its seconds. Leaves the medians behind: how many
/// times as long the other takes, and both times in milliseconds. The benchmark must use manual time.
template <class Ours, class Other>
void in_turns(benchmark::State& state, Ours ours, Other other) {
    std::vector<double> times, our_ms, other_ms;
    for (auto _ : state) {
        our_ms.push_back(ours() * 1000);
        other_ms.push_back(other() * 1000);
        times.push_back(other_ms.back() / our_ms.back());
        state.SetIterationTime((our_ms.back() + other_ms.back()) / 1000);
    }
    state.counters["times"] = middle_of(times);
    state.counters["ours_ms"] = middle_of(our_ms);
    state.counters["other_ms"] = middle_of(other_ms);
}

} // namespace ember::bench
