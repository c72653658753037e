#include "core/particles/births.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// A stretch of time in which the source gives birth, in seconds of the effect.
struct Window {
    double begin, end;
};

constexpr double never = 1e300;

// Runs `visit(window)` for the windows that meet the step. Loops start over at least a step apart.
void each_window(const Emitter& emitter, double start, const StepTime& time, auto visit) {
    const double length = emitter.duration > 0 ? double(emitter.duration) : never;
    if (emitter.duration <= 0 || emitter.loop_every <= 0) {
        visit(Window{start, start + length});
        return;
    }
    const double every = std::max({double(emitter.loop_every), double(emitter.duration), time.step_s});
    const double first = std::max(0.0, std::floor((time.start_s() - start) / every) - 1);
    for (double k = first; start + k * every < time.end_s(); ++k) {
        visit(Window{start + k * every, start + k * every + length});
    }
}

} // namespace

BirthList births_due(const SourceProgram& program, const StepTime& time, BirthDebt& debt) {
    const Emitter& emitter = *program.emitter;
    const double step_end = time.end_s();
    std::vector<float> moments;
    // Pays whole births out of a growing sum: the moments at which it passes whole numbers.
    const auto pay = [&](double& owed, double per_second, double begin, double end) {
        const double before = owed;
        // The whole step has its exact length: ends of steps are sums that are rounded.
        const bool is_whole = begin == time.start_s() && end == step_end;
        owed += per_second * (is_whole ? time.step_s : end - begin);
        const auto due = uint64_t(owed);
        owed -= double(due);
        for (uint64_t i = 0; i < due; ++i) {
            const double after = (double(i) + 1 - before) / per_second;
            moments.push_back(float(std::clamp(begin - time.start_s() + after, 0.0, time.step_s)));
        }
    };

    uint32_t bursts = 0;
    const double metres_per_second =
        double(length(program.to.position - program.from.position)) / time.step_s;
    each_window(emitter, program.start_s, time, [&](const Window& window) {
        const double begin = std::max(window.begin, time.start_s()), end = std::min(window.end, step_end);
        if (begin >= end) {
            return;
        }
        pay(debt.births, double(emitter.rate), begin, end);
        if (metres_per_second > 0) {
            pay(debt.births_on_the_way, double(emitter.per_metre) * metres_per_second, begin, end);
        }
        if (emitter.burst_count <= 0) {
            return;
        }
        const double first = window.begin + double(emitter.burst_start);
        const double every = double(emitter.burst_every);
        double k = std::max(0.0, std::floor((begin - first) / every));
        k += first + k * every < begin ? 1 : 0; // it came with the step before
        const double repeats = emitter.burst_repeats > 0 ? double(emitter.burst_repeats) : never;
        for (; k < repeats && first + k * every < end; ++k) {
            const auto moment = float(std::max(first + k * every - time.start_s(), 0.0));
            moments.insert(moments.end(), size_t(emitter.burst_count), moment);
            ++bursts;
        }
    });
    std::stable_sort(moments.begin(), moments.end());

    const Vec3 way = program.to.position - program.from.position;
    const Vec3 taken_over = way * (emitter.inherited_velocity / float(time.step_s));
    BirthList births{{}, moments.size(), bursts};
    moments.resize(std::min(moments.size(), size_t(emitter.capacity)));
    births.origins.reserve(moments.size());
    for (const float moment : moments) {
        births.origins.push_back(
            {program.from.position + way * (moment / float(time.step_s)), taken_over, moment, {}});
    }
    return births;
}

double birth_share(const Emitter& emitter) {
    if (emitter.duration <= 0 || emitter.loop_every <= 0) {
        return 1;
    }
    return std::min(1.0, double(emitter.duration) / double(std::max(emitter.loop_every, emitter.duration)));
}

} // namespace ember
