// Looks, stage and budget.
#include "core/effect/tables/rows.h"

namespace ember {

namespace {

using namespace tables;

constexpr std::array<std::string_view, 2> blends = {"add", "over"};

// clang-format off: a table reads best with a row a line.

constexpr std::array<std::string_view, 3> drawings = {"dots", "streaks", "trails"};

constexpr auto draws_streaks = [](const Look& look) { return look.drawn_as == Drawing::streaks; };
constexpr auto draws_trails = [](const Look& look) { return look.drawn_as == Drawing::trails; };
constexpr auto has_copies = [](const Look& look) { return look.copies > 0; };
constexpr auto has_glare = [](const Stage& stage) { return stage.glare > 0; };
constexpr auto has_aperture = [](const Stage& stage) { return stage.aperture > 0; };

constexpr std::array look_table = {
    row<Look, &Look::drawn_as>({"drawn_as", "Drawn as", "Dots", "",
                                "dots: as they are. streaks: drawn out behind them along their motion, for "
                                "sparks and rain. trails: as ribbons along the way "
                                "that they really took."},
                               {}, drawings),
    when<Look, draws_trails>(row<Look, &Look::trail>(
        {"trail", "Trail", "Dots", "s",
         "How far back a trail goes. What has died leaves its own until that has run out."},
        {0.02, 60, 0.05, 4})),
    when<Look, draws_trails>(
        row<Look, &Look::width_along>({"width_along", "Width along", "Dots", "\u00d7",
                                       "Factor on the width, from the particle (left) to the trail's end."},
                                      {0, 100, 0, 2})),
    when<Look, draws_trails>(row<Look, &Look::opacity_along>(
        {"opacity_along", "Opacity along", "Dots", "\u00d7",
         "Factor on the opacity, from the particle (left) to the trail's end."},
        {0, 1})),
    when<Look, draws_streaks>(row<Look, &Look::streak>(
        {"streak", "Streak", "Dots", "s",
         "How much of the way behind it a streak shows: its length is the speed times this."},
        {0, 10, 0, 0.2})),
    row<Look, &Look::blend>(
        {"blend", "Blend", "Dots", "",
         "add: light on light, for sparks and glitter. over: covers what is behind, for mist and dust."},
        {}, blends),
    row<Look, &Look::size_over_life>({"size_over_life", "Size over life", "Dots", "\u00d7",
                                      "Factor on the size at birth, from birth to death."},
                                     {0, 100, 0, 2}),
    row<Look, &Look::colour_over_life>({"colour_over_life", "Colour over life", "Dots", "",
                                        "Colour and opacity from birth to death, in linear light."}),
    row<Look, &Look::glow_over_life>(
        {"glow_over_life", "Glow over life", "Dots", "\u00d7", "Factor on the glow, from birth to death."},
        {0, 100, 0, 2}),
    row<Look, &Look::opacity_over_life>({"opacity_over_life", "Opacity over life", "Dots", "\u00d7",
                                         "Factor on the opacity, from birth to death."},
                                        {0, 1}),
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
    row<Look, &Look::copies>(
        {"copies", "Copies", "Copies", "per particle",
         "Cheap companions of each particle that go where it goes: more body without more simulation."},
        {0, most_copies}),
    when<Look, has_copies>(row<Look, &Look::copies_radius>(
        {"copies_radius", "Radius", "Copies", "m", "How far from their particle copies may be."},
        {0, 1000, 0, 0.5})),
    when<Look, has_copies>(
        row<Look, &Look::copies_ragged>({"copies_ragged", "Raggedness", "Copies", "",
                                         "0: all on the radius, like a shell. 1: anywhere inside."},
                                        share)),
    when<Look, has_copies>(row<Look, &Look::copies_clump>(
        {"copies_clump", "Clumping", "Copies", "",
         "How far copies draw together towards the end of life: 1 ends in their particle."},
        share)),
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
    fixed(row<Stage, &Stage::camera_target>(
        {"camera_target", "Target", "Camera", "m", "The point that the camera looks at and orbits round."},
        anywhere)),
    fixed(row<Stage, &Stage::camera_distance>(
        {"camera_distance", "Distance", "Camera", "m", "How far the camera is from its target."},
        {0.05, 10000, 0.5, 30})),
    fixed(row<Stage, &Stage::camera_azimuth>(
        {"camera_azimuth", "Azimuth", "Camera", "deg",
         "From where the camera looks, turning about the vertical; 0 is along +z."},
        {-100000, 100000, -180, 180})),
    fixed(row<Stage, &Stage::camera_height>({"camera_height", "Height", "Camera", "deg",
                                             "How high above its target the camera stands, as an angle."},
                                            {-89, 89})),
    fixed(row<Stage, &Stage::field_of_view>({"field_of_view", "Field of view", "Camera", "deg",
                                             "The picture's vertical angle: small is a long lens."},
                                            {1, 150, 10, 90})),
    row<Stage, &Stage::shutter>({"shutter", "Shutter", "Camera", "s",
                                 "How long a picture takes in light: what moves is blurred along its way. "
                                 "0.01 to 0.02 is film-like, 0 "
                                 "is sharp."},
                                {0, 1, 0, 0.05}),
    row<Stage, &Stage::aperture>({"aperture", "Aperture", "Camera", "mm",
                                  "Diameter of the lens: the larger, the more blurred is what is out of "
                                  "focus. 0 is sharp everywhere."},
                                 {0, 10000, 0, 200}),
    when<Stage, has_aperture>(row<Stage, &Stage::focus>({"focus", "Focus", "Camera", "m",
                                                         "The point that is sharp, with all that is as far "
                                                         "from the camera. O and a press in the picture sets "
                                                         "it."},
                                                        anywhere)),
    fixed(row<Stage, &Stage::warm_up>(
        {"warm_up", "Warm-up", "Time", "s",
         "The effect has been running for this long when it starts at time zero. A change starts it again."},
        {0, 600, 0, 20})),
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
    row<Stage, &Stage::glare>(
        {"glare", "Glare", "Finishing", "",
         "Rays from what is brighter than the bloom's threshold, as a wet or scratched lens makes them."},
        {0, 10, 0, 1}),
    when<Stage, has_glare>(row<Stage, &Stage::glare_rays>(
        {"glare_rays", "Rays", "Finishing", "rays", "How many rays go out from a bright place."}, {1, 12})),
    when<Stage, has_glare>(
        row<Stage, &Stage::glare_angle>({"glare_angle", "Ray angle", "Finishing", "deg",
                                         "How far the first ray is turned up from the right."},
                                        degrees)),
    when<Stage, has_glare>(row<Stage, &Stage::glare_length>(
        {"glare_length", "Ray length", "Finishing", "", "0 is short, 1 reaches across the picture."}, share)),
    row<Stage, &Stage::grade_red>(
        {"grade_red", "Red", "Grade", "",
         "What becomes of red in the finished picture, from dark (left) to bright."},
        {0, 1}),
    row<Stage, &Stage::grade_green>({"grade_green", "Green", "Grade", "",
                                     "What becomes of green in the finished picture, from dark to bright."},
                                    {0, 1}),
    row<Stage, &Stage::grade_blue>({"grade_blue", "Blue", "Grade", "",
                                    "What becomes of blue in the finished picture, from dark to bright."},
                                   {0, 1}),
    row<Stage, &Stage::vignette>(
        {"vignette", "Vignette", "Grade", "", "How much darker the picture's corners are."}, share),
    row<Stage, &Stage::grain>(
        {"grain", "Grain", "Grade", "", "Film grain, another in every picture. 0.1 is faint."}, share),
    row<Stage, &Stage::copies_shown>({"copies_shown", "Copies shown", "While working", "",
                                      "Which share of a look's copies the live view draws; saved pictures "
                                      "always have all. The live view says "
                                      "so."},
                                     share),
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

// clang-format on

} // namespace

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
