// Triggers: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 12> moments = {
    "at-time", "every", "click", "key", "enters", "over", "count", "broken", "hit", "rest", "gone", "apart"};
constexpr std::array<std::string_view, 8> deeds = {"burst", "start",     "stop",  "blast",
                                                   "drop",  "call-back", "clear", "set"};
constexpr std::array<std::string_view, 3> limits = {"particles", "pieces", "awake"};

template <TriggerWhen... moments>
constexpr auto is_when = [](const Trigger& t) { return ((t.when == moments) || ...); };
constexpr auto has_source = is_when<TriggerWhen::count, TriggerWhen::broken, TriggerWhen::hit,
                                    TriggerWhen::rest, TriggerWhen::gone, TriggerWhen::apart>;
constexpr auto bursts = [](const Trigger& t) { return t.then == TriggerThen::burst; };
constexpr auto sets = [](const Trigger& t) { return t.then == TriggerThen::set; };

// clang-format off: a table reads best with a row a line.

constexpr auto trigger_table = std::array{
    row<Trigger, &Trigger::when>(
        {"when", "When", "When", "",
         "at-time: once. every: again and again. click: the picture is clicked while it runs. key: a digit "
         "is pressed over it. enters: a mover comes near. over: a limit of the budget is reached. count: a "
         "source has so many. broken: a piece comes off. apart: a body comes apart, once for the whole "
         "of it. hit, rest, gone: this happens to a piece; hit and gone also to a particle."},
        {}, moments),
    when<Trigger, is_when<TriggerWhen::at_time>>(
        fixed(row<Trigger, &Trigger::at>({"at", "At", "When", "s", "When it happens."}, any_time))),
    when<Trigger, is_when<TriggerWhen::every>>(fixed(row<Trigger, &Trigger::time>(
        {"time", "Time", "When", "s",
         "How long from one time to the next, counted from time zero to both sides."},
        {0.01, 3600, 0.1, 30}))),
    when<Trigger, is_when<TriggerWhen::key>>(
        fixed(row<Trigger, &Trigger::key>({"key", "Key", "When", "", "The digit that is pressed."}, {0, 9}))),
    when<Trigger, has_source>(names<Trigger, &Trigger::of>(
        ParameterKind::source, {"of", "Of", "When", "", "The source that it happens to."})),
    when<Trigger, is_when<TriggerWhen::count>>(row<Trigger, &Trigger::count>(
        {"count", "Reaches", "When", "", "How many it has to have; each time that it passes this number."},
        {1, 1e7, 10, 10000})),
    when<Trigger, is_when<TriggerWhen::over>>(row<Trigger, &Trigger::over>(
        {"over", "Limit", "When", "",
         "Of the budget: particles, pieces, or pieces that move. Each time that it is reached."},
        {}, limits)),
    when<Trigger, is_when<TriggerWhen::hit>>(row<Trigger, &Trigger::least>(
        {"least", "At least", "When", "m/s", "The speed of a hit; lighter ones do not count."},
        {0, 1000, 0, 20})),
    when<Trigger, is_when<TriggerWhen::apart>>(row<Trigger, &Trigger::least_load>(
        {"least_load", "Load", "When", "kPa",
         "The load for each area that tore it; what came apart by less does not count."},
        {0, 1e6, 0, 2000})),
    when<Trigger, is_when<TriggerWhen::enters>>(names<Trigger, &Trigger::mover>(
        ParameterKind::place,
        {"mover", "Who", "When", "", "A mover, or another element with a place, that comes near."})),
    when<Trigger, is_when<TriggerWhen::enters>>(
        row<Trigger, &Trigger::within>({"within", "Within", "When", "m", "How near to its place."}, lengths)),
    when<Trigger, is_when<TriggerWhen::enters>>(row<Trigger, &Trigger::position>(
        {"position", "Position", "When", "m", "What it has to come near to; an offset while it rides."},
        anywhere)),
    when<Trigger, is_when<TriggerWhen::enters>>(names<Trigger, &Trigger::rides_on>(
        ParameterKind::place, {"rides_on", "Rides on", "When", "", "What carries this place along."})),
    row<Trigger, &Trigger::then>(
        {"then", "Then", "Then", "",
         "burst: an emitter bears at once, where it happened, or at its own place if it happened nowhere. "
         "start, stop: an element acts from then on, or no more; what is started is off before, and a source "
         "of smoke begins "
         "where it happened. blast: goes "
         "off. drop: a dropper throws one in. call-back: parked pieces are in the physics again. clear: "
         "loose "
         "pieces go. set: a number takes a value, until it begins anew. A blast or dropper that a trigger "
         "tells has no clock of its own."},
        {}, deeds),
    names<Trigger, &Trigger::what>(
        ParameterKind::actor, {"what", "What", "Then", "",
                               "The element that does it; if a number is set, also a look or the stage."}),
    when<Trigger, bursts>(row<Trigger, &Trigger::births>(
        {"births", "Births", "Then", "", "How many particles at a time."}, {1, 1e6, 1, 1000})),
    when<Trigger, sets>(names<Trigger, &Trigger::parameter>(
        ParameterKind::number_of, {"parameter", "Number", "Then", "", "Which of its numbers."})),
    when<Trigger, sets>(row<Trigger, &Trigger::value>(
        {"value", "Value", "Then", "", "That the number takes, held within its own limits."},
        {-1e6, 1e6, 0, 100})),
    when<Trigger, can_last>(
        row<Trigger, &Trigger::lasting>({"lasting", "For", "Then", "s",
                                         "How long it starts, stops or sets: then it is undone. Once more "
                                         "begins the time anew. 0: for good."},
                                        {0, 600, 0, 10})),
    row<Trigger, &Trigger::chance>({"chance", "Chance", "Then", "", "In which share of cases it is done."},
                                   share),
    row<Trigger, &Trigger::limit>(
        {"limit", "At most", "Then", "1/s", "How often in any second; 0: as often as it happens."},
        {0, 1000, 0, 100}),
    row<Trigger, &Trigger::delay>({"delay", "Delay", "Then", "s", "How much later it is done."},
                                  {0, 600, 0, 10}),
};

// clang-format on

} // namespace

std::span<const ElementType> trigger_types() {
    static const std::array types = {
        ElementType{"trigger", "Trigger", "A sentence: when something happens, something is done.",
                    trigger_table, Trigger{{{0, 0.5f, 0}, {}, {}}}},
    };
    return types;
}

} // namespace ember::tables
