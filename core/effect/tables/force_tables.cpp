// Forces: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 3> vortex_abouts = {"line", "point", "plane"};
constexpr std::array<std::string_view, 3> pull_laws = {"constant", "linear", "inverse_square"};
constexpr std::array<std::string_view, 3> spring_tos = {"point", "line", "plane"};
constexpr std::array<std::string_view, 4> flow_grids = {"file", "mesh", "noise", "smoke"};
constexpr std::array<std::string_view, 4> flow_ends = {"stop", "go-on", "loop", "die"};
constexpr std::array<std::string_view, 1> grid_endings = {"vdb"};

// clang-format off: a table reads best with a row a line.

constexpr Limits grip = {0, 1000, 0, 20};

constexpr auto gravity_table = joined(
    std::array{
        row<Gravity, &Gravity::direction>(
            {"direction", "Direction", "Motion", "",
             "Which way things fall; only the direction counts, not the length."},
            axis),
        row<Gravity, &Gravity::strength>({"strength", "Strength", "Motion", "m/s\u00b2",
                                          "Acceleration. 9.81 is the earth; a negative one lifts."},
                                         {-1000, 1000, -20, 20}),
    },
    reach_rows<Gravity>());

constexpr auto wind_table = joined(
    std::array{
        row<Wind, &Wind::direction>({"direction", "Direction", "Motion", "",
                                     "Which way the air moves; only the direction counts, not the length."},
                                    axis),
        row<Wind, &Wind::speed>(
            {"speed", "Speed", "Motion", "m/s",
             "How fast the air moves. Particles end at this speed if nothing else acts on them."},
            {0, 300, 0, 20}),
        row<Wind, &Wind::grip>(
            {"grip", "Grip", "Motion", "1/s",
             "How quickly particles take up the speed of the air: small for heavy drops, large for mist."},
            {0, 1000, 0, 5}),
        row<Wind, &Wind::gusts>(
            {"gusts", "Gusts", "Gusts", "", "How far the speed swings up and down, as a share of it."},
            share),
        row<Wind, &Wind::gust_period>(
            {"gust_period", "Gust period", "Gusts", "s", "Roughly how long a gust lasts."},
            {0.05, 600, 0.2, 20}),
    },
    reach_rows<Wind>());

constexpr auto drag_table = joined(
    std::array{
        row<Drag, &Drag::linear>(
            {"linear", "Linear", "Motion", "1/s",
             "Speed that is lost per second, as a share of the speed: the drag of fine, slow things."},
            {0, 1000, 0, 5}),
        row<Drag, &Drag::quadratic>(
            {"quadratic", "Quadratic", "Motion", "1/m",
             "Drag that grows with the square of the speed: the drag of fast drops and debris."},
            {0, 1000, 0, 1}),
        row<Drag, &Drag::brake>(
            {"brake", "Brake", "Motion", "m/s\u00b2",
             "Deceleration that does not depend on the speed: it brings particles to a full stop."},
            {0, 10000, 0, 20}),
    },
    reach_rows<Drag>());

// What curl noise takes, whether it pushes or displaces.
template <class T>
constexpr auto noise_rows() {
    return std::array{
        row<T, &T::eddy_size>({"eddy_size", "Eddy size", "Motion", "m",
                               "Size of the largest eddies. Small ones fray a jet, large ones bend it."},
                              {0.001, 1000, 0.05, 5}),
        row<T, &T::octaves>({"octaves", "Detail", "Motion", "octaves",
                             "How many sizes of eddy are summed, each half as large as the one before. Each "
                             "costs the same time."},
                            {1, 8}),
        row<T, &T::roughness>(
            {"roughness", "Roughness", "Motion", "",
             "Strength of each octave relative to the one before: high is ragged, low is smooth."},
            share),
        row<T, &T::churn>({"churn", "Churn", "Change", "1/s",
                           "How often the field turns into a new one. 0 keeps it frozen, and is cheaper."},
                          {0, 100, 0, 3}),
        row<T, &T::drift>({"drift", "Drift", "Change", "m/s",
                           "Speed at which the whole field is carried along, as by a wind."},
                          {-1000, 1000, -5, 5}),
    };
}

constexpr auto turbulence_table = joined(
    std::array{
        row<Turbulence, &Turbulence::strength>(
            {"strength", "Strength", "Motion", "m/s\u00b2", "How hard the eddies push (root mean square)."},
            {0, 10000, 0, 20}),
    },
    noise_rows<Turbulence>(), reach_rows<Turbulence>());

constexpr auto waves_table = joined(
    std::array{
        row<Waves, &Waves::speed>(
            {"speed", "Speed", "Motion", "m/s",
             "How fast particles are displaced (root mean square). Their own velocities stay as they are."},
            {0, 1000, 0, 5}),
    },
    noise_rows<Waves>(), reach_rows<Waves>());

constexpr auto vortex_table = joined(
    std::array{
        row<Vortex, &Vortex::about>({"about", "About", "Motion", "",
                                     "line: about its whole axis. point: fading in all directions from its "
                                     "middle. plane: flattened into the plane across its axis."},
                                    {}, vortex_abouts),
        row<Vortex, &Vortex::spin>(
            {"spin", "Spin", "Motion", "deg/s",
             "Angular velocity of the air inside the core; farther out its speed falls with the distance."},
            {-36000, 36000, -720, 720}),
        row<Vortex, &Vortex::core>(
            {"core", "Core", "Motion", "m", "Radius up to which the air turns as one."}, lengths),
        row<Vortex, &Vortex::inflow>(
            {"inflow", "Inflow", "Motion", "m/s", "Speed towards the axis; negative flows outwards."},
            {-1000, 1000, -5, 5}),
        row<Vortex, &Vortex::lift>(
            {"lift", "Lift", "Motion", "m/s", "Speed along the axis; about a plane, towards the plane."},
            {-1000, 1000, -5, 5}),
        row<Vortex, &Vortex::grip>(
            {"grip", "Grip", "Motion", "1/s",
             "How quickly particles take up the speed of the air. What grips loosely is thrown outwards."},
            grip),
    },
    place_rows<Vortex>(), reach_rows<Vortex>());

constexpr auto pull_table = joined(
    std::array{
        row<Pull, &Pull::law>({"law", "Law", "Motion", "",
                               "constant: the same at any distance. linear: grows with the distance. "
                               "inverse_square: falls with its square, like gravity of a planet."},
                              {}, pull_laws),
        row<Pull, &Pull::strength>(
            {"strength", "Strength", "Motion", "m/s\u00b2",
             "Acceleration towards the point at a distance of 1 m; negative pushes away."},
            {-10000, 10000, -20, 20}),
        row<Pull, &Pull::core>({"core", "Core", "Motion", "m",
                                "The law holds outside of this distance. Inside it the pull falls evenly "
                                "to nothing at the centre, so that nothing is flung out."},
                               {0.001, 1000, 0.01, 2}),
    },
    place_rows<Pull>(), reach_rows<Pull>());

constexpr auto spring_table = joined(
    std::array{
        row<Spring, &Spring::to>({"to", "To", "Motion", "",
                                  "point: to its middle. line: to its y axis. plane: to the plane across its "
                                  "y axis, which holds that one direction and leaves the others free."},
                                 {}, spring_tos),
        row<Spring, &Spring::frequency>(
            {"frequency", "Frequency", "Motion", "Hz", "Swings per second when nothing damps."},
            {0, 30, 0, 5}),
        row<Spring, &Spring::damping>(
            {"damping", "Damping", "Motion", "", "0 swings for ever, 1 comes to rest without swinging over."},
            {0, 10, 0, 2}),
    },
    place_rows<Spring>(), reach_rows<Spring>());

constexpr auto path_flow_table = joined(
    std::array{
        row<PathFlow, &PathFlow::speed>(
            {"speed", "Speed", "Motion", "m/s", "Speed along the path; negative flows back."},
            {-1000, 1000, -10, 10}),
        row<PathFlow, &PathFlow::pull>(
            {"pull", "Pull", "Motion", "1/s", "How quickly the distance to the path shrinks."},
            {0, 1000, 0, 20}),
        row<PathFlow, &PathFlow::grip>({"grip", "Grip", "Motion", "1/s",
                                        "How quickly particles take up this motion. Round a bend of radius r "
                                        "they run about speed\u00b2 / (r \u00b7 "
                                        "grip \u00b7 pull) outside of the path."},
                                       grip),
        row<PathFlow, &PathFlow::tube>({"tube", "Tube", "Motion", "m",
                                        "Radius round the path within which nothing pulls: a stream as thick "
                                        "as that, in place of a wire."},
                                       {0, 1000, 0, 2}),
        row<PathFlow, &PathFlow::flow_end>({"flow_end", "At the end", "Motion", "",
                                            "stop: they come to rest there. go-on: they leave the way they "
                                            "came. loop: the end leads back to the start. "
                                            "die: they end."},
                                           {}, flow_ends),
    },
    path_rows<PathFlow>(), place_rows<PathFlow>(), reach_rows<PathFlow>());

constexpr auto from_file = [](const GridFlow& g) { return g.grid == FlowGrid::file; };
constexpr auto from_mesh = [](const GridFlow& g) { return g.grid == FlowGrid::mesh; };
constexpr auto swirls = [](const GridFlow& g) { return from_mesh(g) && g.swirl != 0; };
constexpr auto from_noise = [](const GridFlow& g) { return g.grid == FlowGrid::noise; };
constexpr auto scales = [](const GridFlow& g) { return g.grid < FlowGrid::noise; };
constexpr auto has_own_grid = [](const GridFlow& g) { return g.grid != FlowGrid::smoke; };

constexpr std::array<std::string_view, 4> swirl_abouts = {"x", "y", "z", "own"};

constexpr auto grid_flow_table = joined(
    std::array{
        row<GridFlow, &GridFlow::grid>(
            {"grid", "Grid", "Grid", "",
             "file: vectors read from a file. mesh: round the shape of a mesh. "
             "noise: frozen curl noise that repeats at its edges. smoke: as the effect's first "
             "volume of smoke flows, wherever that is."},
            {}, flow_grids),
        when<GridFlow, from_file>(names<GridFlow, &GridFlow::file>(
            ParameterKind::file,
            {"file", "File", "Grid", "",
             "An OpenVDB file with a grid of vectors (m/s), beside the effect file."},
            grid_endings)),
        when<GridFlow, from_mesh>(names<GridFlow, &GridFlow::mesh>(
            ParameterKind::file,
            {"mesh", "Mesh", "Grid", "", "A closed mesh (OBJ, PLY, STL, glTF), beside the effect file."},
            mesh_endings)),
        when<GridFlow, scales>(fixed(row<GridFlow, &GridFlow::scale>(
            {"scale", "Scale", "Grid", "\u00d7", "Factor on the size of what was read."},
            {0.0001, 10000, 0.1, 10}))),
        when<GridFlow, from_noise>(fixed(row<GridFlow, &GridFlow::size>(
            {"size", "Extent", "Grid", "m", "Length of the grid along x, y and z."},
            {0.01, 10000, 0.1, 10}))),
        when<GridFlow, has_own_grid>(row<GridFlow, &GridFlow::resolution>(
            {"resolution", "Resolution", "Grid", "cells",
             "Cells along the longest side. Twice as many need eight times the memory."},
            {4, 128})),
        when<GridFlow, from_mesh>(fixed(row<GridFlow, &GridFlow::attraction>(
            {"attraction", "Attraction", "Grid", "",
             "Share of the flow towards the surface; negative flows away from it."},
            {-1, 1}))),
        when<GridFlow, from_mesh>(fixed(row<GridFlow, &GridFlow::swirl>(
            {"swirl", "Swirl", "Grid", "", "Share of the flow round the shape; negative goes the other way."},
            {-1, 1}))),
        when<GridFlow, swirls>(fixed(row<GridFlow, &GridFlow::swirl_about>(
            {"swirl_about", "Swirls about", "Grid", "",
             "What the flow goes round: an axis of the mesh file, or its own way, which is a rod's length, "
             "or "
             "the axis of a ring or a disc. A shape that is as wide every way has y."},
            {}, swirl_abouts))),
        when<GridFlow, from_noise>(fixed(row<GridFlow, &GridFlow::eddy_size>(
            {"eddy_size", "Eddy size", "Grid", "m", "Size of the eddies."}, {0.01, 1000, 0.05, 5}))),
        row<GridFlow, &GridFlow::speed>(
            {"speed", "Intensity", "Motion", "\u00d7",
             "Factor on the vectors of a file or of smoke; speed in m/s of the flow from a mesh or noise."},
            {-1000, 1000, -5, 5}),
        row<GridFlow, &GridFlow::grip>(
            {"grip", "Grip", "Motion", "1/s", "How tightly particles follow the grid."}, grip),
    },
    place_rows<GridFlow>(), reach_rows<GridFlow>());

constexpr auto jitter_table = joined(
    std::array{
        row<Jitter, &Jitter::strength>({"strength", "Strength", "Motion", "m/s\u00b7s\u207b\u00bd",
                                        "Random kicks: after t seconds the speed on each axis has spread by "
                                        "the strength times the square root of t."},
                                       {0, 1000, 0, 10}),
    },
    reach_rows<Jitter>());

constexpr auto is_afraid = [](const Flock& f) { return !f.fears.empty(); };

constexpr auto flock_table = joined(
    std::array{
        row<Flock, &Flock::view>(
            {"view", "View", "Flock", "m", "How far each one sees. Cost grows with how many are within it."},
            {0.001, 1000, 0.05, 2}),
        row<Flock, &Flock::separation>({"separation", "Separation", "Flock", "m/s\u00b2",
                                        "How hard each one keeps clear of those too near."},
                                       {0, 1000, 0, 20}),
        row<Flock, &Flock::separation_share>({"separation_share", "Too near", "Flock", "",
                                              "Share of the view within which others are too near."},
                                             {0.01, 1}),
        row<Flock, &Flock::alignment>({"alignment", "Alignment", "Flock", "1/s",
                                       "How quickly each one takes up the velocity of those it sees."},
                                      {0, 100, 0, 10}),
        row<Flock, &Flock::cohesion>({"cohesion", "Cohesion", "Flock", "m/s\u00b2",
                                      "How hard each one makes for the middle of those it sees."},
                                     {0, 1000, 0, 20}),
        row<Flock, &Flock::cruise>({"cruise", "Cruise", "Flock", "m/s", "The speed that each one keeps up."},
                                   {0, 1000, 0, 5}),
        row<Flock, &Flock::cruise_grip>(
            {"cruise_grip", "Cruise grip", "Flock", "1/s", "How quickly it comes back to that speed."},
            {0, 100, 0, 5}),
        names<Flock, &Flock::fears>(
            ParameterKind::place,
            {"fears", "Fears", "Fear", "", "A mover, or another element with a place, that all flee from."}),
        when<Flock, is_afraid>(row<Flock, &Flock::fear_distance>(
            {"fear_distance", "Distance", "Fear", "m", "From how far away they flee."},
            {0.001, 1000, 0.1, 5})),
        when<Flock, is_afraid>(row<Flock, &Flock::fear>(
            {"fear", "Strength", "Fear", "m/s\u00b2", "How hard they flee when it is close."},
            {0, 10000, 0, 50})),
    },
    reach_rows<Flock>());

// clang-format on

} // namespace

std::span<const ElementType> force_types() {
    static const std::array types = {
        ElementType{"gravity", "Gravity", "Pulls everything the same way.", gravity_table, Gravity{}},
        ElementType{"wind", "Wind", "Moving air that takes particles along, with gusts.", wind_table, Wind{}},
        ElementType{"drag", "Drag", "Still air that slows particles down.", drag_table, Drag{}},
        ElementType{"turbulence", "Turbulence", "Swirling eddies of several sizes (curl noise).",
                    turbulence_table, Turbulence{}},
        ElementType{"waves", "Waves", "Bends paths into waves and leaves velocities as they are.",
                    waves_table, Waves{}},
        ElementType{"vortex", "Vortex", "Air that turns about an axis, with inflow and lift.", vortex_table,
                    Vortex{}},
        ElementType{"pull", "Pull", "Draws towards a point, or pushes away from it.", pull_table, Pull{}},
        ElementType{"spring", "Spring", "Swings about a point, a line or a plane.", spring_table, Spring{}},
        ElementType{"path-flow", "Path flow", "Carries along a path and draws towards it.", path_flow_table,
                    PathFlow{}},
        ElementType{"grid-flow", "Grid flow",
                    "Carries along a grid of vectors: from a file, a mesh, noise or smoke.", grid_flow_table,
                    GridFlow{}},
        ElementType{"jitter", "Jitter", "Random kicks.", jitter_table, Jitter{}},
        ElementType{"flock", "Flock", "Particles that keep together, keep apart and flee, like a shoal.",
                    flock_table, Flock{}},
    };
    return types;
}

} // namespace ember::tables
