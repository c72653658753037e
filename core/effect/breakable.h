// Breaking: bodies that come apart, what holds and hits them, and what takes their pieces away.
#pragma once

#include "core/effect/clip_play.h"
#include "core/effect/place.h"

namespace ember {

/// The most pieces that an effect may have at a time, in all.
constexpr int most_pieces = 20'000;

enum class BreakShape { block, mesh };
enum class CutPattern { even, graded, spokes, layers, courses };
enum class RestFate { stay, park, clear };
enum class ClearBy { shrinking, fading, sinking, crumbling };
enum class CapTakes { oldest, smallest, farthest, unseen };

/// A body that stands, or is dropped, and breaks into the pieces that it is cut into.
struct Breakable : Place, ClipPlay { // with a clip its pieces move as that says
    BreakShape shape = BreakShape::block;
    Vec3 size = {1, 1, 1};
    std::string mesh; // file
    float scale = 1;  // of the mesh

    CutPattern pattern = CutPattern::even;
    int pieces = 30;
    float evenness = 0.5f;
    float grading = 0.7f;
    Vec3 cut_centre;
    Vec3 cut_axis = {0, 0, 1};
    Vec3 block = {0.4f, 0.2f, 0.2f};
    int again = 0; // pieces of some pieces; 0: none
    Vec3 again_centre;
    float again_radius = 0.5f;
    float sliver = 0.02f; // of the mean volume
    int own_seed = 0;

    bool stands = true;      // from the start
    float returns_after = 0; // s, anew; 0: never
    float density = 1200;    // kg/m^3
    float strength = 100;    // kPa
    float strength_spread = 0.5f;
    float bounce = 0.1f;
    float friction = 0.6f;
    float rest_speed = 0.15f; // m/s

    float light_below = 0; // m across; 0: none
    float light_after = 0; // s

    RestFate at_rest = RestFate::stay;
    Range linger = {3, 6};  // s
    float longest_life = 0; // s; 0: for ever
    ClearBy clear_by = ClearBy::shrinking;
    Range clear_time = {0.5f, 1.5f}; // s
    int capacity = 1000;
    CapTakes cap_takes = CapTakes::oldest;

    Colour colour = {0.62f, 0.6f, 0.57f, 1};
    std::string texture; // id
    Colour inner_colour = {0.78f, 0.77f, 0.75f, 1};
    std::string inner_texture; // id
    float texture_size = 1;    // m
    float shine = 0.15f;

    int clip_body = 0; // of the clip's; 0: all
    bool operator==(const Breakable&) const = default;
};

/// Pieces that stand in its reach stay put.
struct Pin : Reach {
    bool operator==(const Pin&) const = default;
};

/// A pressure from the middle of its reach.
struct Blast : Reach {
    float speed = 6;        // m/s
    float damage = 500;     // kPa
    std::string set_off_by; // id of what has a place; empty: the times below
    float within = 0.5f;    // m
    float first = 1;        // s
    float every = 0;        // s; 0: once
    bool operator==(const Blast&) const = default;
};

enum class ZoneFate { doze, park, clear, call_back };

/// Does something to slow pieces in its reach.
struct CleanupZone : Reach {
    ZoneFate fate = ZoneFate::park;
    float below_speed = 0.3f; // m/s
    bool operator==(const CleanupZone&) const = default;
};

/// Throws breakables in.
struct Dropper : Place {
    std::string drops; // id of a breakable
    float first = 0;
    float every = 2;
    Vec3 spread = {0.5f, 0, 0.5f}; // m
    bool turns_any_way = true;
    Vec3 velocity;
    bool operator==(const Dropper&) const = default;
};

} // namespace ember
