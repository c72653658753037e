// Looks and textures: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember {

namespace {

using namespace tables;

constexpr std::array<std::string_view, 3> blends = {"add", "over", "cut-out"};
constexpr std::array<std::string_view, 6> drawings = {"dots",  "streaks", "trails",
                                                      "cards", "meshes",  "surface"};
constexpr std::array<std::string_view, 4> card_faces = {"camera", "motion", "direction", "own"};
constexpr std::array<std::string_view, 5> mesh_sets = {"cubes", "crystals", "shards", "pebbles", "files"};
constexpr std::array<std::string_view, 3> layer_froms = {"none", "texture", "edge"};
constexpr std::array<std::string_view, 4> combines = {"multiply", "add", "subtract", "mask"};
constexpr std::array<std::string_view, 3> sheet_frames = {"first", "over-life", "random"};
constexpr std::array<std::string_view, 6> texture_kinds = {"dots",  "grid",  "rings",
                                                           "cells", "noise", "image"};
constexpr std::array<std::string_view, 3> noise_kinds = {"value", "gradient", "ridged"};
constexpr std::array<std::string_view, 3> cell_kinds = {"distance", "walls", "flat"};

template <Drawing... Drawings>
constexpr bool draws(const Look& look) {
    return ((look.drawn_as == Drawings) || ...);
}
constexpr auto draws_streaks = draws<Drawing::streaks>;
constexpr auto draws_trails = draws<Drawing::trails>;
constexpr auto draws_cards = draws<Drawing::cards>;
constexpr auto draws_meshes = draws<Drawing::meshes>;
constexpr auto draws_surface = draws<Drawing::surface>;
constexpr auto draws_bodies = draws<Drawing::meshes, Drawing::surface>;
constexpr auto draws_flat = draws<Drawing::dots, Drawing::streaks, Drawing::trails, Drawing::cards>;
constexpr auto draws_each = draws<Drawing::dots, Drawing::streaks, Drawing::cards, Drawing::meshes>;
constexpr auto faces_direction = [](const Look& look) {
    return draws_cards(look) && look.card_faces == CardFaces::direction;
};
constexpr auto has_mesh_files = [](const Look& look) {
    return draws_meshes(look) && look.mesh_set == MeshSet::files;
};
constexpr auto has_copies = [](const Look& look) { return draws_each(look) && look.copies > 0; };

/// A row of one of the layers, shown while the look has layers and `Applies(layer)`.
template <size_t Number, auto Member, bool (*Applies)(const Layer&)>
constexpr Parameter layer_row(Text text, Limits limits = {}, std::span<const std::string_view> choices = {}) {
    Parameter parameter = row<Layer, Member>(text, limits, choices);
    parameter.get = [](const void* look) -> Value {
        return row<Layer, Member>({}).get(&static_cast<const Look*>(look)->layers[Number]);
    };
    parameter.set = [](void* look, const Value& value) {
        row<Layer, Member>({}).set(&static_cast<Look*>(look)->layers[Number], value);
    };
    parameter.applies = [](const void* object) {
        const Look& look = *static_cast<const Look*>(object);
        const bool is_offered = Number == 0 || look.layers[Number].from != LayerFrom::none ||
                                look.layers[Number - (Number > 0)].from != LayerFrom::none;
        return has_layers(look.drawn_as) && is_offered && Applies(look.layers[Number]);
    };
    return parameter;
}

constexpr bool is_any(const Layer&) {
    return true;
}
constexpr bool is_there(const Layer& layer) {
    return layer.from != LayerFrom::none;
}
constexpr bool is_texture(const Layer& layer) {
    return layer.from == LayerFrom::texture;
}
constexpr bool is_edge(const Layer& layer) {
    return layer.from == LayerFrom::edge;
}

// The texts that differ between layers: their group and the prefix of their keys.
struct LayerNames {
    std::string_view group, from, texture, combine, inverted, strength, strength_over_life, tint, gain,
        tiling_x, tiling_y, scroll_x, scroll_y, scatter, frame, edge_width;
};
#define EMBER_LAYER_NAMES(n)                                                                                 \
    {                                                                                                        \
        "Layer " n, "layer" n "_from", "layer" n "_texture", "layer" n "_combine", "layer" n "_inverted",    \
            "layer" n "_strength", "layer" n "_strength_over_life", "layer" n "_tint", "layer" n "_gain",    \
            "layer" n "_tiling_x", "layer" n "_tiling_y", "layer" n "_scroll_x", "layer" n "_scroll_y",      \
            "layer" n "_scatter", "layer" n "_frame", "layer" n "_edge_width"                                \
    }
constexpr std::array<LayerNames, most_layers> layer_names = {
    {EMBER_LAYER_NAMES("1"), EMBER_LAYER_NAMES("2"), EMBER_LAYER_NAMES("3")}};
#undef EMBER_LAYER_NAMES

// clang-format off: a table reads best with a row a line.

template <size_t N>
constexpr auto layer_rows() {
    constexpr LayerNames names = layer_names[N];
    Parameter texture = layer_row<N, &Layer::texture, is_texture>(
        {names.texture, "Texture", names.group, "",
         "A texture of this effect, made on the texture bench (T) or read from a file."});
    texture.kind = ParameterKind::texture;
    return std::array{
        layer_row<N, &Layer::from, is_any>({names.from, "From", names.group, "",
                                            "none: no such layer; the others stay. texture: a pattern, noise "
                                            "or an image. "
                                            "edge: the closeness to a card's rim, "
                                            "or how far a body turns away: 0 at the rim, 1 inside."},
                                           {}, layer_froms),
        texture,
        layer_row<N, &Layer::combine, is_there>(
            {names.combine, "Combine", names.group, "",
             "How it meets the colour so far: multiply, add and subtract change the colour; mask makes dark "
             "places transparent."},
            {}, combines),
        layer_row<N, &Layer::inverted, is_there>(
            {names.inverted, "Inverted", names.group, "", "Dark becomes bright."}),
        layer_row<N, &Layer::strength, is_there>(
            {names.strength, "Strength", names.group, "",
             "How much of it is seen; each particle has its own between the two."},
            share),
        layer_row<N, &Layer::strength_over_life, is_there>({names.strength_over_life, "Strength over life",
                                                            names.group, "\u00d7",
                                                            "Factor on the strength, from birth to death."},
                                                           {0, 1}),
        layer_row<N, &Layer::tint, is_there>(
            {names.tint, "Tint", names.group, "", "Factor on its colour, in linear light."}),
        layer_row<N, &Layer::gain, is_there>(
            {names.gain, "Gain", names.group, "\u00d7", "Factor on its light. Above 1 it feeds the bloom."},
            {0, 1000, 0, 10}),
        layer_row<N, &Layer::tiling_x, is_texture>({names.tiling_x, "Tiling across", names.group, "\u00d7",
                                                    "How often the texture repeats from side to side (of a "
                                                    "mesh: of its longest side; of a surface: of a metre)."},
                                                   {0.01, 1000, 0.1, 8}),
        layer_row<N, &Layer::tiling_y, is_texture>({names.tiling_y, "Tiling up", names.group, "\u00d7",
                                                    "How often the texture repeats from bottom to top (of a "
                                                    "mesh: of its longest side; of a surface: of a metre)."},
                                                   {0.01, 1000, 0.1, 8}),
        layer_row<N, &Layer::scroll_x, is_texture>({names.scroll_x, "Scroll across", names.group, "1/s",
                                                    "Repeats that it slides sideways, per second."},
                                                   {-100, 100, -2, 2}),
        layer_row<N, &Layer::scroll_y, is_texture>(
            {names.scroll_y, "Scroll up", names.group, "1/s", "Repeats that it slides up, per second."},
            {-100, 100, -2, 2}),
        layer_row<N, &Layer::scatter, is_texture>(
            {names.scatter, "Scatter", names.group, "",
             "How far each particle shows another part of the texture: 0 all alike, 1 anywhere."},
            share),
        layer_row<N, &Layer::frame, is_texture>(
            {names.frame, "Frame", names.group, "",
             "Of a texture that is a sheet of frames: the first, one after the other over life, or one at "
             "random for each particle."},
            {}, sheet_frames),
        layer_row<N, &Layer::edge_width, is_edge>(
            {names.edge_width, "Edge width", names.group, "",
             "How far in from the rim it reaches, as a share of the half width."},
            {0.01, 1}),
    };
}

constexpr auto look_table = joined(
    std::array{
        row<Look, &Look::drawn_as>(
            {"drawn_as", "Drawn as", "Dots", "",
             "dots: as they are. streaks: drawn out behind them along their motion, for "
             "sparks and rain. trails: as ribbons along the way that they really took. "
             "cards: flat pieces with a texture. meshes: small lit bodies. surface: all "
             "of them together as one skin."},
            {}, drawings),
        when<Look, draws_trails>(row<Look, &Look::trail>(
            {"trail", "Trail", "Dots", "s",
             "How far back a trail goes. What has died leaves its own until that has run out."},
            {0.02, 60, 0.05, 4})),
        when<Look, draws_trails>(row<Look, &Look::width_along>(
            {"width_along", "Width along", "Dots", "\u00d7",
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
        when<Look, draws_cards>(
            row<Look, &Look::card_faces>({"card_faces", "Cards face", "Dots", "",
                                          "camera: always seen flat. motion: upright along their way. "
                                          "direction: lie across a direction. own: "
                                          "as the source turns its particles."},
                                         {}, card_faces)),
        when<Look, faces_direction>(
            row<Look, &Look::card_direction>({"card_direction", "Direction", "Dots", "",
                                              "Which way the cards face; only the direction counts."},
                                             axis)),
        when<Look, draws_cards>(row<Look, &Look::card_height>(
            {"card_height", "Height", "Dots", "\u00d7", "Height of a card as a factor on its width."},
            {0.01, 100, 0.1, 4})),
        when<Look, draws_cards>(
            row<Look, &Look::roll>({"roll", "Roll", "Dots", "deg",
                                    "How far a card is turned in its plane at birth; each has its own."},
                                   {-3600, 3600, -180, 180})),
        when<Look, draws_cards>(row<Look, &Look::roll_over_life>(
            {"roll_over_life", "Roll over life", "Dots", "deg", "How far it turns on from birth to death."},
            {-36000, 36000, -720, 720})),
        when<Look, draws_meshes>(
            row<Look, &Look::mesh_set>({"mesh_set", "Mesh", "Dots", "",
                                        "Which bodies: each particle picks one of the set. crystals, shards "
                                        "and pebbles have several shapes; "
                                        "files: up to three of your own. A source whose form is stretched "
                                        "turns, spins and stretches them."},
                                       {}, mesh_sets)),
        when<Look, has_mesh_files>(names<Look, &Look::mesh_a>(
            ParameterKind::file,
            {"mesh_a", "File", "Dots", "",
             "A mesh, beside the effect file; it is brought to the size of the particle."},
            mesh_endings)),
        when<Look, has_mesh_files>(names<Look, &Look::mesh_b>(
            ParameterKind::file, {"mesh_b", "File 2", "Dots", "", "Another mesh that particles may pick."},
            mesh_endings)),
        when<Look, has_mesh_files>(names<Look, &Look::mesh_c>(
            ParameterKind::file, {"mesh_c", "File 3", "Dots", "", "Another mesh that particles may pick."},
            mesh_endings)),
        when<Look, draws_surface>(row<Look, &Look::surface_radius>(
            {"surface_radius", "Radius", "Dots", "\u00d7",
             "How far the skin reaches round each particle, as a factor on its radius."},
            {0.1, 20, 0.5, 4})),
        when<Look, draws_surface>(row<Look, &Look::surface_cell>(
            {"surface_cell", "Detail", "Dots", "m",
             "Size of a cell of the grid that the skin is found in: half of it costs four to eight times as "
             "much."},
            {0.005, 10, 0.01, 0.3})),
        when<Look, draws_surface>(row<Look, &Look::surface_blending>(
            {"surface_blending", "Blending", "Dots", "\u00d7",
             "Width over which particles that come near melt together, as a factor on their mean radius."},
            {0, 4, 0, 1})),
        when<Look, draws_bodies>(
            row<Look, &Look::shine>({"shine", "Shine", "Dots", "",
                                     "How strongly the sun and lights glint on it: 0 is chalk, 1 wet glass."},
                                    share)),
        when<Look, draws_bodies>(
            row<Look, &Look::own_light>({"own_light", "Own light", "Dots", "\u00d7",
                                         "How much it shines by itself, beside the light that falls on it."},
                                        {0, 1000, 0, 4})),
        when<Look, draws_flat>(row<Look, &Look::blend>(
            {"blend", "Blend", "Dots", "",
             "add: light on light, for sparks and glitter. over: covers what is behind, for mist and dust. "
             "cut-out: hard where more than half opaque, for leaves and flakes; streaks and trails cover."},
            {}, blends)),
        row<Look, &Look::size_over_life>({"size_over_life", "Size over life", "Dots", "\u00d7",
                                          "Factor on the size at birth, from birth to death."},
                                         {0, 100, 0, 2}),
        row<Look, &Look::colour_over_life>({"colour_over_life", "Colour over life", "Dots", "",
                                            "Colour and opacity from birth to death, in linear light."}),
        row<Look, &Look::glow_over_life>({"glow_over_life", "Glow over life", "Dots", "\u00d7",
                                          "Factor on the glow, from birth to death."},
                                         {0, 100, 0, 2}),
        row<Look, &Look::opacity_over_life>(
            {"opacity_over_life", "Opacity", "Dots", "\u00d7", "Factor on the opacity, from birth to death."},
            {0, 1}),
        row<Look, &Look::glow>(
            {"glow", "Glow", "Dots", "\u00d7", "Factor on the colour. Above 1 it feeds the bloom."},
            {0, 1000, 0, 10}),
        row<Look, &Look::opacity>({"opacity", "Opacity", "Dots", "", "Factor on the opacity."}, share),
        when<Look, draws_flat>(row<Look, &Look::edge>(
            {"edge", "Soft edge", "Dots", "", "0 is a hard disc, 1 fades all the way from the middle."},
            share)),
        when<Look, draws_flat>(row<Look, &Look::surface_fade>(
            {"surface_fade", "Surface fade", "Dots", "m",
             "Fades out over this distance before a surface, so that no dot is cut by an edge."},
            {0, 100, 0, 1})),
        when<Look, draws_flat>(row<Look, &Look::camera_fade>(
            {"camera_fade", "Camera fade", "Dots", "m",
             "Fades out within this distance of the camera, so that nothing fills the picture; 0: nothing "
             "fades."},
            {0, 1000, 0, 2})),
        when<Look, draws_flat>(row<Look, &Look::lit>(
            {"lit", "Lit", "Dots", "",
             "How far the stage's light colours the dots: 0 shines by itself, 1 is lit like the ground."},
            share)),
        when<Look, draws_each>(row<Look, &Look::copies>(
            {"copies", "Copies", "Copies", "per particle",
             "Cheap companions of each particle that go where it goes: more body without more simulation."},
            {0, most_copies})),
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
    },
    layer_rows<0>(), layer_rows<1>(), layer_rows<2>());

template <TextureKind... Kinds>
constexpr bool makes(const Texture& texture) {
    return ((texture.kind == Kinds) || ...);
}
constexpr auto is_noise = makes<TextureKind::noise>;
constexpr auto is_cells = makes<TextureKind::cells>;
constexpr auto is_image = makes<TextureKind::image>;
constexpr auto is_made = [](const Texture& texture) { return !is_image(texture); };
constexpr auto is_lined = makes<TextureKind::dots, TextureKind::grid, TextureKind::rings>;
constexpr auto has_chance = makes<TextureKind::dots, TextureKind::cells, TextureKind::noise>;
constexpr auto has_jitter = makes<TextureKind::dots, TextureKind::cells>;
constexpr auto is_warped = [](const Texture& texture) { return is_made(texture) && texture.warp > 0; };
constexpr auto has_ramp = [](const Texture& texture) { return is_made(texture) || texture.by_ramp; };

// Textures are made anew when they change: nothing drives them.
constexpr std::array texture_table = {
    fixed(row<Texture, &Texture::kind>(
        {"kind", "Kind", "Pattern", "",
         "dots, grid, rings, cells: patterns. noise: clouds, marble, ridges. image: from a file."},
        {}, texture_kinds)),
    fixed(when<Texture, is_image>(names<Texture, &Texture::image>(
        ParameterKind::file, {"image", "Image", "Pattern", "", "A PNG or EXR file, beside the effect file."},
        image_endings))),
    fixed(when<Texture, is_image>(row<Texture, &Texture::columns>(
        {"columns", "Columns", "Pattern", "", "How many frames of a sheet lie side by side."}, {1, 64}))),
    fixed(when<Texture, is_image>(row<Texture, &Texture::rows>(
        {"rows", "Rows", "Pattern", "", "How many rows of frames a sheet has; the first is the top one."},
        {1, 64}))),
    fixed(when<Texture, is_made>(
        row<Texture, &Texture::count>({"count", "Count", "Pattern", "",
                                       "How often the pattern, or the noise's largest shape, fits across."},
                                      {1, 64}))),
    fixed(when<Texture, is_lined>(row<Texture, &Texture::size>(
        {"size", "Thickness", "Pattern", "", "Width of dots or lines, as a share of what repeats."}, share))),
    fixed(when<Texture, is_lined>(row<Texture, &Texture::softness>(
        {"softness", "Softness", "Pattern", "", "How softly dots and lines end."}, share))),
    fixed(when<Texture, has_jitter>(row<Texture, &Texture::jitter>(
        {"jitter", "Disorder", "Pattern", "", "How far dots and cells stray from even rows."}, share))),
    fixed(when<Texture, is_cells>(
        row<Texture, &Texture::cells>({"cells", "Cells", "Pattern", "",
                                       "distance: bright from each cell's middle outwards. walls: dark lines "
                                       "between cells. flat: one grey a cell."},
                                      {}, cell_kinds))),
    fixed(when<Texture, is_noise>(row<Texture, &Texture::noise>(
        {"noise", "Noise", "Pattern", "",
         "value: soft blots. gradient: even clouds. ridged: sharp bright veins."},
        {}, noise_kinds))),
    fixed(when<Texture, is_noise>(row<Texture, &Texture::octaves>(
        {"octaves", "Octaves", "Pattern", "", "Layers of detail, each twice as fine as the one before."},
        {1, 8}))),
    fixed(when<Texture, is_noise>(row<Texture, &Texture::roughness>(
        {"roughness", "Roughness", "Pattern", "", "How strong each finer layer is against the one before."},
        share))),
    fixed(when<Texture, has_chance>(row<Texture, &Texture::variant>(
        {"variant", "Variant", "Pattern", "", "Another number is another arrangement of the same kind."},
        {0, 9999}))),
    fixed(when<Texture, is_made>(row<Texture, &Texture::warp>(
        {"warp", "Warp", "Change", "",
         "How far another noise pushes the pattern about, as a share of the picture."},
        {0, 1, 0, 0.5}))),
    fixed(when<Texture, is_warped>(
        row<Texture, &Texture::warp_count>({"warp_count", "Warp count", "Change", "",
                                            "How often the pushing noise's largest shape fits across."},
                                           {1, 32}))),
    fixed(row<Texture, &Texture::blur>(
        {"blur", "Blur", "Change", "", "Radius of a blur, as a share of the picture."}, {0, 0.25, 0, 0.1})),
    fixed(row<Texture, &Texture::levels>(
        {"levels", "Levels", "Change", "", "What becomes black and what becomes white."}, share)),
    fixed(row<Texture, &Texture::middle>(
        {"middle", "Middle", "Change", "\u00d7", "Above 1 brightens the middle tones, below 1 darkens them."},
        {0.05, 20, 0.2, 5})),
    fixed(row<Texture, &Texture::inverted>({"inverted", "Inverted", "Change", "", "Dark becomes bright."})),
    fixed(when<Texture, is_image>(row<Texture, &Texture::by_ramp>(
        {"by_ramp", "By ramp", "Colour", "",
         "Colours the image by its brightness instead of its own colours."}))),
    fixed(when<Texture, has_ramp>(row<Texture, &Texture::ramp>(
        {"ramp", "Ramp", "Colour", "", "Colours and opacity from dark (left) to bright, in linear light."}))),
};

// clang-format on

} // namespace

std::span<const std::string_view> drawing_names() {
    return drawings;
}

std::span<const Parameter> look_parameters() {
    return look_table;
}

std::span<const Parameter> texture_parameters() {
    return texture_table;
}

} // namespace ember
