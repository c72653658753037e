// Stage and budget: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember {

namespace {

using namespace tables;

// clang-format off: a table reads best with a row a line.

constexpr std::array<std::string_view, 3> backgrounds = {"sky", "ramp", "image"};
constexpr std::array<std::string_view, 6> frame_shapes = {"free", "16:9", "2.35:1", "1:1", "9:16", "own"};

constexpr auto has_sky_ramp = [](const Stage& stage) { return stage.background == Background::ramp; };
constexpr auto has_image = [](const Stage& stage) { return stage.background == Background::image; };
constexpr auto has_own_background = [](const Stage& stage) { return stage.background != Background::sky; };
constexpr auto has_own_frame = [](const Stage& stage) { return stage.frame_shape == FrameShape::own; };
constexpr auto has_glare = [](const Stage& stage) { return stage.glare > 0; };
constexpr auto has_aperture = [](const Stage& stage) { return stage.aperture > 0; };

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
        {"sky_horizon", "Horizon", "Sky", "",
         "Background colour at the horizon, and the colour of mist before the sky."}),
    row<Stage, &Stage::sky_strength>(
        {"sky_strength", "Skylight", "Sky", "\u00d7", "Factor on the light that the sky gives to surfaces."},
        {0, 100, 0, 10}),
    row<Stage, &Stage::mist>(
        {"mist", "Mist", "Sky", "1/m",
         "How quickly surfaces fade with distance into what is behind them at the horizon."},
        {0, 10, 0, 0.2}),
    row<Stage, &Stage::background>(
        {"background", "Background", "Background", "",
         "sky: the colours of the sky with the sun's glow. ramp: colours from straight below to straight "
         "above. image: a panorama. Surfaces are lit by the sky all the same, unless it lights them."},
        {}, backgrounds),
    when<Stage, has_sky_ramp>(row<Stage, &Stage::background_ramp>(
        {"background_ramp", "Ramp", "Background", "",
         "Colours from straight below (left) over the horizon (middle) to straight above."})),
    when<Stage, has_image>(
        names<Stage, &Stage::background_image>(ParameterKind::file,
                                               {"background_image", "Image", "Background", "",
                                                "A panorama, twice as wide as high, all round and from "
                                                "straight above to straight below; PNG or EXR, "
                                                "beside the effect file."},
                                               image_endings)),
    when<Stage, has_image>(row<Stage, &Stage::background_turn>(
        {"background_turn", "Turn", "Background", "deg", "Turns the panorama about the vertical."}, degrees)),
    when<Stage, has_own_background>(row<Stage, &Stage::background_strength>(
        {"background_strength", "Strength", "Background", "\u00d7", "Factor on the background's light."},
        {0, 1000, 0, 10})),
    when<Stage, has_own_background>(row<Stage, &Stage::background_lights>(
        {"background_lights", "Lights", "Background", "",
         "Surfaces, bodies, smoke and what is lit as it flies have their skylight from it: from what it "
         "shows "
         "low over the horizon, and above. Else from the sky's two colours."})),
    row<Stage, &Stage::stars>(
        {"stars", "Stars", "Background", "\u00d7", "Brightness of stars in the sky; 0 has none."},
        {0, 100, 0, 4}),
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
    fixed(row<Stage, &Stage::frame_shape>({"frame_shape", "Frame", "Camera", "",
                                           "The shape of the picture that the effect is made for, width by "
                                           "height: what is outside is dimmed, and "
                                           "saved pictures have it. free: whatever the window has."},
                                          {}, frame_shapes)),
    fixed(when<Stage, has_own_frame>(row<Stage, &Stage::frame_ratio>(
        {"frame_ratio", "Width by height", "Camera", "", "How much wider than high the frame is."},
        {0.1, 10, 0.25, 4}))),
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
    fixed(row<Stage, &Stage::length>(
        {"length", "Length", "Time", "s",
         "How long the effect lasts; 0: for ever. Playing stops there, and begins again from the start."},
        {0, 3600, 0, 60})),
    row<Stage, &Stage::exposure>(
        {"exposure", "Exposure", "Finishing", "stops", "Each stop doubles the light."}, {-20, 20, -4, 4}),
    row<Stage, &Stage::bloom>({"bloom", "Bloom", "Finishing", "",
                               "Share of the light above the threshold that is spread round bright things."},
                              share),
    row<Stage, &Stage::bloom_threshold>({"bloom_threshold", "Threshold", "Finishing", "",
                                         "Light above this is spread. At exposure 0 the tone curve shows a "
                                         "light of 1 as a bright grey, three quarters of "
                                         "the way to white."},
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

constexpr auto gives = [](const Budget& b) { return b.keeper; };
constexpr Limits turns = {0, 8};

constexpr std::array budget_table = {
    row<Budget, &Budget::frame_ms>(
        {"frame_ms", "Frame", "Limits", "ms",
         "The most time that a step and its picture may take. 16.7 ms is sixty frames a second."},
        {0.1, 10000, 1, 50}),
    row<Budget, &Budget::particles>({"particles", "Particles", "Limits", "particles",
                                     "The most particles that may live at once, in all sources."},
                                    {1, double(most_particles), 1000, 200000}),
    row<Budget, &Budget::memory_mb>(
        {"memory_mb", "Memory", "Limits", "MB",
         "The most memory that particles, pieces, smoke and pictures may use, and what was played."},
        {1, 1e6, 16, 1024}),
    row<Budget, &Budget::pieces>({"pieces", "Pieces", "Limits", "pieces",
                                  "The most pieces of breakables that may be in the picture at once."},
                                 {1, double(most_pieces), 10, 3000}),
    row<Budget, &Budget::awake_pieces>(
        {"awake_pieces", "Awake pieces", "Limits", "pieces",
         "The most pieces that may move at once: those that move are what costs."},
        {1, double(most_pieces), 10, 1000}),
    row<Budget, &Budget::linger_s>(
        {"linger_s", "Linger time", "Limits", "s",
         "How long loose pieces may stay before they are parked or cleared, the slowest of them."},
        {0.1, 3600, 1, 60}),
    row<Budget, &Budget::smoke_cells>({"smoke_cells", "Smoke cells", "Limits", "cells",
                                       "The most cells that smoke may fill at once, in all volumes."},
                                      {1, 1e9, 10000, 2000000}),
    row<Budget, &Budget::keeper>({"keeper", "Give way", "Near the frame limit", "",
                                  "Near the frame limit the effect does less, turn by turn, and does all "
                                  "again once there is room. What "
                                  "it gave is said in the strip, and kept with takes."}),
    when<Budget, gives>(
        row<Budget, &Budget::copies_turn>({"copies_turn", "Copies", "Near the frame limit", "turn",
                                           "When the live view shows fewer copies of particles: 1 first, "
                                           "those of one turn together, 0 never. Saved "
                                           "pictures have all."},
                                          turns)),
    when<Budget, gives>(
        row<Budget, &Budget::copies_least>({"copies_least", "Copies kept", "Near the frame limit", "",
                                            "Share of the copies that stay at least."},
                                           share)),
    when<Budget, gives>(row<Budget, &Budget::far_turn>(
        {"far_turn", "Far ones", "Near the frame limit", "turn",
         "When the live view draws fewer of the dots, streaks, cards and meshes far from the camera, dots, "
         "streaks and cards the stronger for it: 1 first, those of one turn together, 0 never. Saved "
         "pictures "
         "have all."},
        turns)),
    when<Budget, gives>(row<Budget, &Budget::far_least>(
        {"far_least", "Far ones kept", "Near the frame limit", "",
         "Share of them that stays at least, at twice the distance and beyond."},
        {0.05, 1})),
    when<Budget, gives>(row<Budget, &Budget::far_from>({"far_from", "Far from", "Near the frame limit", "m",
                                                        "Up to this distance from the camera all are drawn."},
                                                       {0.1, 10000, 1, 100})),
    when<Budget, gives>(row<Budget, &Budget::smoke_turn>(
        {"smoke_turn", "Smoke steps", "Near the frame limit", "turn",
         "When smoke moves in fewer of the steps: 1 first, those of one turn together, 0 never."},
        turns)),
    when<Budget, gives>(row<Budget, &Budget::smoke_least>(
        {"smoke_least", "Steps kept", "Near the frame limit", "",
         "Share of its steps that smoke makes at least: 0.25 is every fourth."},
        {0.125, 1})),
    when<Budget, gives>(row<Budget, &Budget::cells_turn>(
        {"cells_turn", "Smoke detail", "Near the frame limit", "turn",
         "When smoke has fewer and larger cells, which take over what there is: 1 first, those of one turn "
         "together, 0 never."},
        turns)),
    when<Budget, gives>(
        row<Budget, &Budget::cells_least>({"cells_least", "Detail kept", "Near the frame limit", "",
                                           "Share of its resolution that smoke keeps at least, in whole "
                                           "blocks of eight cells: 0.5 is an eighth "
                                           "of the cells."},
                                          {0.25, 1})),
    when<Budget, gives>(
        row<Budget, &Budget::births_turn>({"births_turn", "Births", "Near the frame limit", "turn",
                                           "When fewer particles are born: 1 first, those of one turn "
                                           "together, 0 never. What a source keeps by "
                                           "itself stays."},
                                          turns)),
    when<Budget, gives>(
        row<Budget, &Budget::births_least>({"births_least", "Births kept", "Near the frame limit", "",
                                            "Share of the births that stay at least."},
                                           share)),
    when<Budget, gives>(row<Budget, &Budget::picture_turn>(
        {"picture_turn", "Picture", "Near the frame limit", "turn",
         "When the picture is drawn with fewer pixels: 1 first, those of one turn together, 0 never. Saved "
         "pictures have all."},
        turns)),
    when<Budget, gives>(row<Budget, &Budget::picture_least>(
        {"picture_least", "Width kept", "Near the frame limit", "",
         "Share of the picture's width and height that is drawn at least."},
        {0.25, 1})),
    when<Budget, gives>(row<Budget, &Budget::cleanup_turn>(
        {"cleanup_turn", "Cleanup", "Near the frame limit", "turn",
         "When pieces linger less and live shorter: 1 first, those of one turn together, 0 never."},
        turns)),
    when<Budget, gives>(row<Budget, &Budget::cleanup_least>(
        {"cleanup_least", "Linger kept", "Near the frame limit", "",
         "Share of the linger time and of the longest life that stays at least."},
        {0.01, 1})),
    when<Budget, gives>(row<Budget, &Budget::pieces_turn>(
        {"pieces_turn", "Pieces", "Near the frame limit", "turn",
         "When breakables may have fewer pieces at once: 1 first, those of one turn together, 0 never."},
        turns)),
    when<Budget, gives>(
        row<Budget, &Budget::pieces_least>({"pieces_least", "Pieces kept", "Near the frame limit", "",
                                            "Share of each breakable's capacity that stays at least."},
                                           share)),
};

// clang-format on

} // namespace

std::span<const Parameter> stage_parameters() {
    return stage_table;
}

std::span<const Parameter> budget_parameters() {
    return budget_table;
}

} // namespace ember
