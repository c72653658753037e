#include "core/runtime/effect_now.h"

#include <algorithm>
#include <atomic>
#include <set>

namespace ember {

void EffectNow::set(EffectPtr effect) {
    effect_ = std::move(effect);
    copies_.clear();
    targets_.clear();
    given_.reset();
    const std::set<std::string> acted_on = Triggers::acted_on(*effect_);
    is_fixed_ = acted_on.empty() && effect_->drives.empty() && effect_->tracks.empty();
    std::set<std::string> driven;
    for (const Track& track : effect_->tracks) {
        if (const auto holder = find_holder(*effect_, track.holder)) {
            targets_.push_back({&track, nullptr, holder->find(track.parameter), holder->object});
            driven.insert(track.holder);
        }
    }
    for (const Drive& drive : effect_->drives) {
        if (const auto holder = find_holder(*effect_, drive.holder)) {
            targets_.push_back({nullptr, &drive, holder->find(drive.parameter), holder->object});
            driven.insert(drive.holder);
        }
    }
    changing_.clear();
    acted_on_.clear();
    const bool gives = effect_->budget.keeper;
    for (size_t i = 0; i < effect_->elements.size(); ++i) {
        const std::string& id = effect_->elements[i].id;
        const bool is_acted_on = acted_on.contains(id) || (gives && can_give(effect_->elements[i]));
        if (is_acted_on) {
            acted_on_.push_back(i);
        }
        if (is_acted_on || driven.contains(id)) {
            changing_.push_back(i);
        }
    }
    acted_on_looks_.clear();
    for (size_t i = 0; i < effect_->looks.size(); ++i) {
        if (acted_on.contains(effect_->looks[i].id)) {
            acted_on_looks_.push_back(i);
        }
    }
    const auto can = [](const Look& look) { return can_give(look); };
    is_stage_acted_on_ = acted_on.contains(std::string(stage_id)) ||
                         (gives && std::any_of(effect_->looks.begin(), effect_->looks.end(), can));
}

EffectNow::Copy EffectNow::spare() {
    constexpr size_t most_kept = 8; // frames that wait, and those that are being drawn
    for (const Copy& copy : copies_) {
        if (copy.effect.use_count() == 1) {
            // Whoever held it last is done reading it.
            std::atomic_thread_fence(std::memory_order_acquire);
            return copy;
        }
    }
    Copy copy = {std::make_shared<Effect>(*effect_), {}};
    for (const Target& target : targets_) {
        const std::string& id = target.track != nullptr ? target.track->holder : target.drive->holder;
        copy.holders.push_back(const_cast<void*>(find_holder(*copy.effect, id)->object)); // ours
    }
    if (copies_.size() < most_kept) {
        copies_.push_back(copy);
    }
    return copy;
}

EffectPtr EffectNow::at(const StepTime& time, const std::vector<ModulatorValue>& modulators,
                        const Triggers& triggers, const Gives& gives) {
    const bool gives_way = effect_->budget.keeper && gives != Gives();
    if (is_fixed_ && !gives_way) {
        return effect_;
    }
    if (is_fixed_ && given_ && gives == gives_) {
        return given_;
    }
    const Copy now = spare();
    for (const size_t i : acted_on_) {
        now.effect->elements[i] = effect_->elements[i];
    }
    for (const size_t i : acted_on_looks_) {
        now.effect->looks[i] = effect_->looks[i];
    }
    if (is_stage_acted_on_) {
        now.effect->stage = effect_->stage;
    }
    for (size_t t = 0; t < targets_.size(); ++t) {
        targets_[t].parameter->set(now.holders[t], targets_[t].parameter->get(targets_[t].own));
    }
    for (size_t t = 0; t < targets_.size(); ++t) {
        if (const Track* track = targets_[t].track) {
            // In the middle of the step, so that what is summed up over steps is the area under the curve;
            // what switches does so with the step that begins at its key.
            const Parameter& parameter = *targets_[t].parameter;
            const double at = time.start_s() + (switches(parameter) ? 0 : time.step_s / 2);
            parameter.set(now.holders[t], value_at(*track, parameter, at));
        }
    }
    for (size_t t = 0; t < targets_.size(); ++t) {
        if (targets_[t].drive == nullptr) {
            continue;
        }
        // A drive whose modulator is muted rests.
        const auto value =
            std::find_if(modulators.begin(), modulators.end(),
                         [&](const ModulatorValue& each) { return each.id == targets_[t].drive->modulator; });
        if (value != modulators.end()) {
            drive_number(*targets_[t].drive, *targets_[t].parameter, value->value, now.holders[t]);
        }
    }
    triggers.apply(*now.effect);
    if (gives_way) {
        give_way(gives, *now.effect);
    }
    given_ = is_fixed_ ? now.effect : nullptr;
    gives_ = gives;
    return now.effect;
}

} // namespace ember
