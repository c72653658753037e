// Lights: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 2> light_kinds = {"point", "spot"};

constexpr auto is_spot = [](const Light& light) { return light.kind == LightKind::spot; };

// clang-format off: a table reads best with a row a line.

constexpr auto light_table = joined(
    place_rows<Light>(),
    std::array{
        row<Light, &Light::kind>({"kind", "Kind", "Light", "",
                                  "point: shines all round. spot: a cone, downwards while it is not turned."},
                                 {}, light_kinds),
        row<Light, &Light::colour>(
            {"colour", "Colour", "Light", "", "Colour of the light, in linear light."}),
        row<Light, &Light::strength>(
            {"strength", "Strength", "Light", "\u00d7",
             "Light on a surface that faces it at one metre; it falls with the square of the distance."},
            {0, 10000, 0, 20}),
        row<Light, &Light::reach>(
            {"reach", "Reach", "Light", "m", "Where it has faded to nothing. What is beyond costs nothing."},
            {0.01, 1000, 0.5, 20}),
        when<Light, is_spot>(row<Light, &Light::cone>(
            {"cone", "Cone", "Light", "deg", "The whole angle of the cone."}, {1, 179, 10, 120})),
        when<Light, is_spot>(row<Light, &Light::cone_softness>(
            {"cone_softness", "Cone softness", "Light", "", "How much of the cone its rim fades over."},
            share)),
        row<Light, &Light::shadows>({"shadows", "Shadows", "Light", "",
                                     "Whether colliders cast shadows in it. Without, it costs less."}),
    });

// clang-format on

} // namespace

std::span<const ElementType> light_types() {
    static const std::array types = {
        ElementType{"light", "Light",
                    "A lamp: shines on the stage and on what is lit, and may ride on a mover.", light_table,
                    Light{{{0, 2, 0}, {}, {}}}},
    };
    return types;
}

} // namespace ember::tables
