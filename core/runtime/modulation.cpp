#include "core/runtime/modulation.h"

#include "core/base/hash.h"
#include "core/scene/placements.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

double fraction(double a) {
    return a - std::floor(a);
}

struct SignalReader {
    const PreparedEffect& prepared;
    const StepTime& time;
    const StepCounts& counts;
    // Where everything is now, and a step before; empty if no modulator asks.
    const std::vector<Placement>&now, &before;
    uint32_t seed = 0;

    double operator()(const Cycle& cycle) const {
        const double at = fraction(time.start_s() / double(cycle.period) + double(cycle.phase));
        switch (cycle.wave) {
        case Wave::sine:
            return 0.5 - 0.5 * std::cos(2 * std::numbers::pi * at);
        case Wave::triangle:
            return 1 - std::abs(2 * at - 1);
        case Wave::saw:
            return at;
        case Wave::pulse:
            return at < double(cycle.width) ? 1 : 0;
        }
        return 0;
    }

    double operator()(const Growth& growth) const {
        const double share = std::max(time.start_s() - double(growth.start), 0.0) / double(growth.duration);
        return growth.at_end == GrowthEnd::stay    ? std::min(share, 1.0)
               : growth.at_end == GrowthEnd::again ? fraction(share)
                                                   : share;
    }

    double operator()(const TimeCurve& curve) const {
        const double share = std::max(time.start_s() - double(curve.start), 0.0) / double(curve.duration);
        return double(curve.curve.at(float(curve.again ? fraction(share) : std::min(share, 1.0))));
    }

    double operator()(const Sway& sway) const {
        const auto period = double(sway.period);
        const double rough = double(sway.roughness);
        const double sum = double(gust(time.run_s(), period, seed)) +
                           rough * (0.5 * double(gust(time.run_s(), period / 2.7, seed + 1)) +
                                    0.25 * double(gust(time.run_s(), period / 7.1, seed + 2)));
        return 0.5 + 0.5 * sum / (1 + 0.75 * rough);
    }

    double operator()(const Steps& steps) const {
        const double at = time.run_s() / double(steps.every);
        const auto now = int64_t(std::floor(at));
        const double level = level_of(steps, now);
        const double glided = double(steps.glide) > 0 ? std::min(fraction(at) / double(steps.glide), 1.0) : 1;
        return now == 0 ? level : level_of(steps, now - 1) + (level - level_of(steps, now - 1)) * glided;
    }
    double level_of(const Steps& steps, int64_t step) const {
        const int64_t level = steps.order == StepOrder::up
                                  ? step % steps.levels
                                  : int64_t(mixed_seed(seed, uint32_t(step))) % steps.levels;
        return double(level) / double(steps.levels - 1);
    }

    double operator()(const CountReading& reading) const {
        return share_of(reading.count, double(counts.of_element(reading.source)));
    }

    double operator()(const MoverReading& reading) const {
        const auto index = prepared.index_of(reading.of);
        if (!index) {
            return 0;
        }
        const Vec3 place = now[*index].position;
        return reading.figure == MoverFigure::distance
                   ? share_of(reading.span, double(length(place - reading.from)))
                   : share_of(reading.span, double(length(place - before[*index].position)) / time.step_s);
    }

    static double share_of(const Range& range, double number) {
        const double width = std::max(double(range.high - range.low), 1e-9);
        return std::clamp((number - double(range.low)) / width, 0.0, 1.0);
    }

    double operator()(const auto&) const { return 0; }
};

} // namespace

std::vector<ModulatorValue> modulator_values(const PreparedEffect& prepared, const StepTime& time,
                                             const StepCounts& counts) {
    const std::vector<Element>& elements = prepared.effect->elements;
    std::vector<Placement> now, before;
    if (std::any_of(elements.begin(), elements.end(), [](const Element& element) {
            return std::holds_alternative<MoverReading>(element.body) && !element.muted;
        })) {
        now = placements_at(prepared, time.start_s());
        before = placements_at(prepared, time.start_s() - time.step_s);
    }
    std::vector<ModulatorValue> values;
    SignalReader read{prepared, time, counts, now, before};
    for (const Element& element : elements) {
        if (family_of(element.body) == Family::modulator && !element.muted) {
            read.seed = mixed_seed(prepared.effect->seed, hash_of(element.id));
            values.push_back({element.id, float(std::visit(read, element.body))});
        }
    }
    return values;
}

} // namespace ember
