// Sources: what makes matter.
#pragma once

#include "core/effect/clip_play.h"
#include "core/effect/place.h"

namespace ember {

enum class BirthShape {
    point,
    line,
    disc,
    rectangle,
    ring,
    box,
    ball,
    cylinder,
    cone,
    path,
    mesh,
    skin,
    broken,
    clip,
};
enum class BirthFill { inside, surface };
enum class BirthOrder { shuffled, even, sequence, travelling };
enum class MeshBirth { faces, corners };
enum class Aim { direction, normal, tangent };
enum class Begin { at_once, at_time }; // at once: with the warm-up
enum class ChildWhen { always, death, hit, broken, rest, apart };
enum class Form { round, stretched };
enum class Facing { motion, fixed, any };
enum class SpinAxis { any, x, y, z };

/// Makes particles.
struct Emitter : Place, PathShape, ClipPlay {
    BirthShape shape = BirthShape::ball;
    Vec3 size = {0.2f, 0.2f, 0.2f};
    float thickness = 0.05f; // of the tube round a ring or path
    std::string mesh;        // file
    std::string skin_of;     // id of a source
    float scale = 1;         // of the mesh
    MeshBirth mesh_birth = MeshBirth::faces;
    BirthFill fill = BirthFill::inside;
    BirthOrder order = BirthOrder::shuffled;
    int sequence_length = 100;
    Range extent = {0, 1};
    float birth_place = 0;
    float travel = 0.5f;

    int clip_source = 0; // of the clip's; 0: all

    float rate = 400;
    int burst_count = 0;
    float burst_start = 0;
    float burst_every = 1;
    int burst_repeats = 1; // 0: for ever
    float per_metre = 0;
    Begin begins = Begin::at_once;
    float start = 0;    // s, at a time
    float duration = 0; // 0: for ever
    float loop_every = 0;
    int capacity = 20000;

    std::string parent; // id of the source whose particles give birth; empty: none
    ChildWhen when = ChildWhen::always;
    float per_parent_rate = 10;
    int per_parent_count = 5;
    float chance = 1;
    float least_impact = 0.5f;
    float colour_share = 0;

    Aim aim = Aim::direction;
    Vec3 direction = {0, 1, 0};
    float spread = 20;
    Range speed = {2, 3};
    float inherited_velocity = 0;

    Range lifetime = {1.5f, 2.5f};
    bool for_ever = false;
    Range particle_size = {0.02f, 0.04f};
    Range mass = {1, 1};
    Ramp birth_colours;

    Form form = Form::round;
    Range stretch_x = {1, 1}, stretch_y = {2, 2}, stretch_z = {1, 1};
    Curve stretch_x_over_life, stretch_y_over_life, stretch_z_over_life;
    Facing facing = Facing::motion;
    Vec3 facing_turn;         // deg
    float facing_heading = 0; // deg
    float facing_spread = 0;  // deg
    Range spin = {0, 0};
    SpinAxis spin_axis = SpinAxis::any;
    Curve spin_over_life;
    bool lies_flat = false;

    Curve hold_over_life;
    float speed_limit = 0;
    Curve speed_limit_over_life;

    int own_seed = 0;
    float keeps = 0; // share of its births, when the effect gives way
    std::string look;

    bool operator==(const Emitter&) const = default;
};

} // namespace ember
