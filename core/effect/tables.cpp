// The parameter tables: everything an artist can turn, a line each.
#include "core/effect/parameter.h"

#include <algorithm>
#include <array>

namespace ember {

namespace {

struct Text {
    std::string_view key, label, group, unit, help;
};

// The hard range and, where it is narrower, the range of the slider.
struct Limits {
    double hard_low = 0, hard_high = 0;
    double soft_low = hard_low, soft_high = hard_high;
};

template <class T>
constexpr ParameterKind kind_of() {
    if constexpr (std::is_enum_v<T>) {
        return ParameterKind::choice;
    } else if constexpr (std::is_same_v<T, bool>) {
        return ParameterKind::toggle;
    } else if constexpr (std::is_same_v<T, int>) {
        return ParameterKind::count;
    } else if constexpr (std::is_same_v<T, Vec3>) {
        return ParameterKind::vector;
    } else if constexpr (std::is_same_v<T, Range>) {
        return ParameterKind::range;
    } else if constexpr (std::is_same_v<T, Colour>) {
        return ParameterKind::colour;
    } else if constexpr (std::is_same_v<T, Curve>) {
        return ParameterKind::curve;
    } else if constexpr (std::is_same_v<T, Ramp>) {
        return ParameterKind::ramp;
    } else if constexpr (std::is_same_v<T, std::string>) {
        return ParameterKind::look;
    } else {
        return ParameterKind::number;
    }
}

// `Object` is the type that a holder points to; a member may belong to one of its bases.
template <class Object, auto Member>
constexpr Parameter row(Text text, Limits limits = {}, std::span<const std::string_view> choices = {}) {
    using Type = std::remove_cvref_t<decltype(std::declval<Object>().*Member)>;
    Parameter parameter{text.key,        text.label,       text.group,      text.unit,
                        text.help,       kind_of<Type>(),  limits.hard_low, limits.hard_high,
                        limits.soft_low, limits.soft_high, choices};
    parameter.get = [](const void* object) -> Value {
        const Type& member = static_cast<const Object*>(object)->*Member;
        if constexpr (std::is_enum_v<Type>) {
            return int(member);
        } else {
            return member;
        }
    };
    parameter.set = [](void* object, const Value& value) {
        Type& member = static_cast<Object*>(object)->*Member;
        if constexpr (std::is_enum_v<Type>) {
            member = Type(std::get<int>(value));
        } else {
            member = std::get<Type>(value);
        }
    };
    return parameter;
}

constexpr Limits anywhere = {-10000, 10000, -10, 10};
constexpr Limits share = {0, 1};
constexpr Limits degrees = {-360, 360, -180, 180};
constexpr Limits axis = {-1000, 1000, -1, 1};

constexpr std::array<std::string_view, 5> birth_shapes = {"point", "line", "disc", "box", "ball"};
constexpr std::array<std::string_view, 2> blends = {"add", "over"};

// clang-format off: a table reads best with a row a line.

constexpr std::array emitter_table = {
    row<Emitter, &Emitter::shape>({"shape", "Shape", "Birth", "",
                                   "The shape that gives birth: particles start inside it, spread evenly. A "
                                   "line is good for edges, a ball for puffs."},
                                  {}, birth_shapes),
    row<Emitter, &Emitter::position>(
        {"position", "Position", "Birth", "m", "Where the middle of the birth shape is."}, anywhere),
    row<Emitter, &Emitter::size>(
        {"size", "Extent", "Birth", "m",
         "How long, high and wide the birth shape is. A line uses x, a disc x and z."},
        {0, 1000, 0, 5}),
    row<Emitter, &Emitter::turn>(
        {"turn", "Turn", "Birth", "deg", "Turns the birth shape about x, then y, then z."}, degrees),
    row<Emitter, &Emitter::rate>(
        {"rate", "Rate", "Amount", "1/s",
         "How many particles are born in a second. Rate times lifetime is how many live at once."},
        {0, 5e6, 0, 20000}),
    row<Emitter, &Emitter::capacity>(
        {"capacity", "Capacity", "Amount", "particles",
         "The most that may live at once. What cannot be born is counted and shown on the board."},
        {1, double(most_particles), 1000, 200000}),
    row<Emitter, &Emitter::direction>(
        {"direction", "Direction", "First motion", "",
         "Which way particles leave; only the direction counts, not the length."},
        axis),
    row<Emitter, &Emitter::spread>(
        {"spread", "Spread", "First motion", "deg",
         "Half the angle of the cone that directions are drawn from: 0 is a jet, 180 is every way."},
        {0, 180}),
    row<Emitter, &Emitter::speed>(
        {"speed", "Speed", "First motion", "m/s", "Speed at birth, drawn evenly between the two ends."},
        {0, 1000, 0, 20}),
    row<Emitter, &Emitter::lifetime>({"lifetime", "Lifetime", "At birth", "s",
                                      "How long a particle lives, drawn evenly between the two ends."},
                                     {0.01, 3600, 0.05, 10}),
    row<Emitter, &Emitter::particle_size>({"particle_size", "Size", "At birth", "m",
                                           "Diameter of a particle, drawn evenly between the two ends. Half "
                                           "of it keeps its distance from colliders."},
                                          {0.0001, 100, 0.005, 0.5}),
    row<Emitter, &Emitter::look>({"look", "Look", "Look", "",
                                  "How the particles are drawn. Sources that name the same look share it."}),
};

constexpr std::array gravity_table = {
    row<Gravity, &Gravity::direction>({"direction", "Direction", "Motion", "",
                                       "Which way things fall; only the direction counts, not the length."},
                                      axis),
    row<Gravity, &Gravity::strength>({"strength", "Strength", "Motion", "m/s\u00b2",
                                      "Acceleration. 9.81 is the earth; a negative one lifts."},
                                     {-1000, 1000, -20, 20}),
};

constexpr std::array wind_table = {
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
        {"gusts", "Gusts", "Gusts", "", "How far the speed swings up and down, as a share of it."}, share),
    row<Wind, &Wind::gust_period>(
        {"gust_period", "Gust period", "Gusts", "s", "Roughly how long a gust lasts."}, {0.05, 600, 0.2, 20}),
};

constexpr std::array drag_table = {
    row<Drag, &Drag::linear>(
        {"linear", "Linear", "Motion", "1/s",
         "Speed that is lost per second, as a share of the speed: the drag of fine, slow things."},
        {0, 1000, 0, 5}),
    row<Drag, &Drag::quadratic>(
        {"quadratic", "Quadratic", "Motion", "1/m",
         "Drag that grows with the square of the speed: the drag of fast drops and debris."},
        {0, 1000, 0, 1}),
};

constexpr std::array turbulence_table = {
    row<Turbulence, &Turbulence::strength>(
        {"strength", "Strength", "Motion", "m/s\u00b2", "How hard the eddies push (root mean square)."},
        {0, 10000, 0, 20}),
    row<Turbulence, &Turbulence::eddy_size>(
        {"eddy_size", "Eddy size", "Motion", "m",
         "Size of the largest eddies. Small ones fray a jet, large ones bend it."},
        {0.001, 1000, 0.05, 5}),
    row<Turbulence, &Turbulence::octaves>({"octaves", "Detail", "Motion", "octaves",
                                           "How many sizes of eddy are summed, each half as large as the one "
                                           "before. Each costs the same time."},
                                          {1, 8}),
    row<Turbulence, &Turbulence::roughness>(
        {"roughness", "Roughness", "Motion", "",
         "Strength of each octave relative to the one before: high is ragged, low is smooth."},
        share),
    row<Turbulence, &Turbulence::churn>(
        {"churn", "Churn", "Change", "1/s",
         "How often the field turns into a new one. 0 keeps it frozen, and is cheaper."},
        {0, 100, 0, 3}),
    row<Turbulence, &Turbulence::drift>(
        {"drift", "Drift", "Change", "m/s", "Speed at which the whole field is carried along, as by a wind."},
        {-1000, 1000, -5, 5}),
};

// What all colliders share. Each table starts with the collider's own place.
template <class Collider>
constexpr Parameter surface_row(int i) {
    constexpr std::array rows = {
        row<Collider, &Collider::bounce>(
            {"bounce", "Bounce", "On a hit", "",
             "Share of the speed that comes back from the surface: 0 lands dead, 1 loses nothing."},
            share),
        row<Collider, &Collider::friction>({"friction", "Friction", "On a hit", "",
                                            "Friction coefficient: 0 slides for ever, 1 is rubber on stone."},
                                           {0, 100, 0, 2}),
        row<Collider, &Collider::roughness>(
            {"roughness", "Roughness", "On a hit", "",
             "How far bounces are scattered to the sides: 0 is a mirror, 1 is gravel."},
            share),
        row<Collider, &Collider::visible>(
            {"visible", "Visible", "Surface", "", "Whether the collider is drawn. It acts all the same."}),
        row<Collider, &Collider::colour>(
            {"colour", "Colour", "Surface", "", "Colour of the surface, in linear light."}),
    };
    return rows[size_t(i)];
}

constexpr std::array plane_table = {
    row<Plane, &Plane::position>({"position", "Position", "Place", "m", "A point of the plane."}, anywhere),
    row<Plane, &Plane::normal>(
        {"normal", "Normal", "Place", "",
         "The direction that is free; the other side is solid. Only the direction counts."},
        axis),
    surface_row<Plane>(0),
    surface_row<Plane>(1),
    surface_row<Plane>(2),
    surface_row<Plane>(3),
    surface_row<Plane>(4),
};

constexpr std::array box_table = {
    row<Box, &Box::position>({"position", "Position", "Place", "m", "Where the middle of the box is."},
                             anywhere),
    row<Box, &Box::size>({"size", "Extent", "Place", "m", "Length of the box along its own x, y and z."},
                         {0.001, 10000, 0.05, 10}),
    row<Box, &Box::turn>({"turn", "Turn", "Place", "deg", "Turns the box about x, then y, then z."}, degrees),
    surface_row<Box>(0),
    surface_row<Box>(1),
    surface_row<Box>(2),
    surface_row<Box>(3),
    surface_row<Box>(4),
};

constexpr std::array look_table = {
    row<Look, &Look::blend>(
        {"blend", "Blend", "Dots", "",
         "add: light on light, for sparks and glitter. over: covers what is behind, for mist and dust."},
        {}, blends),
    row<Look, &Look::size_over_life>({"size_over_life", "Size over life", "Dots", "\u00d7",
                                      "Factor on the size at birth, from birth to death."},
                                     {0, 100, 0, 2}),
    row<Look, &Look::colour_over_life>({"colour_over_life", "Colour over life", "Dots", "",
                                        "Colour and opacity from birth to death, in linear light."}),
    row<Look, &Look::glow>(
        {"glow", "Glow", "Dots", "\u00d7", "Factor on the colour. Above 1 it feeds the bloom."},
        {0, 1000, 0, 10}),
    row<Look, &Look::opacity>({"opacity", "Opacity", "Dots", "", "Factor on the opacity."}, share),
    row<Look, &Look::edge>(
        {"edge", "Soft edge", "Dots", "", "0 is a hard disc, 1 fades all the way from the middle."}, share),
    row<Look, &Look::surface_fade>(
        {"surface_fade", "Surface fade", "Dots", "m",
         "Fades out over this distance before a surface, so that no dot is cut by an edge."},
        {0, 100, 0, 1}),
    row<Look, &Look::lit>(
        {"lit", "Lit", "Dots", "",
         "How far the stage's light colours the dots: 0 shines by itself, 1 is lit like the ground."},
        share),
};

constexpr std::array stage_table = {
    row<Stage, &Stage::sun_azimuth>({"sun_azimuth", "Azimuth", "Sun", "deg",
                                     "From where the sun shines, turning about the vertical; 0 is along +z."},
                                    degrees),
    row<Stage, &Stage::sun_height>(
        {"sun_height", "Height", "Sun", "deg", "How high the sun stands above the horizon."},
        {-90, 90, 0, 90}),
    row<Stage, &Stage::sun_colour>(
        {"sun_colour", "Colour", "Sun", "", "Colour of the sunlight, in linear light."}),
    row<Stage, &Stage::sun_strength>({"sun_strength", "Strength", "Sun", "\u00d7", "Factor on the sunlight."},
                                     {0, 1000, 0, 10}),
    row<Stage, &Stage::sky_top>(
        {"sky_top", "Top", "Sky", "", "Background colour overhead; it also lights surfaces from above."}),
    row<Stage, &Stage::sky_horizon>(
        {"sky_horizon", "Horizon", "Sky", "", "Background colour at the horizon, and the colour of mist."}),
    row<Stage, &Stage::sky_strength>(
        {"sky_strength", "Skylight", "Sky", "\u00d7", "Factor on the light that the sky gives to surfaces."},
        {0, 100, 0, 10}),
    row<Stage, &Stage::mist>(
        {"mist", "Mist", "Sky", "1/m", "How quickly surfaces fade into the horizon with distance."},
        {0, 10, 0, 0.2}),
    row<Stage, &Stage::camera_target>(
        {"camera_target", "Target", "Camera", "m", "The point that the camera looks at and orbits round."},
        anywhere),
    row<Stage, &Stage::camera_distance>(
        {"camera_distance", "Distance", "Camera", "m", "How far the camera is from its target."},
        {0.05, 10000, 0.5, 30}),
    row<Stage, &Stage::camera_azimuth>(
        {"camera_azimuth", "Azimuth", "Camera", "deg",
         "From where the camera looks, turning about the vertical; 0 is along +z."},
        {-100000, 100000, -180, 180}),
    row<Stage, &Stage::camera_height>({"camera_height", "Height", "Camera", "deg",
                                       "How high above its target the camera stands, as an angle."},
                                      {-89, 89}),
    row<Stage, &Stage::field_of_view>({"field_of_view", "Field of view", "Camera", "deg",
                                       "The picture's vertical angle: small is a long lens."},
                                      {1, 150, 10, 90}),
    row<Stage, &Stage::exposure>(
        {"exposure", "Exposure", "Finishing", "stops", "Each stop doubles the light."}, {-20, 20, -4, 4}),
    row<Stage, &Stage::bloom>({"bloom", "Bloom", "Finishing", "",
                               "Share of the light above the threshold that is spread round bright things."},
                              share),
    row<Stage, &Stage::bloom_threshold>({"bloom_threshold", "Threshold", "Finishing", "",
                                         "Light above this is spread; 1 is white at exposure 0."},
                                        {0, 1000, 0, 4}),
    row<Stage, &Stage::bloom_radius>({"bloom_radius", "Radius", "Finishing", "",
                                      "How wide bloom spreads: 0 is tight, 1 fills the picture."},
                                     share),
    row<Stage, &Stage::contrast>(
        {"contrast", "Contrast", "Finishing", "\u00d7", "Steepness of the tone curve about middle grey."},
        {0.25, 4, 0.5, 2}),
};

constexpr std::array budget_table = {
    row<Budget, &Budget::frame_ms>(
        {"frame_ms", "Frame", "Limits", "ms",
         "The most time that a step and its picture may take. 16.7 ms is sixty frames a second."},
        {0.1, 10000, 1, 50}),
    row<Budget, &Budget::particles>({"particles", "Particles", "Limits", "particles",
                                     "The most particles that may live at once, in all sources."},
                                    {1, double(most_particles), 1000, 200000}),
    row<Budget, &Budget::memory_mb>(
        {"memory_mb", "Memory", "Limits", "MB", "The most memory that particles and pictures may use."},
        {1, 1e6, 16, 1024}),
};

} // namespace

std::span<const ElementType> element_types() {
    static const std::array types = {
        ElementType{"emitter", "Emitter", "A source of particles: gives birth inside a shape.", emitter_table,
                    Emitter{}},
        ElementType{"gravity", "Gravity", "Pulls everything the same way.", gravity_table, Gravity{}},
        ElementType{"wind", "Wind", "Moving air that takes particles along, with gusts.", wind_table, Wind{}},
        ElementType{"drag", "Drag", "Still air that slows particles down.", drag_table, Drag{}},
        ElementType{"turbulence", "Turbulence", "Swirling eddies of several sizes (curl noise).",
                    turbulence_table, Turbulence{}},
        ElementType{"plane", "Ground plane", "An endless flat surface to land and bounce on.", plane_table,
                    Plane{}},
        ElementType{"box", "Box", "A solid block: a wall, a step, a walkway.", box_table, Box{}},
    };
    return types;
}

// clang-format on

const ElementType& type_of(const ElementBody& body) {
    const auto types = element_types();
    return *std::find_if(types.begin(), types.end(),
                         [&](const ElementType& type) { return type.prototype.index() == body.index(); });
}

const ElementType* find_type(std::string_view key) {
    const auto types = element_types();
    const auto found =
        std::find_if(types.begin(), types.end(), [key](const ElementType& type) { return type.key == key; });
    return found == types.end() ? nullptr : &*found;
}

std::span<const Parameter> look_parameters() {
    return look_table;
}

std::span<const Parameter> stage_parameters() {
    return stage_table;
}

std::span<const Parameter> budget_parameters() {
    return budget_table;
}

} // namespace ember
