#include "core/effect/sentence.h"

#include "core/effect/parameter.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// A name, or dots in its place.
std::string named(const Effect& effect, const std::string& id) {
    const auto holder = find_holder(effect, id);
    return holder ? holder->name : "...";
}

class Sentence {
  public:
    Sentence& say(const std::string& text) { return word(text, ""); }
    Sentence& word(const std::string& text, const std::string& key) {
        parts.push_back({text, key});
        return *this;
    }
    std::vector<SentencePart> parts;
};

void say_when(Sentence& to, const Effect& effect, const Trigger& trigger) {
    const std::string of = named(effect, trigger.of);
    const bool has_pieces = [&] {
        const Element* source = find_element(effect, trigger.of);
        return source != nullptr && std::holds_alternative<Breakable>(source->body);
    }();
    switch (trigger.when) {
    case TriggerWhen::at_time:
        to.word("At", "when").say(" ").word(text_of(trigger.at) + " s", "at");
        return;
    case TriggerWhen::every:
        to.word("Every", "when").say(" ").word(text_of(trigger.time) + " s", "time");
        return;
    case TriggerWhen::click:
        to.say("When ").word("the picture is clicked", "when");
        return;
    case TriggerWhen::key:
        to.say("When ").word(std::to_string(trigger.key), "key").say(" ").word("is pressed", "when");
        return;
    case TriggerWhen::enters:
        to.say("When ").word(named(effect, trigger.mover), "mover").say(" ").word("comes within", "when");
        to.say(" ").word(text_of(trigger.within) + " m", "within");
        return;
    case TriggerWhen::over: {
        const std::string what = trigger.over == CountLimit::particles ? "particles"
                                 : trigger.over == CountLimit::pieces  ? "pieces"
                                                                       : "moving pieces";
        to.say("When ").word(what, "over").say(" ").word("reach their limit", "when");
        return;
    }
    case TriggerWhen::count:
        to.say("When ").word(of, "of").say(" ").word("has", "when").say(" ");
        to.word(std::to_string(trigger.count), "count");
        return;
    case TriggerWhen::broken:
        to.say("When a piece of ").word(of, "of").say(" ").word("comes off", "when");
        return;
    case TriggerWhen::apart:
        to.say("When ").word(of, "of").say(" ").word("comes apart", "when");
        if (trigger.least_load > 0) {
            to.say(" by ").word(text_of(trigger.least_load) + " kPa or more", "least_load");
        }
        return;
    case TriggerWhen::hit:
        to.say("When ").word(of, "of").say(" ").word("hits", "when");
        if (trigger.least > 0) {
            to.say(" at ").word(text_of(trigger.least) + " m/s or more", "least");
        }
        return;
    case TriggerWhen::rest:
        to.say("When a piece of ").word(of, "of").say(" ").word("comes to rest", "when");
        return;
    case TriggerWhen::gone:
        break;
    }
    to.say(has_pieces ? "When a piece of " : "When a particle of ").word(of, "of").say(" ");
    to.word("goes", "when");
}

void say_then(Sentence& to, const Effect& effect, const Trigger& trigger) {
    const std::string what = named(effect, trigger.what);
    switch (trigger.then) {
    case TriggerThen::burst:
        to.word(what, "what").say(" ").word("bears", "then").say(" ");
        to.word(std::to_string(trigger.births), "births");
        return;
    case TriggerThen::start:
        to.word(what, "what").say(" ").word("starts", "then");
        return;
    case TriggerThen::stop:
        to.word(what, "what").say(" ").word("stops", "then");
        return;
    case TriggerThen::blast:
        to.word(what, "what").say(" ").word("goes off", "then");
        return;
    case TriggerThen::drop:
        to.word(what, "what").say(" ").word("drops one", "then");
        return;
    case TriggerThen::call_back:
        to.say("parked pieces of ").word(what, "what").say(" ").word("come back", "then");
        return;
    case TriggerThen::set: {
        const auto holder = find_holder(effect, trigger.what);
        const Parameter* number = holder ? holder->find(trigger.parameter) : nullptr;
        const std::string unit =
            number != nullptr && !number->unit.empty() ? " " + std::string(number->unit) : "";
        to.word(what, "what").say(": ");
        to.word(number != nullptr ? std::string(number->label) : "...", "parameter").say(" ");
        to.word("becomes", "then").say(" ").word(text_of(trigger.value) + unit, "value");
        return;
    }
    case TriggerThen::clear:
        break;
    }
    to.say("loose pieces of ").word(what, "what").say(" ").word("are cleared", "then");
}

void say_how_long(Sentence& to, const Trigger& trigger) {
    if (can_last(trigger) && trigger.lasting > 0) {
        to.say(" for ").word(text_of(trigger.lasting) + " s", "lasting");
    }
}

} // namespace

std::vector<SentencePart> parts_of_sentence(const Effect& effect, const Trigger& trigger) {
    Sentence sentence;
    say_when(sentence, effect, trigger);
    if (trigger.chance < 1) {
        const double in = 1 / std::max(double(trigger.chance), 1e-6);
        sentence.say(", ").word(std::fabs(in - std::round(in)) < 0.01
                                    ? "1 in " + std::to_string(int64_t(std::round(in)))
                                    : text_of(trigger.chance * 100) + " in 100",
                                "chance");
    }
    if (trigger.delay > 0) {
        sentence.say(", ").word(text_of(trigger.delay) + " s later", "delay");
    }
    sentence.say(", ");
    say_then(sentence, effect, trigger);
    say_how_long(sentence, trigger);
    if (trigger.limit > 0) {
        sentence.say("; ").word("at most " + text_of(trigger.limit) + " a second", "limit");
    }
    sentence.say(".");
    return sentence.parts;
}

std::string sentence_of(const Effect& effect, const Trigger& trigger) {
    std::string text;
    for (const SentencePart& part : parts_of_sentence(effect, trigger)) {
        text += part.text;
    }
    return text;
}

std::optional<std::string> why_never_done(const Effect& effect, const Trigger& trigger) {
    if (!can_do(effect, trigger.what, trigger.then)) {
        return "Name what does it: nothing that can is named yet";
    }
    if (trigger.then == TriggerThen::set) {
        const auto numbers = settable_numbers(*find_holder(effect, trigger.what));
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
