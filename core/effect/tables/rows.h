// What parameter tables are made of: rows, and the groups of rows that many elements share.
#pragma once

#include "core/effect/parameter.h"

#include <array>

namespace ember::tables {

struct Text {
    std::string_view key, label, group, unit, help;
};

// The hard range and, where it is narrower, the range of the slider.
struct Limits {
    double hard_low = 0, hard_high = 0;
    double soft_low = hard_low, soft_high = hard_high;
};

constexpr Limits anywhere = {-10000, 10000, -10, 10};
constexpr Limits any_time = {-600, 3600, 0, 20}; // s; 0 ends the warm-up
constexpr Limits share = {0, 1};
constexpr Limits degrees = {-360, 360, -180, 180};
constexpr Limits axis = {-1000, 1000, -1, 1};
constexpr Limits lengths = {0.001, 10000, 0.05, 10};

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
    } else if constexpr (std::is_same_v<T, Points>) {
        return ParameterKind::points;
    } else if constexpr (std::is_same_v<T, std::string>) {
        return ParameterKind::look;
    } else {
        return ParameterKind::number;
    }
}

/// A row. `Object` is the type that a holder points to; the member may belong to one of its bases.
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

/// A row whose text names something: a source, an element with a place, or a file.
template <class Object, auto Member>
constexpr Parameter names(ParameterKind kind, Text text, std::span<const std::string_view> endings = {}) {
    Parameter parameter = row<Object, Member>(text, {}, endings);
    parameter.kind = kind;
    return parameter;
}

/// The row, shown only while `Applies(object)`.
template <class Object, auto Applies>
constexpr Parameter when(Parameter parameter) {
    parameter.applies = [](const void* object) { return Applies(*static_cast<const Object*>(object)); };
    return parameter;
}

/// The row, not to be driven: it acts only when it is set, or costs much when it changes.
constexpr Parameter fixed(Parameter parameter) {
    parameter.is_fixed = true;
    return parameter;
}

/// One table of several.
template <size_t... Sizes>
constexpr auto joined(const std::array<Parameter, Sizes>&... parts) {
    std::array<Parameter, (Sizes + ...)> table{};
    size_t next = 0;
    const auto append = [&](const auto& part) {
        for (const Parameter& parameter : part) {
            table[next++] = parameter;
        }
    };
    (append(parts), ...);
    return table;
}

inline constexpr std::array<std::string_view, 6> mesh_endings = {"obj", "ply", "stl", "gltf", "glb", "off"};
inline constexpr std::array<std::string_view, 2> image_endings = {"png", "exr"};
inline constexpr std::array<std::string_view, 4> reach_shapes = {"everywhere", "ball", "box", "slab"};
inline constexpr std::array<std::string_view, 2> reach_sides = {"inside", "outside"};
inline constexpr std::array<std::string_view, 3> fades = {"power", "curve", "stop"};
inline constexpr std::array<std::string_view, 2> path_kinds = {"helix", "points"};
inline constexpr std::array<std::string_view, 3> hits = {"bounce", "stick", "die"};

inline constexpr std::array<std::string_view, 3> clip_ends = {"gone", "held", "again"};

// clang-format off: a table reads best with a row a line.

/// Of everything that can play a clip; `plays` says while it does.
template <class T, auto plays>
constexpr std::array<Parameter, 5> clip_rows() {
    return {
        when<T, plays>(row<T, &T::clip_start>(
            {"clip_start", "Starts at", "Clip", "s", "When it begins, on the effect's own time."}, any_time)),
        when<T, plays>(row<T, &T::clip_from>(
            {"clip_from", "From", "Clip", "s", "Where in the clip it begins: what is before is trimmed off."},
            any_time)),
        when<T, plays>(row<T, &T::clip_to>(
            {"clip_to", "To", "Clip", "s", "Where in the clip it ends; 0: at its end."}, any_time)),
        when<T, plays>(row<T, &T::clip_speed>(
            {"clip_speed", "Speed", "Clip", "\u00d7", "How fast it is played."}, {0.02, 50, 0.1, 4})),
        when<T, plays>(row<T, &T::clip_end>(
            {"clip_end", "At its end", "Clip", "",
             "gone: nothing is there any more. held: the last frame stays. again: it begins anew."},
            {}, clip_ends)),
    };
}

/// Of everything that has a place.
template <class T>
constexpr std::array<Parameter, 3> place_rows(std::string_view group = "Place") {
    return {
        row<T, &T::position>({"position", "Position", group, "m",
                              "Where its middle is; an offset while it rides on something."},
                             anywhere),
        row<T, &T::turn>({"turn", "Turn", group, "deg", "Turns it about x, then y, then z."}, degrees),
        names<T, &T::rides_on>(ParameterKind::place,
                               {"rides_on", "Rides on", group, "",
                                "A mover, or another element with a place, that carries it along. Position "
                                "and turn are then offsets within that one's axes."}),
    };
}

/// Of everything that follows a path; `uses` says while it does.
template <class T, auto Uses = [](const T&) { return true; }>
constexpr std::array<Parameter, 7> path_rows() {
    constexpr auto is_helix = [](const T& t) { return Uses(t) && t.path == PathKind::helix; };
    constexpr auto has_points = [](const T& t) { return Uses(t) && t.path == PathKind::points; };
    return {
        when<T, Uses>(row<T, &T::path>(
            {"path", "Path", "Path", "",
             "helix: a ready winding line, upright on its y axis. points: a smooth line through points."},
            {}, path_kinds)),
        when<T, is_helix>(row<T, &T::radius>(
            {"radius", "Radius", "Path", "m", "Radius of the helix at its foot."}, {0, 1000, 0, 5})),
        when<T, is_helix>(row<T, &T::end_radius>(
            {"end_radius", "End radius", "Path", "m", "Radius of the helix at its top."}, {0, 1000, 0, 5})),
        when<T, is_helix>(row<T, &T::height>(
            {"height", "Height", "Path", "m", "Height of the helix; 0 is a flat spiral or a circle."},
            {-1000, 1000, 0, 5})),
        when<T, is_helix>(
            row<T, &T::turns>({"turns", "Turns", "Path", "",
                               "How often the helix winds round; a negative number winds the other way."},
                              {-100, 100, -10, 10})),
        when<T, has_points>(row<T, &T::points>(
            {"points", "Points", "Path", "m", "The points that the line passes through, x y z each."},
            {-10000, 10000})),
        when<T, has_points>(row<T, &T::closed>(
            {"closed", "Closed", "Path", "", "Whether the last point is joined to the first."})),
    };
}

/// Of every influence.
template <class T>
constexpr std::array<Parameter, 10> reach_rows() {
    constexpr auto limited = [](const T& t) { return t.reach != ReachShape::everywhere; };
    constexpr auto by_power = [](const T& t) {
        return t.reach != ReachShape::everywhere && t.fade == Fade::power;
    };
    constexpr auto by_curve = [](const T& t) {
        return t.reach != ReachShape::everywhere && t.fade == Fade::curve;
    };
    return {
        row<T, &T::reach>({"reach", "Reach", "Reach", "",
                           "Where it acts: everywhere, in a ball, in a box, or in a slab of even thickness."},
                          {}, reach_shapes),
        when<T, limited>(row<T, &T::side>(
            {"side", "Side", "Reach", "", "Whether it acts inside of the shape or outside of it."}, {},
            reach_sides)),
        when<T, limited>(
            row<T, &T::reach_position>({"reach_position", "Centre", "Reach", "m",
                                        "The middle of the reach; an offset while it rides on something."},
                                       anywhere)),
        when<T, limited>(row<T, &T::reach_size>(
            {"reach_size", "Extent", "Reach", "m",
             "Length of a box along x, y and z; a ball takes x as its diameter, a slab y as its thickness."},
            {0.001, 10000, 0.05, 10})),
        when<T, limited>(row<T, &T::reach_turn>(
            {"reach_turn", "Turn", "Reach", "deg", "Turns the reach about x, then y, then z."}, degrees)),
        when<T, limited>(names<T, &T::reach_rides_on>(
            ParameterKind::place,
            {"reach_rides_on", "Rides on", "Reach", "",
             "A mover, or another element with a place, that carries the reach along."})),
        when<T, limited>(row<T, &T::fade_distance>(
            {"fade_distance", "Fade", "Reach", "m",
             "Beyond the surface of the shape the strength falls from full to nothing over this distance."},
            {0, 10000, 0, 5})),
        when<T, limited>(row<T, &T::fade>({"fade", "Fades by", "Reach", "",
                                           "power: (1 - distance / fade) to a power. curve: as drawn. stop: "
                                           "full up to the fade distance, then nothing."},
                                          {}, fades)),
        when<T, by_power>(row<T, &T::fade_power>(
            {"fade_power", "Power", "Reach", "", "1 falls evenly, 2 quickly at first, 0.5 late."},
            {0.05, 20, 0.1, 5})),
        when<T, by_curve>(
            row<T, &T::fade_curve>({"fade_curve", "Curve", "Reach", "",
                                    "Strength over the fade distance, from the surface (left) outwards."},
                                   {0, 1})),
    };
}

/// Of everything that particles hit.
template <class T>
constexpr std::array<Parameter, 4> hit_rows() {
    constexpr auto bounces = [](const T& t) { return t.on_hit == OnHit::bounce; };
    return {
        row<T, &T::on_hit>({"on_hit", "On a hit", "On a hit", "",
                            "bounce: comes back. stick: stays where it hit and moves along. die: its life "
                            "ends. Each can give birth to others (see an emitter's Children)."},
                           {}, hits),
        when<T, bounces>(row<T, &T::bounce>(
            {"bounce", "Bounce", "On a hit", "",
             "Share of the speed that comes back from the surface: 0 lands dead, 1 loses nothing."},
            share)),
        when<T, bounces>(row<T, &T::friction>(
            {"friction", "Friction", "On a hit", "",
             "Friction coefficient: 0 slides for ever, 1 is rubber on stone, 100 stops at once."},
            {0, 100, 0, 2})),
        when<T, bounces>(
            row<T, &T::roughness>({"roughness", "Roughness", "On a hit", "",
                                   "How far bounces are scattered to the sides: 0 is a mirror, 1 is gravel."},
                                  share)),
    };
}

/// Of every solid collider, behind what particles do that hit it.
template <class T>
constexpr std::array<Parameter, 4> surface_rows() {
    return {
        row<T, &T::blow>({"blow", "Blow", "On a hit", "kg",
                          "The mass behind it when it moves and strikes a breakable: how hard the blow is."},
                         {0, 1e7, 0, 1000}),
        row<T, &T::captured>(
            {"captured", "Captured", "On a hit", "",
             "Whether height maps that are taken from the stage have it in them. Off for what walks "
             "over them: else they rise where it goes, and lift what lies there."}),
        row<T, &T::visible>(
            {"visible", "Visible", "Surface", "", "Whether the collider is drawn. It acts all the same."}),
        row<T, &T::colour>({"colour", "Colour", "Surface", "", "Colour of the surface, in linear light."}),
    };
}

// clang-format on

/// The table of an element type; one overload for each, defined in the file of its family.
std::span<const ElementType> source_types();
std::span<const ElementType> force_types();
std::span<const ElementType> collider_types();
std::span<const ElementType> breakable_types(); // sources
std::span<const ElementType> breaking_types();
std::span<const ElementType> mover_types();
std::span<const ElementType> light_types();
std::span<const ElementType> smoke_types();
std::span<const ElementType> modulator_types();
std::span<const ElementType> trigger_types();

} // namespace ember::tables
