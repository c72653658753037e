#include "core/budget/expected.h"

#include "core/particles/births.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr double for_ever_s = 1e30;

double mean_lifetime_s(const Emitter& emitter) {
    return emitter.for_ever ? for_ever_s : (double(emitter.lifetime.low) + double(emitter.lifetime.high)) / 2;
}

double own_births_per_s(const Emitter& emitter) {
    double births = double(emitter.rate);
    // Single bursts pass; only those that go on for ever, or come again with each loop, are a steady rate.
    if (emitter.burst_count > 0 && emitter.burst_repeats == 0) {
        births += double(emitter.burst_count) / double(emitter.burst_every);
    }
    births *= birth_share(emitter);
    if (emitter.burst_count > 0 && emitter.burst_repeats > 0 && emitter.duration > 0 &&
        emitter.loop_every > 0) {
        births += double(emitter.burst_count) * emitter.burst_repeats /
                  double(std::max(emitter.loop_every, emitter.duration));
    }
    return births;
}

ExpectedCount expected_of(const Effect& effect, const Element& element, size_t depth) {
    ExpectedCount count;
    if (!std::holds_alternative<Emitter>(element.body)) {
        return count;
    }
    const auto& emitter = std::get<Emitter>(element.body);
    const Element* parent = find_element(effect, emitter.parent);
    if (!is_active(effect, element) || depth > effect.elements.size() ||
        (parent == nullptr && !emitter.parent.empty())) {
        return count;
    }
    if (parent != nullptr && !std::holds_alternative<Emitter>(parent->body)) {
        return count; // nobody knows when it breaks
    }
    if (parent == nullptr) {
        count.births_per_s = own_births_per_s(emitter);
    } else {
        const ExpectedCount parents = expected_of(effect, *parent, depth + 1);
        const auto& parent_emitter = std::get<Emitter>(parent->body);
        const double alive = std::min(parents.live, double(parent_emitter.capacity));
        const double turnover = std::min(parents.births_per_s, alive / mean_lifetime_s(parent_emitter));
        const double per_event = double(emitter.per_parent_count) * double(emitter.chance);
        count.assumes_hits = parents.assumes_hits || emitter.when == ChildWhen::hit;
        count.births_per_s = emitter.when == ChildWhen::always ? alive * double(emitter.per_parent_rate)
                                                               : turnover * per_event;
    }
    count.live = count.births_per_s * mean_lifetime_s(emitter);
    return count;
}

} // namespace

std::vector<ExpectedCount> expected_counts(const Effect& effect) {
    std::vector<ExpectedCount> counts;
    for (const Element& element : effect.elements) {
        counts.push_back(family_of(element.body) == Family::source ? expected_of(effect, element, 0)
                                                                   : ExpectedCount());
    }
    return counts;
}

namespace {

std::string whole(double number) {
    return std::to_string(int64_t(std::min(number, 1e15) + 0.5));
}

} // namespace

std::optional<std::string> why_never_born(const Effect& effect, const Element& element) {
    const auto* emitter = std::get_if<Emitter>(&element.body);
    const Element* parent = emitter != nullptr ? find_element(effect, emitter->parent) : nullptr;
    const bool breaks = parent != nullptr && std::holds_alternative<Breakable>(parent->body);
    const bool waits =
        emitter != nullptr && (emitter->when == ChildWhen::broken || emitter->when == ChildWhen::rest);
    if (parent == nullptr || breaks || !waits) {
        return std::nullopt;
    }
    return "nothing is born: only breakables break and come to rest, and " + parent->name + " is none";
}

std::optional<std::string> expected_excess(const Effect& effect, size_t element,
                                           const ExpectedCount& expected) {
    const auto* emitter = std::get_if<Emitter>(&effect.elements[element].body);
    if (emitter == nullptr || emitter->for_ever || expected.live <= double(emitter->capacity)) {
        return std::nullopt;
    }
    return "about " + whole(expected.live) + " particles alive, with " + whole(expected.births_per_s) +
           " births a second" + (expected.assumes_hits ? ", if each parent hits something once" : "") +
           "; its capacity of " + std::to_string(emitter->capacity) + " will hold it back";
}

std::optional<std::string> expected_over_budget(const Effect& effect) {
    const std::vector<ExpectedCount> counts = expected_counts(effect);
    double sum = 0;
    for (size_t i = 0; i < counts.size(); ++i) {
        if (const auto* emitter = std::get_if<Emitter>(&effect.elements[i].body)) {
            const double capacity = is_active(effect, effect.elements[i]) ? double(emitter->capacity) : 0;
            sum += std::min(counts[i].live, capacity);
        }
    }
    if (sum <= double(effect.budget.particles)) {
        return std::nullopt;
    }
    return "about " + whole(sum) + " particles alive in all; the budget allows " +
           std::to_string(effect.budget.particles);
}

} // namespace ember
