// Movers: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 3> path_ends = {"loop", "return", "stay"};
constexpr std::array<std::string_view, 1> key_endings = {"csv"};

// clang-format off: a table reads best with a row a line.

constexpr Limits mover_periods = {0.01, 3600, 0.2, 30};
constexpr Limits both_ways = {0, 2, 0, 1};

constexpr auto path_mover_table = joined(
    place_rows<PathMover>(),
    std::array{
        row<PathMover, &PathMover::period>(
            {"period", "Period", "Motion", "s", "How long the way from start to end takes, at even speed."},
            mover_periods),
        row<PathMover, &PathMover::phase>(
            {"phase", "Phase", "Motion", "",
             "Where it is at time zero, as a share of the way; from 1 to 2 it is on its way back."},
            both_ways),
        row<PathMover, &PathMover::at_end>(
            {"at_end", "At the end", "Motion", "",
             "loop: begins again at the start. return: goes back the same way. stay: stops."},
            {}, path_ends),
        row<PathMover, &PathMover::turns_along>(
            {"turns_along", "Turns along", "Motion", "", "Whether its x axis points along the path."}),
    },
    path_rows<PathMover>());

constexpr auto orbit_table = joined(
    place_rows<Orbit>(),
    std::array{
        row<Orbit, &Orbit::radius>({"radius", "Radius", "Motion", "m",
                                    "Radius of the circle, in its own xz plane; 0 turns on the spot."},
                                   {0, 10000, 0, 10}),
        row<Orbit, &Orbit::period>(
            {"period", "Period", "Motion", "s", "Time for once round; negative goes the other way."},
            {-3600, 3600, -20, 20}),
        row<Orbit, &Orbit::phase>(
            {"phase", "Phase", "Motion", "", "Where it is at time zero, as a share of the round."}, share),
        row<Orbit, &Orbit::turns_along>(
            {"turns_along", "Turns along", "Motion", "", "Whether it turns as it goes round, like a spoke."}),
    });

constexpr auto swing_table = joined(
    place_rows<Swing>(),
    std::array{
        row<Swing, &Swing::angle>({"angle", "Angle", "Motion", "deg", "How far it swings to either side."},
                                  {-180, 180, 0, 90}),
        row<Swing, &Swing::period>(
            {"period", "Period", "Motion", "s", "Time to and fro; a weight on a rope of 2 m takes 2.8 s."},
            {0.01, 3600, 0.2, 20}),
        row<Swing, &Swing::phase>(
            {"phase", "Phase", "Motion", "", "Where it is at time zero, as a share of the period."}, share),
    });

constexpr auto wander_table = joined(
    place_rows<Wander>(), std::array{
                              row<Wander, &Wander::extent>({"extent", "Extent", "Motion", "m",
                                                            "Size of the region that it roams through."},
                                                           {0, 10000, 0, 10}),
                              row<Wander, &Wander::pace>({"pace", "Pace", "Motion", "1/s",
                                                          "How often per second it makes for a new place."},
                                                         {0, 100, 0, 5}),
                          });

constexpr auto keyed_table = joined(
    place_rows<KeyedMover>(),
    std::array{
        names<KeyedMover, &KeyedMover::file>(
            ParameterKind::file,
            {"file", "File", "Motion", "",
             "A text file with a key on each line: seconds, x, y, z in metres, and optionally a turn "
             "in degrees about x, y, z; separated by commas."},
            key_endings),
        row<KeyedMover, &KeyedMover::start>(
            {"start", "Start", "Motion", "s", "When it is where the keys say for their second 0."}, any_time),
        row<KeyedMover, &KeyedMover::loop>(
            {"loop", "Loop", "Motion", "", "Whether it begins again after the last key."}),
    });

constexpr auto pointer_table = place_rows<Pointer>();

// clang-format on

} // namespace

std::span<const ElementType> mover_types() {
    static const std::array types = {
        ElementType{"path-mover", "Path mover", "Goes along a path.", path_mover_table, PathMover{}},
        ElementType{"orbit", "Orbit", "Goes round in a circle, or turns on the spot like a wheel.",
                    orbit_table, Orbit{}},
        ElementType{"swing", "Swing", "Swings like a pendulum: what rides on it hangs below.", swing_table,
                    Swing{{{0, 3, 0}, {}, {}}}},
        ElementType{"wander", "Wander", "Roams through a region without plan.", wander_table, Wander{}},
        ElementType{"keyed", "Keyed mover", "Follows keys from a file.", keyed_table, KeyedMover{}},
        ElementType{"pointer", "Pointer", "Follows the pointer over the picture, held to a plane.",
                    pointer_table, Pointer{}},
    };
    return types;
}

} // namespace ember::tables
