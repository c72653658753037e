// Smoke: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 3> smoke_sides = {"open", "ground", "closed"};
constexpr std::array<std::string_view, 3> feed_shapes = {"ball", "box", "particles"};
constexpr std::array<std::string_view, 2> feed_ways = {"add", "keep"};

// clang-format off: a table reads best with a row a line.

constexpr Limits rates = {0, 100, 0, 5};

constexpr auto glows = [](const Smoke& s) { return s.glow > 0; };
constexpr auto stirs = [](const Smoke& s) { return s.curl > 0; };

constexpr auto plays_smoke = [](const Smoke& s) { return !s.clip.empty(); };
constexpr std::array<std::string_view, 1> smoke_clip_endings = {"vdb"};

constexpr auto smoke_table = joined(
    std::array{
        row<Smoke, &Smoke::position>(
            {"position", "Position", "Bound", "m", "The middle of the bound. Beyond it nothing is computed."},
            anywhere),
        fixed(row<Smoke, &Smoke::size>(
            {"size", "Extent", "Bound", "m",
             "Length of the bound along x, y and z. It is filled up to whole blocks of eight cells."},
            {0.01, 1000, 0.2, 10})),
        fixed(row<Smoke, &Smoke::resolution>(
            {"resolution", "Resolution", "Bound", "cells",
             "Cells along the longest side. Twice as many cost eight times as much, and show twice as much."},
            {8, 512, 16, 128})),
        fixed(row<Smoke, &Smoke::sides>(
            {"sides", "Sides", "Bound", "",
             "open: smoke leaves on all sides. ground: the bottom is closed. closed: nothing leaves."},
            {}, smoke_sides)),
        row<Smoke, &Smoke::moves_every>(
            {"moves_every", "Moves every", "Bound", "steps",
             "1: it moves on in each step. 2: in every other step, as far as two take it, at half the cost."},
            {1, 8, 1, 4}),
        row<Smoke, &Smoke::fade>(
            {"fade", "Fading", "Life", "1/s", "How fast it thins out: 0.7 is half of it in a second."},
            rates),
        row<Smoke, &Smoke::settling>(
            {"settling", "Settling", "Life", "1/s", "How fast its motion comes to rest."}, rates),
        row<Smoke, &Smoke::cooling>(
            {"cooling", "Cooling", "Life", "1/s", "How fast its heat is lost to the air."}, rates),
        row<Smoke, &Smoke::lift>(
            {"lift", "Lift", "Motion", "m/s\u00b2", "How strongly 100 K of heat push it up."},
            {-100, 100, 0, 10}),
        row<Smoke, &Smoke::weight>(
            {"weight", "Weight", "Motion", "m/s\u00b2", "How strongly a density of 1 pulls it down."},
            {-100, 100, 0, 10}),
        row<Smoke, &Smoke::curl>({"curl", "Stirring", "Motion", "m/s\u00b2",
                                  "Strength of curl noise that stirs whatever is not clear air."},
                                 {0, 100, 0, 5}),
        when<Smoke, stirs>(
            row<Smoke, &Smoke::curl_size>({"curl_size", "Stirring size", "Motion", "m",
                                           "Size of the eddies that stir; not much below eight cells."},
                                          {0.01, 100, 0.1, 3})),
        when<Smoke, stirs>(row<Smoke, &Smoke::curl_pace>(
            {"curl_pace", "Stirring pace", "Motion", "1/s", "How fast those eddies change."},
            {0, 100, 0, 3})),
        row<Smoke, &Smoke::fine_swirl>(
            {"fine_swirl", "Fine swirl", "Motion", "", "Keeps curls of a few cells alive that would blur."},
            {0, 10, 0, 1}),
        row<Smoke, &Smoke::broad_swirl>(
            {"broad_swirl", "Broad swirl", "Motion", "", "The same for curls of a dozen cells and more."},
            {0, 10, 0, 1}),
        row<Smoke, &Smoke::absorption>(
            {"absorption", "Thickness", "Picture", "1/m",
             "How much of the light a metre of density 1 takes: 1 is haze, 10 a dense cloud."},
            {0, 1000, 0, 30}),
        row<Smoke, &Smoke::colour>(
            {"colour", "Colour", "Picture", "", "What it scatters of the light, in linear light."}),
        row<Smoke, &Smoke::shadow>(
            {"shadow", "Self-shadow", "Picture", "", "How far it shades itself: 0 costs nothing."}, share),
        row<Smoke, &Smoke::forward>(
            {"forward", "Forward light", "Picture", "",
             "How far it sends light on ahead: higher glows round lights behind it, 0 is even."},
            {-0.9, 0.9}),
        row<Smoke, &Smoke::glow>(
            {"glow", "Glow", "Picture", "\u00d7", "Light that hot smoke sends by itself."}, {0, 1000, 0, 20}),
        when<Smoke, glows>(row<Smoke, &Smoke::glow_ramp>(
            {"glow_ramp", "Glow colours", "Picture", "", "Colour of the glow, from cool (left) to hot."})),
        when<Smoke, glows>(row<Smoke, &Smoke::glow_heat>(
            {"glow_heat", "Hot", "Picture", "K", "The heat at the right end of the glow's colours."},
            {1, 10000, 50, 2000})),
        row<Smoke, &Smoke::detail>({"detail", "Picture detail", "Picture", "",
                                    "Rays for each pixel along each axis: half of it draws a quarter of the "
                                    "rays. Cells that are seen "
                                    "eight pixels wide need no more than a fifth."},
                                   {0.1, 1}),
        names<Smoke, &Smoke::clip>(
            ParameterKind::file,
            {"clip", "Clip", "Clip", "",
             "None: the gas is computed. An OpenVDB file, the first of those that are played one after the "
             "other; "
             "their names differ in the number at their end. A bake writes them; others' are read too, 30 a "
             "second, with grids \"density\" and \"heat\" or \"temperature\". The middle of the bound that "
             "was "
             "baked, of others' of all that they hold, is at the volume's position. Sources, pushes and "
             "colliders "
             "do not move what is played, and it carries nothing along."},
            smoke_clip_endings),
        when<Smoke, plays_smoke>(
            row<Smoke, &Smoke::clip_volume>({"clip_volume", "Of its volumes", "Clip", "",
                                             "The first, the second ... of the volumes in the clip."},
                                            {1, 256, 1, 8})),
    },
    clip_rows<Smoke, plays_smoke>());

constexpr auto is_shaped = [](const SmokeSource& s) { return s.shape != FeedShape::particles; };
constexpr auto has_particles = [](const SmokeSource& s) { return s.shape == FeedShape::particles; };

constexpr auto source_table = joined(
    std::array{
        row<SmokeSource, &SmokeSource::shape>(
            {"shape", "Shape", "Feed", "",
             "ball, box: whatever is inside. particles: round each of a source's."},
            {}, feed_shapes),
        when<SmokeSource, is_shaped>(row<SmokeSource, &SmokeSource::size>(
            {"size", "Extent", "Feed", "m", "Length along x, y and z."}, {0.001, 1000, 0.05, 4})),
        when<SmokeSource, has_particles>(names<SmokeSource, &SmokeSource::source>(
            ParameterKind::emitter,
            {"source", "Source", "Feed", "", "The source whose particles feed the smoke."})),
        row<SmokeSource, &SmokeSource::way>(
            {"way", "Way", "Feed", "",
             "add: so much in each second. keep: never less than that, and no more."},
            {}, feed_ways),
        row<SmokeSource, &SmokeSource::density>(
            {"density", "Density", "Feed", "", "Density that is added per second, or kept."},
            {0, 1000, 0, 20}),
        row<SmokeSource, &SmokeSource::heat>(
            {"heat", "Heat", "Feed", "K", "Heat that is added per second, or kept."}, {0, 10000, 0, 500}),
        when<SmokeSource, has_particles>(row<SmokeSource, &SmokeSource::density_over_life>(
            {"density_over_life", "Density over life", "Feed", "\u00d7",
             "Factor on the density, from a particle's birth to its death."},
            {0, 100, 0, 2})),
        when<SmokeSource, has_particles>(row<SmokeSource, &SmokeSource::heat_over_life>(
            {"heat_over_life", "Heat over life", "Feed", "\u00d7",
             "Factor on the heat, from a particle's birth to its death: sparks burn out."},
            {0, 100, 0, 2})),
        when<SmokeSource, is_shaped>(row<SmokeSource, &SmokeSource::ragged>(
            {"ragged", "Ragged", "Feed", "", "How unevenly it feeds: 1 comes in wisps."}, share)),
        when<SmokeSource, is_shaped>(
            row<SmokeSource, &SmokeSource::soft>({"soft", "Soft edge", "Feed", "",
                                                  "Over how much of its half width it thins out to its rim: "
                                                  "0 ends at once, 1 thins out from the middle."},
                                                 share)),
        row<SmokeSource, &SmokeSource::velocity>(
            {"velocity", "Velocity", "Feed", "m/s",
             "What the smoke is given along, in its own axes; 0: nothing."},
            {-1000, 1000, -5, 5}),
        row<SmokeSource, &SmokeSource::motion>({"motion", "Own motion", "Feed", "\u00d7",
                                                "Share of its own motion, or of each particle's, that the "
                                                "smoke is given along."},
                                               {-10, 10, 0, 2}),
    },
    place_rows<SmokeSource>());

constexpr auto push_table = joined(
    std::array{
        row<Push, &Push::radius>({"radius", "Radius", "Push", "m", "Full strength within this."}, lengths),
        row<Push, &Push::fade_distance>(
            {"fade_distance", "Fade", "Push", "m", "Beyond the radius it falls to nothing over this."},
            {0, 1000, 0, 2}),
        row<Push, &Push::motion>(
            {"motion", "Own motion", "Push", "\u00d7",
             "How far the smoke takes on the push's own motion: let it ride on a mover or the pointer."},
            {-10, 10, 0, 3}),
        row<Push, &Push::velocity>(
            {"velocity", "Velocity", "Push", "m/s", "What it pushes with besides, in its own axes."},
            {-1000, 1000, -5, 5}),
        row<Push, &Push::grip>({"grip", "Grip", "Push", "1/s", "How fast the smoke takes it on."},
                               {0, 1000, 0, 60}),
    },
    place_rows<Push>());

// clang-format on

} // namespace

std::span<const ElementType> smoke_types() {
    static const std::array types = {
        ElementType{"smoke", "Smoke", "A gas in a bound, that is carried, rises and swirls.", smoke_table,
                    Smoke{{{0, 1, 0}, {}, {}}}},
        ElementType{"smoke-source", "Smoke source", "Puts smoke and heat into the gas.", source_table,
                    SmokeSource{{{0, 0.3f, 0}, {}, {}}}},
        ElementType{"push", "Push", "A hand in the smoke: moves it along.", push_table,
                    Push{{{0, 0.6f, 0}, {}, {}}}},
    };
    return types;
}

} // namespace ember::tables
