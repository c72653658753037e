// Breaking: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 2> break_shapes = {"block", "mesh"};
constexpr std::array<std::string_view, 5> patterns = {"even", "graded", "spokes", "layers", "courses"};
constexpr std::array<std::string_view, 3> rest_fates = {"stay", "park", "clear"};
constexpr std::array<std::string_view, 4> clear_ways = {"shrinking", "fading", "sinking", "crumbling"};
constexpr std::array<std::string_view, 4> cap_takes = {"oldest", "smallest", "farthest", "unseen"};
constexpr std::array<std::string_view, 4> zone_fates = {"doze", "park", "clear", "call-back"};

// clang-format off: a table reads best with a row a line.

constexpr auto is_block = [](const Breakable& b) { return b.shape == BreakShape::block; };
constexpr auto is_mesh_broken = [](const Breakable& b) { return b.shape == BreakShape::mesh; };
constexpr auto has_count = [](const Breakable& b) { return b.pattern != CutPattern::courses; };
constexpr auto has_blocks = [](const Breakable& b) { return b.pattern == CutPattern::courses; };
constexpr auto is_graded = [](const Breakable& b) {
    return b.pattern == CutPattern::graded || b.pattern == CutPattern::spokes;
};
constexpr auto has_axis = [](const Breakable& b) {
    return b.pattern == CutPattern::spokes || b.pattern == CutPattern::layers;
};
constexpr auto is_uneven = [](const Breakable& b) {
    return b.pattern != CutPattern::courses && b.pattern != CutPattern::graded;
};
constexpr auto cuts_again = [](const Breakable& b) { return b.again > 1; };
constexpr auto leaves = [](const Breakable& b) { return b.at_rest != RestFate::stay; };
constexpr auto is_set_off = [](const Blast& b) { return !b.set_off_by.empty(); };
constexpr auto goes_by_clock = [](const Blast& b) { return b.set_off_by.empty(); };
constexpr auto takes = [](const CleanupZone& z) { return z.fate != ZoneFate::call_back; };
constexpr auto takes_time = [](const Breakable& b) { return b.clear_by != ClearBy::crumbling; };
constexpr auto lightens = [](const Breakable& b) { return b.light_below > 0; };
constexpr auto stands = [](const Breakable& b) { return b.stands; };

constexpr auto cut_rows = std::array{
    fixed(row<Breakable, &Breakable::shape>(
        {"shape", "Shape", "Body", "", "block: a plain block. mesh: any closed mesh from a file."}, {},
        break_shapes)),
    fixed(when<Breakable, is_block>(row<Breakable, &Breakable::size>(
        {"size", "Extent", "Body", "m", "Length of the block along its own x, y and z."},
        {0.01, 1000, 0.1, 10}))),
    when<Breakable, is_mesh_broken>(names<Breakable, &Breakable::mesh>(
        ParameterKind::file,
        {"mesh", "Mesh", "Body", "",
         "A closed mesh (OBJ, PLY, STL, glTF), beside the effect file. Small flat holes are closed."},
        mesh_endings)),
    fixed(when<Breakable, is_mesh_broken>(row<Breakable, &Breakable::scale>(
        {"scale", "Scale", "Body", "\u00d7", "Factor on the size of the mesh."}, {0.0001, 10000, 0.1, 10}))),
    fixed(row<Breakable, &Breakable::pattern>(
        {"pattern", "Pattern", "Cut", "",
         "even: pieces of like size. graded: small ones near a point. spokes: like a struck pane. layers: "
         "slabs. courses: blocks as a wall is laid."},
        {}, patterns)),
    fixed(when<Breakable, has_count>(row<Breakable, &Breakable::pieces>(
        {"pieces", "Pieces", "Cut", "",
         "How many pieces, about. Each costs while it moves, and triangles while it is seen."},
        {1, 5000, 2, 300}))),
    fixed(when<Breakable, has_blocks>(row<Breakable, &Breakable::block>(
        {"block", "Block", "Cut", "m", "Length, height and depth of a block of the courses."},
        {0.005, 1000, 0.05, 2}))),
    fixed(when<Breakable, is_uneven>(row<Breakable, &Breakable::evenness>(
        {"evenness", "Evenness", "Cut", "", "0 leaves sizes to chance, 1 makes them alike."}, share))),
    fixed(when<Breakable, is_graded>(row<Breakable, &Breakable::grading>(
        {"grading", "Grading", "Cut", "", "How much smaller pieces are near the cut's centre."}, share))),
    fixed(when<Breakable, is_graded>(row<Breakable, &Breakable::cut_centre>(
        {"cut_centre", "Cut centre", "Cut", "m", "Where pieces are smallest, in the body's own axes."},
        anywhere))),
    fixed(when<Breakable, has_axis>(row<Breakable, &Breakable::cut_axis>(
        {"cut_axis", "Cut axis", "Cut", "",
         "Spokes lie round this direction, layers across it. Only the direction counts."},
        axis))),
    fixed(row<Breakable, &Breakable::again>(
        {"again", "Cut again", "Cut", "",
         "Into how many pieces each piece near a place is cut again; 0 does not."},
        {0, 200, 0, 40})),
    fixed(when<Breakable, cuts_again>(row<Breakable, &Breakable::again_centre>(
        {"again_centre", "Again at", "Cut", "m",
         "The place near which pieces are cut again, in the body's own axes."},
        anywhere))),
    fixed(when<Breakable, cuts_again>(row<Breakable, &Breakable::again_radius>(
        {"again_radius", "Again within", "Cut", "m", "Pieces whose middle is this near are cut again."},
        lengths))),
    fixed(row<Breakable, &Breakable::sliver>(
        {"sliver", "Slivers", "Cut", "\u00d7",
         "Pieces below this share of the mean volume are joined with a neighbour."},
        {0, 1, 0, 0.3})),
    fixed(row<Breakable, &Breakable::own_seed>(
        {"own_seed", "Own seed", "Cut", "", "Another number cuts otherwise; 0 takes the effect's seed."},
        {0, 1000000, 0, 100})),
};

constexpr auto body_rows = std::array{
    fixed(row<Breakable, &Breakable::stands>(
        {"stands", "Stands", "Standing", "",
         "Whether it is there from the start; otherwise it only comes from droppers."})),
    when<Breakable, stands>(
        row<Breakable, &Breakable::returns_after>({"returns_after", "Returns after", "Standing", "s",
                                                   "It stands again whole after this time, and its old "
                                                   "pieces are cleared unless they are to stay; 0: it "
                                                   "does not return."},
                                                  {0, 3600, 0, 60})),
    fixed(row<Breakable, &Breakable::density>(
        {"density", "Density", "Holding", "kg/m\u00b3", "Mass of a cubic metre: pine 500, salt 2200."},
        {1, 30000, 100, 5000})),
    row<Breakable, &Breakable::strength>(
        {"strength", "Strength", "Holding", "kPa",
         "The load for each area at which pieces let go of one another: 0 does not hold at all, packed sand "
         "10, mortar 300, concrete 3000."},
        {0, 1e6, 0, 1000}),
    row<Breakable, &Breakable::strength_spread>({"strength_spread", "Spread", "Holding", "",
                                                 "How unlike the faces between pieces hold, each by a chance "
                                                 "of its own: 0 all alike, 0.5 from a third to three "
                                                 "times the strength, 1 from a fifth to five times."},
                                                share),
    row<Breakable, &Breakable::bounce>(
        {"bounce", "Bounce", "Holding", "",
         "Share of the speed that comes back; with what is hit, the root of both is taken."},
        share),
    row<Breakable, &Breakable::friction>(
        {"friction", "Friction", "Holding", "",
         "0 slides for ever, 1 is rubber on stone; with what is hit, the root of both is taken."},
        {0, 100, 0, 2}),
    row<Breakable, &Breakable::rest_speed>(
        {"rest_speed", "Rest speed", "Cleanup", "m/s",
         "A piece that stays slower than this for half a second is at rest: it costs nothing until it is "
         "touched."},
        {0, 10, 0.02, 1}),
    row<Breakable, &Breakable::light_below>({"light_below", "Light below", "Cleanup", "m",
                                             "Loose pieces less than this across become light: they meet the "
                                             "stage only, not one another, and cost "
                                             "as little as particles. 0: none."},
                                            {0, 1000, 0, 0.5}),
    when<Breakable, lightens>(row<Breakable, &Breakable::light_after>(
        {"light_after", "Light after", "Cleanup", "s", "How long they are loose before that."},
        {0, 3600, 0, 10})),
    row<Breakable, &Breakable::at_rest>(
        {"at_rest", "At rest", "Cleanup", "",
         "stay: rests until touched. park: leaves the physics, stays in the picture. clear: leaves both."},
        {}, rest_fates),
    when<Breakable, leaves>(row<Breakable, &Breakable::linger>(
        {"linger", "Linger", "Cleanup", "s",
         "How long pieces rest before that, each by a chance of its own, so that they do not go together."},
        {0, 3600, 0, 30})),
    row<Breakable, &Breakable::longest_life>(
        {"longest_life", "Longest life", "Cleanup", "s",
         "A loose piece begins to be cleared after this time, at rest or not, and is gone after its clear "
         "time more; 0: never."},
        {0, 3600, 0, 60}),
    row<Breakable, &Breakable::clear_by>({"clear_by", "Clear by", "Cleanup", "",
                                          "shrinking, fading or sinking into the ground; crumbling: gone at "
                                          "once, and dust if an emitter of this "
                                          "breakable gives birth when pieces go."},
                                         {}, clear_ways),
    when<Breakable, takes_time>(row<Breakable, &Breakable::clear_time>(
        {"clear_time", "Clear time", "Cleanup", "s", "How long that takes, each by a chance of its own."},
        {0, 60, 0, 5})),
    row<Breakable, &Breakable::capacity>(
        {"capacity", "At most", "Cleanup", "pieces", "Loose pieces beyond this number are cleared at once."},
        {0, most_pieces, 10, 3000}),
    row<Breakable, &Breakable::cap_takes>(
        {"cap_takes", "Takes first", "Cleanup", "",
         "Which go when there are too many: the oldest, the smallest, the farthest from the camera, or those "
         "that the camera does not see."},
        {}, cap_takes),
};

constexpr auto surface_look_rows = std::array{
    row<Breakable, &Breakable::colour>(
        {"colour", "Colour", "Surface", "", "Of the outside, in linear light."}),
    names<Breakable, &Breakable::texture>(ParameterKind::texture,
                                          {"texture", "Texture", "Surface", "", "Laid on the outside."}),
    row<Breakable, &Breakable::inner_colour>(
        {"inner_colour", "Inner colour", "Surface", "", "Of the faces that breaking lays open."}),
    names<Breakable, &Breakable::inner_texture>(
        ParameterKind::texture, {"inner_texture", "Inner texture", "Surface", "", "Laid on those faces."}),
    row<Breakable, &Breakable::texture_size>(
        {"texture_size", "Texture size", "Surface", "m", "What one copy of a texture covers."}, lengths),
    row<Breakable, &Breakable::shine>({"shine", "Shine", "Surface", "", "How strongly it glints."}, share),
};

constexpr auto plays_pieces = [](const Breakable& b) { return !b.clip.empty(); };
constexpr std::array<std::string_view, 2> piece_clip_endings = {"glb", "gltf"};

constexpr std::array played_rows = {
    names<Breakable, &Breakable::clip>(
        ParameterKind::file,
        {"clip", "Clip", "Clip", "",
         "None: it breaks here. An animated glTF file whose nodes move as pieces, as a bake writes it; "
         "others' are "
         "read too. Nothing acts on what is played, and nothing breaks or is cleared."},
        piece_clip_endings),
    when<Breakable, plays_pieces>(
        row<Breakable, &Breakable::clip_body>({"clip_body", "Of its bodies", "Clip", "",
                                               "The first, the second ... of the nodes that pieces are below "
                                               "of, in the file's order; 0 plays all."},
                                              {0, 256, 0, 8})),
};

constexpr auto breakable_table = joined(cut_rows, place_rows<Breakable>("Standing"), body_rows,
                                        surface_look_rows, played_rows, clip_rows<Breakable, plays_pieces>());

constexpr auto pin_table = reach_rows<Pin>();

constexpr auto blast_table = joined(
    std::array{
        row<Blast, &Blast::speed>({"speed", "Speed", "Blast", "m/s",
                                   "That pieces and particles get, away from the middle of the reach."},
                                  {-1000, 1000, 0, 30}),
        row<Blast, &Blast::damage>(
            {"damage", "Damage", "Blast", "kPa", "Breaks what holds less, where the reach is full."},
            {0, 1e6, 0, 2000}),
        names<Blast, &Blast::set_off_by>(ParameterKind::place,
                                         {"set_off_by", "Set off by", "Blast", "",
                                          "A mover, or another element with a place, that sets it off each "
                                          "time it comes near; nothing: it "
                                          "goes off by the clock."}),
        when<Blast, is_set_off>(row<Blast, &Blast::within>(
            {"within", "Within", "Blast", "m", "How near to the middle of the reach."}, lengths)),
        when<Blast, goes_by_clock>(
            row<Blast, &Blast::first>({"first", "First at", "Blast", "s", "When it goes off."}, any_time)),
        when<Blast, goes_by_clock>(row<Blast, &Blast::every>(
            {"every", "Every", "Blast", "s", "And again after this time; 0: once."}, {0, 3600, 0, 30})),
    },
    reach_rows<Blast>());

constexpr auto zone_table = joined(
    std::array{
        row<CleanupZone, &CleanupZone::fate>(
            {"fate", "Does", "Cleanup", "",
             "doze: the piece stops until it is touched. park: it leaves "
             "the physics and stays in the picture. "
             "clear: it goes, as its breakable says. call-back: parked pieces are in the physics again."},
            {}, zone_fates),
        when<CleanupZone, takes>(row<CleanupZone, &CleanupZone::below_speed>(
            {"below_speed", "Below", "Cleanup", "m/s", "Only pieces that are slower."}, {0, 1000, 0, 3})),
    },
    reach_rows<CleanupZone>());

constexpr auto dropper_table = joined(
    std::array{
        names<Dropper, &Dropper::drops>(
            ParameterKind::breakable,
            {"drops", "Drops", "Dropping", "", "The breakable of which it throws copies in."}),
        row<Dropper, &Dropper::first>({"first", "First at", "Dropping", "s", "When the first comes."},
                                      any_time),
        row<Dropper, &Dropper::every>({"every", "Every", "Dropping", "s", "Time from one to the next."},
                                      {0.001, 3600, 0.1, 20}),
        row<Dropper, &Dropper::spread>(
            {"spread", "Spread", "Dropping", "m", "How far about its place they come, in all."},
            {0, 1000, 0, 5}),
        row<Dropper, &Dropper::turns_any_way>(
            {"turns_any_way", "Any way up", "Dropping", "", "Whether each is turned by chance."}),
        row<Dropper, &Dropper::velocity>(
            {"velocity", "Velocity", "Dropping", "m/s", "That each starts with."}, {-1000, 1000, -10, 10}),
    },
    place_rows<Dropper>());

// clang-format on

} // namespace

std::span<const ElementType> breakable_types() {
    static const std::array types = {
        ElementType{"breakable", "Breakable", "A body that comes apart into rigid pieces.", breakable_table,
                    Breakable{{{0, 0.5f, 0}, {}, {}}}},
    };
    return types;
}

std::span<const ElementType> breaking_types() {
    constexpr auto ball = [](float width) {
        Reach reach;
        reach.reach = ReachShape::ball;
        reach.reach_size = {width, width, width};
        reach.fade_distance = 0;
        return reach;
    };
    Reach box = ball(2);
    box.reach = ReachShape::box;
    box.reach_size = {2, 0.4f, 2};
    box.reach_position = {0, 0.2f, 0};
    static const std::array types = {
        ElementType{"pin", "Pin", "Pieces that stand in its reach stay put.", pin_table, Pin{box}},
        ElementType{"blast", "Blast",
                    "Throws pieces and particles outwards and breaks what holds pieces together.",
                    blast_table, Blast{ball(1)}},
        ElementType{"cleanup-zone", "Cleanup zone",
                    "Stops or takes away slow pieces where they are not needed.", zone_table,
                    CleanupZone{ball(6)}},
        ElementType{"dropper", "Dropper", "Throws a breakable in, again and again.", dropper_table,
                    Dropper{{{0, 3, 0}, {}, {}}}},
    };
    return types;
}

} // namespace ember::tables
