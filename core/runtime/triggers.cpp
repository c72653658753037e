#include "core/runtime/triggers.h"

#include "core/base/hash.h"
#include "core/effect/parameter.h"
#include "core/scene/placements.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace ember {

namespace {

// So many may wait for their delay; more would only come from a mistake.
constexpr size_t most_waiting = 10'000;
constexpr double for_good = std::numeric_limits<double>::infinity();

// Something that happened; nowhere in particular if it has no place.
using Happening = std::optional<Vec3>;

template <class Event>
void add_places(const std::vector<Event>& events, float least, std::vector<Happening>& out) {
    for (const Event& event : events) {
        if (event.strength < least) {
            continue;
        }
        if constexpr (requires { event.place; }) {
            out.emplace_back(event.place);
        } else {
            out.emplace_back(event.position);
        }
    }
}

void add_of_source(const TriggerScene& scene, const Trigger& trigger, std::vector<Happening>& out) {
    const auto pieces = scene.of_pieces.find(trigger.of);
    const auto particles = scene.of_particles.find(trigger.of);
    if (pieces != scene.of_pieces.end()) {
        const PieceEvents& events = pieces->second;
        const bool is_hit = trigger.when == TriggerWhen::hit;
        add_places(is_hit                                ? events.hits
                   : trigger.when == TriggerWhen::broken ? events.broken
                   : trigger.when == TriggerWhen::apart  ? events.apart
                   : trigger.when == TriggerWhen::rest   ? events.rests
                                                         : events.cleared,
                   is_hit                               ? trigger.least
                   : trigger.when == TriggerWhen::apart ? trigger.least_load
                                                        : -1.0f,
                   out);
    } else if (particles != scene.of_particles.end()) {
        if (trigger.when == TriggerWhen::hit) {
            add_places(particles->second.hits, trigger.least, out);
        } else if (trigger.when == TriggerWhen::gone) {
            add_places(particles->second.deaths, -1, out);
        }
    }
}

bool lasts(TriggerWhen when) {
    return when == TriggerWhen::enters || when == TriggerWhen::over || when == TriggerWhen::count;
}

// Whether what lasts is so now: somebody is near, a source or the whole has enough.
bool is_so(const TriggerScene& scene, size_t index, const Trigger& trigger,
           const std::vector<Placement>& placements) {
    if (trigger.when == TriggerWhen::enters) {
        const auto mover = scene.prepared.index_of(trigger.mover);
        return mover && length(placements[*mover].position - placements[index].position) <= trigger.within;
    }
    if (trigger.when == TriggerWhen::over) {
        const Budget& budget = scene.prepared.effect->budget;
        const StepCounts& counts = scene.counts;
        return trigger.over == CountLimit::particles ? counts.particles >= size_t(budget.particles)
               : trigger.over == CountLimit::pieces  ? counts.pieces >= size_t(budget.pieces)
                                                     : counts.awake_pieces >= size_t(budget.awake_pieces);
    }
    return scene.counts.of_element(trigger.of) >= size_t(trigger.count);
}

std::vector<Happening> happenings(const TriggerScene& scene, const Trigger& trigger) {
    std::vector<Happening> out;
    const double begin = scene.time.start_s(), end = scene.time.end_s();
    const auto times = [&](double count) { out.assign(size_t(std::max(count, 0.0)), std::nullopt); };
    switch (trigger.when) {
    case TriggerWhen::at_time:
        times(double(trigger.at) >= begin - 1e-9 && double(trigger.at) < end - 1e-9 ? 1 : 0);
        break;
    case TriggerWhen::every: {
        const auto before = [&](double t) { return std::floor((t - 1e-9) / double(trigger.time)); };
        // Not with the very first step, before which no time has gone.
        const double first = std::floor(scene.time.first_s() / double(trigger.time) + 1e-9);
        times(before(end) - std::max(before(begin), first));
        break;
    }
    case TriggerWhen::click:
        times(scene.inputs.clicks);
        break;
    case TriggerWhen::key:
        times(double(std::count(scene.inputs.keys.begin(), scene.inputs.keys.end(), trigger.key)));
        break;
    case TriggerWhen::enters:
    case TriggerWhen::over:
    case TriggerWhen::count:
        break; // they last: see is_so()
    default:
        add_of_source(scene, trigger, out);
    }
    return out;
}

// Living things go on; nothing new comes.
void stop(Element& element) {
    auto* emitter = std::get_if<Emitter>(&element.body);
    if (emitter == nullptr) {
        element.muted = true;
        return;
    }
    emitter->rate = emitter->per_metre = emitter->per_parent_rate = 0;
    emitter->burst_count = emitter->per_parent_count = 0;
}

// The number takes the value, within its own limits.
void set_number(const Holder& holder, const std::string& key, float value) {
    for (const Parameter* number : settable_numbers(holder)) {
        if (number->key == key) {
            number->set(const_cast<void*>(holder.object), // of the effect that is given to apply()
                        std::clamp(value, float(number->hard_low), float(number->hard_high)));
        }
    }
}

template <class Visit>
void each_trigger(const Effect& effect, Visit visit) {
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const auto* trigger = std::get_if<Trigger>(&effect.elements[i].body);
        if (trigger != nullptr && !effect.elements[i].muted) {
            visit(i, *trigger);
        }
    }
}

bool is_switch(const Trigger& trigger) {
    return trigger.then == TriggerThen::start || trigger.then == TriggerThen::stop;
}

} // namespace

std::set<std::string> Triggers::acted_on(const Effect& effect) {
    std::set<std::string> ids;
    each_trigger(effect, [&](size_t, const Trigger& trigger) {
        if (is_switch(trigger) || trigger.then == TriggerThen::set) {
            ids.insert(trigger.what);
        }
    });
    return ids;
}

// What feeds smoke does so where it happened, if it happened somewhere.
void Triggers::start_at(Element& element, const std::map<std::string, Done<bool>>& switches) {
    const auto started = switches.find(element.id);
    auto* source = std::get_if<SmokeSource>(&element.body);
    if (source != nullptr && started != switches.end() && started->second.place) {
        source->position = *started->second.place;
        source->rides_on.clear();
    }
}

void Triggers::apply(Effect& effect) const {
    const std::set<std::string> ids = acted_on(effect);
    std::map<std::string, bool> is_on;
    each_trigger(effect, [&](size_t, const Trigger& trigger) {
        if (is_switch(trigger)) { // what something starts is off before
            bool& on = is_on.try_emplace(trigger.what, true).first->second;
            on = on && trigger.then == TriggerThen::stop;
        }
    });
    for (auto& [id, on] : is_on) {
        const auto last = switches_.find(id);
        on = last != switches_.end() ? last->second.value : on;
    }
    for (const auto& [place, set] : numbers_) {
        const auto holder = ids.contains(place.first) ? find_holder(effect, place.first) : std::nullopt;
        if (holder) {
            set_number(*holder, place.second, set.value);
        }
    }
    for (Element& element : effect.elements) {
        const auto found = is_on.find(element.id);
        if (found != is_on.end() && !found->second) {
            stop(element);
        } else if (found != is_on.end()) {
            start_at(element, switches_);
        }
    }
}

void Triggers::undo_what_has_lasted(double now_s) {
    std::erase_if(numbers_, [&](const auto& entry) { return entry.second.until_s <= now_s; });
    for (auto& [id, done] : switches_) {
        if (done.until_s <= now_s) {
            done = {!done.value, for_good, std::nullopt};
        }
    }
}

std::vector<TriggerCall> Triggers::step(const TriggerScene& scene) {
    std::vector<TriggerCall> calls;
    std::map<std::string, State> kept;
    const Effect& effect = *scene.prepared.effect;
    const double now_s = scene.time.start_s();
    undo_what_has_lasted(now_s + 1e-9);
    const std::vector<Placement>& placements = scene.placed.from;
    each_trigger(effect, [&](size_t index, const Trigger& trigger) {
        const std::string& id = effect.elements[index].id;
        State& state = kept[id] = std::move(states_[id]);
        if (!can_do(effect, trigger.what, trigger.then)) {
            return;
        }
        std::vector<Happening> happened = happenings(scene, trigger);
        if (lasts(trigger.when)) {
            const bool so = is_so(scene, index, trigger, placements);
            if (so && !state.was_so) {
                const bool is_somewhere = trigger.when == TriggerWhen::enters;
                happened.push_back(is_somewhere ? Happening(placements[index].position) : std::nullopt);
            }
            state.was_so = so;
        }
        const uint32_t seed = mixed_seed(effect.seed, hash_of(id));
        for (const Happening& place : happened) {
            const auto number = uint32_t(state.happened++);
            const bool is_drawn =
                float(mixed_seed(seed, number) >> 8) / 16777216.0f < trigger.chance || trigger.chance >= 1;
            if (is_drawn && state.waiting.size() < most_waiting) {
                state.waiting.push_back({now_s + double(trigger.delay), place});
            }
        }
        while (!state.done_s.empty() && state.done_s.front() <= now_s - 1 + 1e-9) {
            state.done_s.pop_front();
        }
        // A shorter delay may have come since: not only the first may be due.
        std::deque<Waiting> later;
        for (const Waiting& each : state.waiting) {
            if (each.due_s > now_s + 1e-9) {
                later.push_back(each);
            } else if (trigger.limit <= 0 || float(state.done_s.size()) < trigger.limit) {
                if (trigger.limit > 0) {
                    state.done_s.push_back(now_s);
                }
                calls.push_back({trigger.then, trigger.what, each.place, trigger.births, index});
                const double until_s = trigger.lasting > 0 ? now_s + double(trigger.lasting) : for_good;
                if (is_switch(trigger)) {
                    switches_[trigger.what] = {trigger.then == TriggerThen::start, until_s, each.place};
                } else if (trigger.then == TriggerThen::set) {
                    numbers_[{trigger.what, trigger.parameter}] = {trigger.value, until_s, std::nullopt};
                }
            }
        }
        state.waiting = std::move(later);
    });
    states_ = std::move(kept);
    return calls;
}

} // namespace ember
