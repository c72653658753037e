#include "core/runtime/past.h"

#include "core/base/stopwatch.h"
#include "core/effect/alike.h"

#include <algorithm>
#include <cmath>

namespace ember {

// Steps from one snapshot to the next, at first: taking them may cost only so much of the steps.
uint64_t Past::apart() const {
    constexpr double nearest = 15, farthest = 60, most_share = 0.025;
    return uint64_t(std::clamp(snapshot_ms_ / (most_share * std::max(step_ms_, 1e-6)), nearest, farthest));
}

void Past::clear() {
    forget_from(0);
    inputs_ = InputLog(inputs_.step_s());
}

void Past::forget_from(uint64_t step) {
    for (auto one = kept_.lower_bound(step); one != kept_.end(); one = kept_.erase(one)) {
        bytes_ -= one->second.bytes;
    }
    edits_.erase(edits_.lower_bound(step), edits_.end());
}

// What the step was made with.
const Past::Edit* Past::edit_of(uint64_t step) const {
    const auto behind = edits_.upper_bound(step);
    return behind == edits_.begin() ? nullptr : &std::prev(behind)->second;
}

void Past::note(const Simulation& simulation, const StepInputs& inputs) {
    const uint64_t step = simulation.steps();
    if (kept_.empty() || step < begin() || step > end()) {
        clear(); // it begins elsewhere
    }
    forget_from(step);
    const Edit* before = edit_of(step);
    if (const Edit edit(simulation); before == nullptr || *before != edit) {
        edits_.insert_or_assign(step, edit);
    }
    const auto mixed = [](double mean, double value) { return mean <= 0 ? value : mean * 0.9 + value * 0.1; };
    step_ms_ = mixed(step_ms_, simulation.meters().step_ms);
    if (kept_.empty() || step >= kept_.rbegin()->first + apart()) {
        const Stopwatch watch;
        const auto snapshot = simulation.snapshot();
        const size_t bytes = Simulation::bytes(*snapshot);
        snapshot_ms_ = mixed(snapshot_ms_, watch.elapsed_ms());
        kept_[step] = {snapshot, bytes};
        bytes_ += bytes;
        thin_out();
    }
    inputs_.add(step, inputs);
}

// Takes out the snapshot whose gap is the smallest for its age; the first and the newest stay.
void Past::thin_out() {
    while (bytes_ > most_bytes_ && kept_.size() > 2) {
        const uint64_t now = kept_.rbegin()->first;
        auto least = std::next(kept_.begin());
        double least_share = 1e300;
        for (auto one = least; std::next(one) != kept_.end(); ++one) {
            const double gap = double(std::next(one)->first - std::prev(one)->first);
            const double share = gap / (double(now - one->first) + 600);
            if (share < least_share) {
                least = one;
                least_share = share;
            }
        }
        bytes_ -= least->second.bytes;
        kept_.erase(least);
    }
}

std::optional<Take> Past::take(const Simulation& simulation) const {
    if (begin() == end() || begin() != simulation.warm_up_steps()) {
        return std::nullopt;
    }
    Take take;
    for (const auto& [step, edit] : edits_) {
        take.effects[step == begin() ? 0 : step] = edit.effect;
    }
    take.inputs = inputs_;
    return take;
}

// The first step that would be another with the effect that the simulation has.
uint64_t Past::alike_until(const Simulation& simulation) const {
    for (auto edit = edits_.begin(); edit != edits_.end(); ++edit) {
        const uint64_t until = std::next(edit) == edits_.end() ? end() : std::next(edit)->first;
        const auto& [effect, assets] = edit->second;
        const double alike_s = assets->by_key == simulation.assets()->by_key
                                   ? alike_until_s(*effect, *simulation.effect())
                                   : -HUGE_VAL;
        // The step in which that moment lies reads it already.
        const double alike =
            double(simulation.warm_up_steps()) + std::floor(alike_s / simulation.step_s()) - 1;
        if (alike < double(until)) {
            return std::max(uint64_t(std::max(alike, 0.0)), edit->first);
        }
    }
    return end();
}

bool Past::go_back_alike(Simulation& simulation, uint64_t step) const {
    const auto behind = kept_.upper_bound(std::min(step, alike_until(simulation)));
    if (behind == kept_.begin()) {
        return false;
    }
    const Edit edit(simulation);
    simulation.restore(*std::prev(behind)->second.snapshot);
    simulation.set_effect(edit.effect, edit.assets);
    return true;
}

bool Past::go_to(Simulation& simulation, uint64_t step, const std::function<bool()>& goes_on) {
    const auto behind = kept_.upper_bound(step);
    if (behind == kept_.begin() || step > end()) {
        return false;
    }
    const auto& [from, kept] = *std::prev(behind);
    const uint64_t now = simulation.steps();
    const bool is_on_the_way =
        now >= from && now <= step && now > begin() && *edit_of(now - 1) == Edit(simulation);
    if (!is_on_the_way) {
        simulation.restore(*kept.snapshot);
    }
    while (simulation.steps() < step) {
        if (!goes_on()) {
            return false;
        }
        if (const Edit& edit = *edit_of(simulation.steps()); edit != Edit(simulation)) {
            simulation.set_effect(edit.effect, edit.assets);
        }
        simulation.step(inputs_.at(simulation.steps()));
    }
    return true;
}

} // namespace ember
