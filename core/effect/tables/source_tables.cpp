// Sources: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 14> birth_shapes = {"point", "line", "disc",     "rectangle", "ring",
                                                           "box",   "ball", "cylinder", "cone",      "path",
                                                           "mesh",  "skin", "broken",   "clip"};
constexpr std::array<std::string_view, 1> clip_endings = {"ply"};
constexpr std::array<std::string_view, 2> fills = {"inside", "surface"};
constexpr std::array<std::string_view, 4> orders = {"shuffled", "even", "sequence", "travelling"};
constexpr std::array<std::string_view, 2> mesh_births = {"faces", "corners"};
constexpr std::array<std::string_view, 3> aims = {"direction", "normal", "tangent"};
constexpr std::array<std::string_view, 2> begins = {"at-once", "at-time"};
constexpr std::array<std::string_view, 6> child_whens = {"always", "death", "hit", "broken", "rest", "apart"};
constexpr std::array<std::string_view, 2> forms = {"round", "stretched"};
constexpr std::array<std::string_view, 3> facings = {"motion", "fixed", "any"};
constexpr std::array<std::string_view, 4> spin_axes = {"any", "x", "y", "z"};

// clang-format off: a table reads best with a row a line.

constexpr auto has_size = [](const Emitter& e) {
    return e.shape != BirthShape::point && e.shape != BirthShape::path && e.shape < BirthShape::mesh;
};
constexpr auto has_tube = [](const Emitter& e) {
    return e.shape == BirthShape::ring || e.shape == BirthShape::path;
};
constexpr auto has_along = [](const Emitter& e) {
    return e.shape == BirthShape::line || e.shape == BirthShape::ring || e.shape == BirthShape::path;
};
constexpr auto has_fill = [](const Emitter& e) {
    return e.shape != BirthShape::point && e.shape != BirthShape::line && e.shape < BirthShape::mesh;
};
constexpr auto is_clip = [](const Emitter& e) { return e.shape == BirthShape::clip; };
constexpr auto bears = [](const Emitter& e) { return !is_clip(e); };
constexpr auto has_order = [](const Emitter& e) {
    return e.shape != BirthShape::point && e.shape < BirthShape::broken;
};
constexpr auto is_path = [](const Emitter& e) { return e.shape == BirthShape::path; };
constexpr auto is_skin = [](const Emitter& e) { return e.shape == BirthShape::skin; };
constexpr auto is_on_mesh = [](const Emitter& e) { return e.shape == BirthShape::mesh; };
constexpr auto has_scale = [](const Emitter& e) { return is_on_mesh(e) || is_clip(e); };
constexpr auto in_sequence = [](const Emitter& e) { return has_order(e) && e.order == BirthOrder::sequence; };
constexpr auto travels = [](const Emitter& e) { return has_order(e) && e.order == BirthOrder::travelling; };
constexpr auto is_free = [](const Emitter& e) { return e.parent.empty() && bears(e); };
constexpr auto has_place = [](const Emitter& e) { return e.parent.empty() || is_clip(e); };
constexpr auto has_bursts = [](const Emitter& e) { return is_free(e) && e.burst_count > 0; };
constexpr auto repeats = [](const Emitter& e) { return has_bursts(e) && e.burst_repeats != 1; };
constexpr auto has_start = [](const Emitter& e) { return bears(e) && e.begins == Begin::at_time; };
constexpr auto loops = [](const Emitter& e) { return is_free(e) && e.duration > 0; };
constexpr auto is_carried = [](const Emitter& e) { return is_free(e) && !e.rides_on.empty(); };
constexpr auto is_child = [](const Emitter& e) { return !e.parent.empty() && bears(e); };
constexpr auto is_steady_child = [](const Emitter& e) { return is_child(e) && e.when == ChildWhen::always; };
constexpr auto is_event_child = [](const Emitter& e) { return is_child(e) && e.when != ChildWhen::always; };
constexpr auto is_hit_child = [](const Emitter& e) { return is_child(e) && e.when == ChildWhen::hit; };
constexpr auto inherits = [](const Emitter& e) { return is_child(e) || (bears(e) && !e.rides_on.empty()); };
constexpr auto aims_freely = [](const Emitter& e) { return bears(e) && e.aim == Aim::direction; };
constexpr auto dies = [](const Emitter& e) { return bears(e) && !e.for_ever; };
constexpr auto is_stretched = [](const Emitter& e) { return e.form == Form::stretched; };
constexpr auto faces_fixed = [](const Emitter& e) { return is_stretched(e) && e.facing == Facing::fixed; };
constexpr auto spins = [](const Emitter& e) { return is_stretched(e) && e.spin != Range{0, 0}; };
constexpr auto is_limited = [](const Emitter& e) { return bears(e) && e.speed_limit > 0; };

constexpr std::array birth_rows = {
    row<Emitter, &Emitter::shape>(
        {"shape", "Shape", "Birth", "",
         "The shape that gives birth. A line is good for edges, a ball for puffs, "
         "a ring or path for places that travel, a mesh for whole objects, a skin "
         "for the surface round another source's particles, broken for the faces along which a "
         "parent breaks (see Children), a clip for particles that were baked and are played again."},
        {}, birth_shapes),
    when<Emitter, has_size>(row<Emitter, &Emitter::size>(
        {"size", "Extent", "Birth", "m",
         "How long, high and wide the birth shape is. A line uses x; a disc and rectangle x and z; a ring x "
         "as its diameter; a cylinder and cone x as diameter and y as height."},
        {0, 1000, 0, 5})),
    when<Emitter, has_tube>(row<Emitter, &Emitter::thickness>(
        {"thickness", "Thickness", "Birth", "m", "Diameter of the tube round the ring or path."},
        {0, 1000, 0, 1})),
    when<Emitter, is_skin>(names<Emitter, &Emitter::skin_of>(
        ParameterKind::emitter,
        {"skin_of", "Skin of", "Birth", "",
         "The source whose particles the skin lies round, as its look's radius, detail and smoothing say. It "
         "is found anew in every step, which costs."})),
    when<Emitter, is_on_mesh>(names<Emitter, &Emitter::mesh>(
        ParameterKind::file,
        {"mesh", "Mesh", "Birth", "", "A mesh file (OBJ, PLY, STL, glTF), beside the effect file."},
        mesh_endings)),
    when<Emitter, has_scale>(row<Emitter, &Emitter::scale>(
        {"scale", "Scale", "Birth", "\u00d7", "Factor on the size of the mesh, or of the whole clip."},
        {0.0001, 10000, 0.1, 10})),
    when<Emitter, is_clip>(
        names<Emitter, &Emitter::clip>(ParameterKind::file,
                                       {"clip", "Clip", "Birth", "",
                                        "A PLY file of particles, the first of those that are played one "
                                        "after the other; their names differ in the "
                                        "number at their end. A bake writes them; others' are read too, 30 a "
                                        "second. Forces and colliders do not "
                                        "move what is played."},
                                       clip_endings)),
    when<Emitter, is_clip>(row<Emitter, &Emitter::clip_source>(
        {"clip_source", "Of its sources", "Birth", "",
         "The first, the second ... of the sources in the clip; 0 plays all."},
        {0, 256, 0, 8})),
};

constexpr std::array more_birth_rows = {
    when<Emitter, is_on_mesh>(row<Emitter, &Emitter::mesh_birth>(
        {"mesh_birth", "From", "Birth", "",
         "faces: anywhere on the surface, evenly by area. corners: at the mesh's corner points."},
        {}, mesh_births)),
    when<Emitter, has_fill>(row<Emitter, &Emitter::fill>(
        {"fill", "Fill", "Birth", "",
         "inside: anywhere in the shape. surface: on its skin; of a flat shape, on its edge."},
        {}, fills)),
    when<Emitter, has_order>(row<Emitter, &Emitter::order>(
        {"order", "Order", "Birth", "",
         "shuffled: at random. even: spread without gaps or clumps. sequence: one after the other along the "
         "shape. travelling: all at one place that moves along it."},
        {}, orders)),
    when<Emitter, in_sequence>(
        row<Emitter, &Emitter::sequence_length>({"sequence_length", "Once round in", "Birth", "births",
                                                 "How many births it takes to go once along the shape."},
                                                {1, 1e6, 2, 1000})),
    when<Emitter, has_along>(row<Emitter, &Emitter::extent>(
        {"extent", "Part used", "Birth", "",
         "Which part of the line, ring or path is used, from 0 at its start to 1 at its end."},
        share)),
    when<Emitter, travels>(row<Emitter, &Emitter::birth_place>(
        {"birth_place", "Birth place", "Birth", "",
         "Where along the part that is used births happen at time zero, 0 to 1."},
        share)),
    when<Emitter, travels>(row<Emitter, &Emitter::travel>(
        {"travel", "Travel", "Birth", "1/s",
         "How often per second the birth place goes once along; negative goes backwards."},
        {-100, 100, -3, 3})),
};

constexpr std::array amount_rows = {
    when<Emitter, is_free>(row<Emitter, &Emitter::rate>(
        {"rate", "Rate", "Amount", "1/s",
         "How many particles are born in a second. Rate times lifetime is how many live at once."},
        {0, 5e6, 0, 20000})),
    when<Emitter, is_free>(row<Emitter, &Emitter::burst_count>(
        {"burst_count", "Burst", "Amount", "births", "How many are born at once in a burst; 0 for none."},
        {0, 1e6, 0, 5000})),
    when<Emitter, has_bursts>(row<Emitter, &Emitter::burst_start>(
        {"burst_start", "Burst at", "Amount", "s", "When the first burst comes, counted from the start."},
        {0, 3600, 0, 10})),
    when<Emitter, has_bursts>(row<Emitter, &Emitter::burst_repeats>(
        {"burst_repeats", "Bursts", "Amount", "bursts", "How many bursts come; 0 goes on for ever."},
        {0, 1e6, 0, 20})),
    when<Emitter, repeats>(row<Emitter, &Emitter::burst_every>(
        {"burst_every", "Every", "Amount", "s", "Time between two bursts."}, {0.01, 3600, 0.05, 10})),
    when<Emitter, is_carried>(row<Emitter, &Emitter::per_metre>(
        {"per_metre", "Per metre", "Amount", "1/m",
         "How many are born on each metre that the emitter is carried; it needs to ride on something. Births "
         "lie evenly along the way, however fast."},
        {0, 10000, 0, 200})),
    when<Emitter, bears>(row<Emitter, &Emitter::begins>(
        {"begins", "Begins", "Amount", "",
         "at-once: births go on from the first step, through the warm-up if there is one. at-time: they "
         "begin at a time; time zero ends the warm-up."},
        {}, begins)),
    when<Emitter, has_start>(
        row<Emitter, &Emitter::start>({"start", "Start", "Amount", "s", "When births begin."}, any_time)),
    when<Emitter, bears>(row<Emitter, &Emitter::duration>(
        {"duration", "Duration", "Amount", "s", "How long births go on; 0 is for ever."}, {0, 3600, 0, 20})),
    when<Emitter, loops>(row<Emitter, &Emitter::loop_every>(
        {"loop_every", "Again every", "Amount", "s",
         "Starts again after this time, counted from the start; 0 does not."},
        {0, 3600, 0, 20})),
    row<Emitter, &Emitter::capacity>(
        {"capacity", "Capacity", "Amount", "particles",
         "The most that may live at once. What cannot be born is counted and shown on the board."},
        {1, double(most_particles), 1000, 200000}),
};

constexpr std::array child_rows = {
    when<Emitter, bears>(names<Emitter, &Emitter::parent>(
        ParameterKind::source, {"parent", "Born of", "Children", "",
                                "A source whose particles give birth to these. They then come from the shape "
                                "round each parent, and rate and bursts give way to what stands here."})),
    when<Emitter, is_child>(
        row<Emitter, &Emitter::when>({"when", "When", "Children", "",
                                      "always: all through a parent's life. death: when a parent dies, or a "
                                      "piece goes. hit: when a parent hits something. broken: when a piece "
                                      "of a breakable comes off. rest: when one comes to rest. apart: once "
                                      "for each body that comes apart."},
                                     {}, child_whens)),
    when<Emitter, is_steady_child>(
        row<Emitter, &Emitter::per_parent_rate>({"per_parent_rate", "Per parent", "Children", "1/s",
                                                 "How many each parent gives birth to in a second."},
                                                {0, 10000, 0, 200})),
    when<Emitter, is_event_child>(row<Emitter, &Emitter::per_parent_count>(
        {"per_parent_count", "Per event", "Children", "births", "How many are born each time."},
        {0, 10000, 0, 50})),
    when<Emitter, is_event_child>(row<Emitter, &Emitter::chance>(
        {"chance", "Chance", "Children", "", "Share of the events that give birth."}, share)),
    when<Emitter, is_hit_child>(row<Emitter, &Emitter::least_impact>(
        {"least_impact", "Least impact", "Children", "m/s", "Hits slower than this give no birth."},
        {0, 1000, 0, 10})),
    when<Emitter, is_child>(row<Emitter, &Emitter::colour_share>(
        {"colour_share", "Colour share", "Children", "", "How much of the parent's colour is taken over."},
        share)),
};

constexpr std::array motion_rows = {
    when<Emitter, bears>(row<Emitter, &Emitter::aim>(
        {"aim", "Aim", "First motion", "",
         "direction: the one below. normal: away from the birth shape's surface. tangent: along it."},
        {}, aims)),
    when<Emitter, aims_freely>(row<Emitter, &Emitter::direction>(
        {"direction", "Direction", "First motion", "",
         "Which way particles leave; only the direction counts, not the length."},
        axis)),
    when<Emitter, bears>(row<Emitter, &Emitter::spread>(
        {"spread", "Spread", "First motion", "deg",
         "Half the angle of the cone that directions are drawn from: 0 is a jet, 180 is every way."},
        {0, 180})),
    when<Emitter, bears>(row<Emitter, &Emitter::speed>(
        {"speed", "Speed", "First motion", "m/s",
         "Speed at birth, drawn evenly between the two ends. A negative one goes the other way."},
        {-1000, 1000, 0, 20})),
    when<Emitter, inherits>(row<Emitter, &Emitter::inherited_velocity>(
        {"inherited_velocity", "Inherited", "First motion", "\u00d7",
         "Share of the velocity of the parent particle, or of what the emitter rides on, that is added."},
        {-10, 10, 0, 1})),
};

constexpr std::array life_rows = {
    when<Emitter, bears>(row<Emitter, &Emitter::for_ever>(
        {"for_ever", "For ever", "At birth", "",
         "Particles do not age. Only colliders and the capacity end them."})),
    when<Emitter, dies>(
        row<Emitter, &Emitter::lifetime>({"lifetime", "Lifetime", "At birth", "s",
                                          "How long a particle lives, drawn evenly between the two ends."},
                                         {0.01, 3600, 0.05, 10})),
    when<Emitter, bears>(row<Emitter, &Emitter::particle_size>(
        {"particle_size", "Size", "At birth", "m",
         "Diameter of a particle, drawn evenly between the two ends. Half "
         "of it keeps its distance from colliders."},
        {0.0001, 100, 0.005, 0.5})),
    when<Emitter, bears>(row<Emitter, &Emitter::mass>(
        {"mass", "Mass", "At birth", "\u00d7",
         "Drawn evenly between the two ends. All forces but gravity act the less, "
         "the heavier a particle is; in contacts the heavier one gives way less."},
        {0.01, 1000, 0.1, 5})),
    when<Emitter, bears>(row<Emitter, &Emitter::birth_colours>(
        {"birth_colours", "Colours", "At birth", "",
         "Each particle draws its own tint and opacity from this ramp; it "
         "is multiplied with the look's colour. Light up to 1."})),
    when<Emitter, bears>(row<Emitter, &Emitter::hold_over_life>(
        {"hold_over_life", "Force hold", "Over life", "\u00d7",
         "How strongly forces other than gravity take hold, from birth to death."},
        {-10, 10, 0, 2})),
    when<Emitter, bears>(
        row<Emitter, &Emitter::speed_limit>({"speed_limit", "Speed limit", "Over life", "m/s",
                                             "The highest speed a particle may have; 0 is none."},
                                            {0, 10000, 0, 20})),
    when<Emitter, is_limited>(row<Emitter, &Emitter::speed_limit_over_life>(
        {"speed_limit_over_life", "Limit curve", "Over life", "\u00d7",
         "Factor on the speed limit, from birth to death."},
        {0, 10, 0, 1})),
    row<Emitter, &Emitter::own_seed>({"own_seed", "Own seed", "Chance", "",
                                      "Another number gives other random draws for this source alone."},
                                     {0, 1e6, 0, 100}),
    row<Emitter, &Emitter::keeps>(
        {"keeps", "Keeps", "Chance", "",
         "Share of its births that this source keeps at least when the effect gives way (Budget): 1 never "
         "gives any."},
        share),
    row<Emitter, &Emitter::look>({"look", "Look", "Look", "",
                                  "How the particles are drawn. Sources that name the same look share it."}),
};

constexpr Limits stretches = {0, 50, 0.1, 5};
constexpr Limits stretch_shares = {0, 20, 0, 2};

constexpr std::array form_rows = {
    row<Emitter, &Emitter::form>({"form", "Form", "Form", "",
                                  "round: a soft ball. stretched: an ellipsoid with axes of its own, that "
                                  "faces somewhere and may spin."},
                                 {}, forms),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::stretch_x>(
        {"stretch_x", "Stretch x", "Form", "\u00d7",
         "Factor on the size along the particle's own x axis, drawn evenly between the two ends."},
        stretches)),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::stretch_y>(
        {"stretch_y", "Stretch y", "Form", "\u00d7",
         "Factor on the size along the particle's own y axis: the one that points along the motion."},
        stretches)),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::stretch_z>(
        {"stretch_z", "Stretch z", "Form", "\u00d7",
         "Factor on the size along the particle's own z axis. A small one makes a flake."},
        stretches)),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::facing>(
        {"facing", "Facing", "Form", "",
         "motion: y points where the particle goes. fixed: as turned below. any: each its own way."},
        {}, facings)),
    when<Emitter, faces_fixed>(row<Emitter, &Emitter::facing_turn>(
        {"facing_turn", "Turned by", "Form", "deg", "Turns the particles about x, then y, then z."},
        degrees)),
    when<Emitter, faces_fixed>(
        row<Emitter, &Emitter::facing_heading>({"facing_heading", "Heading", "Form", "deg",
                                                "Each particle is turned about its own y by up to this much, "
                                                "either way: 180 heads anywhere, upright."},
                                               {0, 180})),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::facing_spread>(
        {"facing_spread", "Tilt", "Form", "deg",
         "Each particle is tilted away from that by up to this much, about an axis of its own."},
        {0, 180})),
    when<Emitter, is_stretched>(
        row<Emitter, &Emitter::spin>({"spin", "Spin", "Form", "rpm",
                                      "Turns a minute, drawn evenly between the two ends. A negative one "
                                      "turns the other way. What sticks to "
                                      "something spins no more."},
                                     {-60000, 60000, -300, 300})),
    when<Emitter, spins>(
        row<Emitter, &Emitter::spin_axis>({"spin_axis", "Spins about", "Form", "",
                                           "One of the particle's own axes, or any: each its own axis."},
                                          {}, spin_axes)),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::lies_flat>(
        {"lies_flat", "Lies flat", "Form", "",
         "What sticks where it hits turns flat onto the surface, with its shortest axis along the surface's "
         "normal; of several as short it is z, along which cards are flat too that face their own way. Off: "
         "it "
         "stays as it came. Either way it spins no more, and turns with what it sticks to."})),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::stretch_x_over_life>(
        {"stretch_x_over_life", "Stretch x curve", "Form over life", "\u00d7",
         "Factor on the stretch along x, from birth to death."},
        stretch_shares)),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::stretch_y_over_life>(
        {"stretch_y_over_life", "Stretch y curve", "Form over life", "\u00d7",
         "Factor on the stretch along y, from birth to death."},
        stretch_shares)),
    when<Emitter, is_stretched>(row<Emitter, &Emitter::stretch_z_over_life>(
        {"stretch_z_over_life", "Stretch z curve", "Form over life", "\u00d7",
         "Factor on the stretch along z, from birth to death."},
        stretch_shares)),
    when<Emitter, spins>(row<Emitter, &Emitter::spin_over_life>(
        {"spin_over_life", "Spin curve", "Form over life", "\u00d7",
         "Factor on the spin, from birth to death; below 0 it turns back."},
        {-20, 20, -1, 2})),
};

// Children come from their parents' places.
constexpr std::array emitter_place_rows = {
    when<Emitter, has_place>(place_rows<Emitter>("Birth")[0]),
    place_rows<Emitter>("Birth")[1],
    when<Emitter, has_place>(place_rows<Emitter>("Birth")[2]),
};

constexpr auto emitter_table =
    joined(birth_rows, clip_rows<Emitter, is_clip>(), more_birth_rows, emitter_place_rows,
           path_rows<Emitter, is_path>(), amount_rows, motion_rows, life_rows, form_rows, child_rows);

// clang-format on

} // namespace

std::span<const ElementType> source_types() {
    static const std::array types = {
        ElementType{"emitter", "Emitter", "A source of particles: gives birth on or inside a shape.",
                    emitter_table, Emitter{{{0, 1, 0}, {}, {}}}},
    };
    return types;
}

} // namespace ember::tables
