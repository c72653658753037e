// Triggers: sentences that say when something happens and what is done then.
#pragma once

#include "core/effect/place.h"

namespace ember {

enum class TriggerWhen { at_time, every, click, key, enters, over, count, broken, hit, rest, gone, apart };
enum class TriggerThen { burst, start, stop, blast, drop, call_back, clear, set };
/// A limit of the budget that does not depend on the machine.
enum class CountLimit { particles, pieces, awake };

/// When something happens, something is done, with a chance, a limit and a delay. Its place is where what
/// enters has to come near.
struct Trigger : Place {
    TriggerWhen when = TriggerWhen::every;
    float at = 1;      // s
    float time = 1;    // s: from one to the next
    int key = 1;       // a digit
    std::string of;    // id of the source that it happens to
    std::string mover; // id of what enters
    CountLimit over = CountLimit::particles;
    float within = 0.5f;  // m
    int count = 1000;     // of particles or pieces
    float least = 0;      // m/s, of a hit
    float least_load = 0; // kPa, that tears a body apart

    TriggerThen then = TriggerThen::burst;
    std::string what; // id of the element that does it
    int births = 100;
    std::string parameter; // key of one of its numbers
    float value = 1;       // that this takes
    float lasting = 0;     // s: how long it starts, stops or sets; 0: until something else is done
    float chance = 1;
    float limit = 0; // times a second; 0: none
    float delay = 0; // s
    bool operator==(const Trigger&) const = default;
};

/// Whether what it does may last for a time, and be undone then.
inline bool can_last(const Trigger& trigger) {
    return trigger.then == TriggerThen::start || trigger.then == TriggerThen::stop ||
           trigger.then == TriggerThen::set;
}

} // namespace ember
