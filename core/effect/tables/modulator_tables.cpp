// Modulators: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 4> waves = {"sine", "triangle", "saw", "pulse"};
constexpr std::array<std::string_view, 3> growth_ends = {"stay", "go on", "again"};
constexpr std::array<std::string_view, 2> step_orders = {"up", "shuffled"};
constexpr std::array<std::string_view, 2> figures = {"distance", "speed"};

// clang-format off: a table reads best with a row a line.

constexpr Limits periods = {0.02, 3600, 0.1, 10};

constexpr auto pulses = [](const Cycle& c) { return c.wave == Wave::pulse; };
constexpr auto by_distance = [](const MoverReading& m) { return m.figure == MoverFigure::distance; };

constexpr std::array cycle_table = {
    row<Cycle, &Cycle::wave>(
        {"wave", "Wave", "Cycle", "",
         "sine and triangle go up and down, softly or straight; saw rises and falls at once; "
         "pulse is fully on, then off."},
        {}, waves),
    row<Cycle, &Cycle::period>({"period", "Period", "Cycle", "s", "How long once up and down takes."},
                               periods),
    row<Cycle, &Cycle::phase>(
        {"phase", "Phase", "Cycle", "", "Where it is at time zero; 0 is at the low end."}, share),
    when<Cycle, pulses>(row<Cycle, &Cycle::width>(
        {"width", "Width", "Cycle", "", "Which share of the period a pulse is on."}, share)),
};

constexpr std::array growth_table = {
    row<Growth, &Growth::start>({"start", "Start", "Growth", "s", "When it begins to grow."}, any_time),
    row<Growth, &Growth::duration>(
        {"duration", "Duration", "Growth", "s", "How long it grows from low to high."}, periods),
    row<Growth, &Growth::at_end>({"at_end", "At the end", "Growth", "",
                                  "stay: remains high. go on: grows beyond, up to what a parameter can be. "
                                  "again: begins anew."},
                                 {}, growth_ends),
};

constexpr std::array time_curve_table = {
    row<TimeCurve, &TimeCurve::curve>(
        {"curve", "Curve", "Over time", "", "0 is the low end of a drive, 1 its high end."}, {-5, 5, 0, 1}),
    row<TimeCurve, &TimeCurve::start>({"start", "Start", "Over time", "s", "When it begins."}, any_time),
    row<TimeCurve, &TimeCurve::duration>(
        {"duration", "Duration", "Over time", "s", "How long the curve takes."}, periods),
    row<TimeCurve, &TimeCurve::again>(
        {"again", "Again", "Over time", "", "Whether it begins anew at its end."}),
};

constexpr std::array sway_table = {
    row<Sway, &Sway::period>(
        {"period", "Period", "Sway", "s", "About how long it makes for one place before it turns."}, periods),
    row<Sway, &Sway::roughness>({"roughness", "Roughness", "Sway", "", "How much faster trembling is added."},
                                share),
};

constexpr std::array steps_table = {
    row<Steps, &Steps::levels>(
        {"levels", "Levels", "Steps", "levels", "How many even levels there are from low to high."},
        {2, 64, 2, 16}),
    row<Steps, &Steps::every>({"every", "Every", "Steps", "s", "How long it stays on a level."}, periods),
    row<Steps, &Steps::glide>(
        {"glide", "Glide", "Steps", "", "Share of that time in which it goes over to the level."}, share),
    row<Steps, &Steps::order>(
        {"order", "Order", "Steps", "", "up: one level after the other. shuffled: any."}, {}, step_orders),
};

constexpr std::array count_table = {
    names<CountReading, &CountReading::source>(
        ParameterKind::source, {"source", "Source", "Reading", "", "Whose live particles are counted."}),
    row<CountReading, &CountReading::count>(
        {"count", "Counts", "Reading", "particles",
         "So many alive give the low end of a drive, so many the high end."},
        {0, 2e7, 0, 50000}),
};

constexpr std::array mover_reading_table = {
    names<MoverReading, &MoverReading::of>(
        ParameterKind::place, {"of", "Of", "Reading", "", "A mover, or another element with a place."}),
    row<MoverReading, &MoverReading::figure>(
        {"figure", "Reads", "Reading", "",
         "distance: how far it is from a place. speed: how fast it is carried."},
        {}, figures),
    when<MoverReading, by_distance>(row<MoverReading, &MoverReading::from>(
        {"from", "From", "Reading", "m", "The place that the distance is measured from."}, anywhere)),
    row<MoverReading, &MoverReading::span>({"span", "Span", "Reading", "m or m/s",
                                            "So much gives the low end of a drive, so much the high end."},
                                           {0, 10000, 0, 10}),
};

// clang-format on

} // namespace

std::span<const ElementType> modulator_types() {
    static const std::array types = {
        ElementType{"cycle", "Cycle", "Goes up and down for ever: pulsing, swinging, blinking.", cycle_table,
                    Cycle{}},
        ElementType{"growth", "Growth", "Grows steadily from low to high: swelling, ageing, filling.",
                    growth_table, Growth{}},
        ElementType{"time-curve", "Time curve", "A curve over time, once or again and again.",
                    time_curve_table, TimeCurve{}},
        ElementType{"sway", "Sway", "Smooth chance: flicker, gusts, unrest. The seed decides it.", sway_table,
                    Sway{}},
        ElementType{"steps", "Steps", "Jumps from level to level, in order or shuffled.", steps_table,
                    Steps{}},
        ElementType{"count-reading", "Count reading", "Follows how many particles a source has alive.",
                    count_table, CountReading{}},
        ElementType{"mover-reading", "Mover reading", "Follows how far away or how fast a mover is.",
                    mover_reading_table, MoverReading{}},
    };
    return types;
}

} // namespace ember::tables
