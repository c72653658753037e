#include "core/effect/sentence.h"

#include "core/effect/parameter.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// A name, or dots in its place.
std::string named(const Effect& effect, const std::string& id) {
    const Element* element = find_element(effect, id);
    return element != nullptr ? element->name : "...";
}

std::string when_words(const Effect& effect, const Trigger& trigger) {
    const std::string of = named(effect, trigger.of);
    const bool has_pieces = [&] {
        const Element* source = find_element(effect, trigger.of);
        return source != nullptr && std::holds_alternative<Breakable>(source->body);
    }();
    switch (trigger.when) {
    case TriggerWhen::at_time:
        return "At " + text_of(trigger.time) + " s";
    case TriggerWhen::every:
        return "Every " + text_of(trigger.time) + " s";
    case TriggerWhen::click:
        return "When the picture is clicked";
    case TriggerWhen::key:
        return "When " + std::to_string(trigger.key) + " is pressed";
    case TriggerWhen::enters:
        return "When " + named(effect, trigger.mover) + " comes within " + text_of(trigger.within) + " m";
    case TriggerWhen::over:
        return "When " +
               std::string(trigger.over == CountLimit::particles ? "particles"
                           : trigger.over == CountLimit::pieces  ? "pieces"
                                                                 : "moving pieces") +
               " reach their limit";
    case TriggerWhen::count:
        return "When " + of + " has " + std::to_string(trigger.count);
    case TriggerWhen::broken:
        return "When " + of + " breaks";
    case TriggerWhen::hit:
        return "When " + of + " hits" +
               (trigger.least > 0 ? " at " + text_of(trigger.least) + " m/s or more" : std::string());
    case TriggerWhen::rest:
        return "When a piece of " + of + " comes to rest";
    case TriggerWhen::gone:
        break;
    }
    return "When a " + std::string(has_pieces ? "piece" : "particle") + " of " + of + " goes";
}

std::string then_words(const Effect& effect, const Trigger& trigger) {
    const std::string what = named(effect, trigger.what);
    switch (trigger.then) {
    case TriggerThen::burst:
        return what + " bears " + std::to_string(trigger.births);
    case TriggerThen::start:
        return what + " starts";
    case TriggerThen::stop:
        return what + " stops";
    case TriggerThen::blast:
        return what + " goes off";
    case TriggerThen::drop:
        return what + " drops one";
    case TriggerThen::call_back:
        return "parked pieces of " + what + " come back";
    case TriggerThen::set: {
        const Element* element = find_element(effect, trigger.what);
        const Parameter* number = element != nullptr ? holder_of(*element).find(trigger.parameter) : nullptr;
        return what + ": " + (number != nullptr ? std::string(number->label) : "...") + " becomes " +
               text_of(trigger.value) +
               (number != nullptr && !number->unit.empty() ? " " + std::string(number->unit) : "");
    }
    case TriggerThen::clear:
        break;
    }
    return "loose pieces of " + what + " are cleared";
}

} // namespace

std::string sentence_of(const Effect& effect, const Trigger& trigger) {
    std::string text = when_words(effect, trigger);
    if (trigger.chance < 1) {
        const double in = 1 / std::max(double(trigger.chance), 1e-6);
        text += std::fabs(in - std::round(in)) < 0.01 ? ", 1 in " + std::to_string(int64_t(std::round(in)))
                                                      : ", " + text_of(trigger.chance * 100) + " in 100";
    }
    if (trigger.delay > 0) {
        text += ", " + text_of(trigger.delay) + " s later";
    }
    text += ", " + then_words(effect, trigger);
    if (trigger.limit > 0) {
        text += "; at most " + text_of(trigger.limit) + " a second";
    }
    return text + ".";
}

std::optional<std::string> why_never_done(const Effect& effect, const Trigger& trigger) {
    const Element* what = find_element(effect, trigger.what);
    if (what == nullptr || !can_do(*what, trigger.then)) {
        return "Name what does it: nothing that can is named yet";
    }
    if (trigger.then == TriggerThen::set) {
        const auto numbers = settable_numbers(*what);
        if (std::none_of(numbers.begin(), numbers.end(),
                         [&](const Parameter* each) { return each->key == trigger.parameter; })) {
            return "Choose which of its numbers is set";
        }
    }
    if (trigger.chance <= 0) {
        return "A chance of 0 means never";
    }
    const bool happens_to_source = trigger.when >= TriggerWhen::count;
    const Element* source = find_element(effect, trigger.of);
    if (happens_to_source && source == nullptr) {
        return "Name the source that it happens to";
    }
    const bool is_of_pieces = trigger.when == TriggerWhen::broken || trigger.when == TriggerWhen::rest;
    if (is_of_pieces && !std::holds_alternative<Breakable>(source->body)) {
        return "Particles do not break or come to rest; name a breakable";
    }
    if (trigger.when == TriggerWhen::enters && find_element(effect, trigger.mover) == nullptr) {
        return "Name who has to come near";
    }
    return std::nullopt;
}

} // namespace ember
