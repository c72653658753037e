#include "core/runtime/blasts.h"

#include "core/scene/program.h"

namespace ember {

std::vector<size_t> Blasts::step(const PreparedEffect& prepared, const StepTime& time,
                                 const StepPlacements& placed, const std::vector<TriggerCall>& calls,
                                 const DistanceTo& distance_to) {
    const Effect& effect = *prepared.effect;
    std::vector<size_t> due;
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const Element& element = effect.elements[i];
        const auto* blast = std::get_if<Blast>(&element.body);
        if (blast == nullptr || !is_active(effect, element)) {
            continue;
        }
        const bool is_due =
            is_told(effect, element.id) ? times_told(calls, TriggerThen::blast, element.id) > 0
            : blast->set_off_by.empty() ? time.moments(double(blast->first), double(blast->every)) > 0
                                        : comes_near(prepared, placed, i, distance_to);
        if (is_due) {
            due.push_back(i);
        }
    }
    return due;
}

// Whether what sets a blast off is near now and was not in the step before. Breakables are where their pieces
// are, not where they were put up.
bool Blasts::comes_near(const PreparedEffect& prepared, const StepPlacements& placed, size_t element,
                        const DistanceTo& distance_to) {
    const Element& own = prepared.effect->elements[element];
    const auto& blast = std::get<Blast>(own.body);
    const auto mover = prepared.index_of(blast.set_off_by);
    if (!mover) {
        return false;
    }
    const auto is_near = [&](const std::vector<Placement>& at) {
        const Vec3 middle = reach_row(prepared, at, element).position;
        const bool breaks = std::holds_alternative<Breakable>(prepared.effect->elements[*mover].body);
        const auto distance = breaks ? distance_to(blast.set_off_by, middle)
                                     : std::optional(length(at[*mover].position - middle));
        return distance && *distance <= blast.within;
    };
    const auto before = were_near_.try_emplace(own.id, is_near(placed.from)).first;
    const bool was_near = before->second;
    before->second = is_near(placed.to);
    return before->second && !was_near;
}

} // namespace ember
