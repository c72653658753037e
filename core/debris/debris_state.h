// What is kept of the pieces of breakables from step to step: plain values that can be copied, beside the
// world that their bodies are in.
#pragma once

#include "core/cutting/cut.h"
#include "core/scene/debris_meter.h"
#include "core/scene/prepared.h"

#include <array>
#include <deque>
#include <map>
#include <memory>
#include <set>
#include <string>
#include <tuple>
#include <vector>

namespace ember {

/// Something that happened to a piece, in a fixed order.
struct PieceEvent {
    Vec3 place, velocity; // m, m/s
    Vec3 normal;          // of the face, or of what was hit; length 1
    float strength = 0;   // of a hit, m/s; of what comes off, the area laid open, m^2; of what comes apart,
                          // the load, kPa
    uint32_t number = 0;  // the same for no other event of its kind for long
    std::shared_ptr<const Cut> cut; // of what comes off or apart
    std::vector<uint32_t> faces;    // the bonds of the cut that this laid open
    Placement whole;                // where the whole's zero was then
};

/// `broken`: what comes off, one for each part but the largest. `apart`: one for each body that comes apart.
/// `moving`: every awake loose piece, if an emitter asks.
struct PieceEvents {
    std::vector<PieceEvent> broken, apart, hits, rests, cleared, moving;
};

} // namespace ember

namespace ember::debris {

/// Where a piece is; up to parked it is there.
enum class PieceState : uint8_t { physics, light, parked, clearing, gone };

struct Piece {
    uint32_t cut_piece = 0;
    uint32_t number = 0; // of the breakable's pieces
    PieceState state = PieceState::physics;
    bool is_pinned = false;
    bool is_loose = false; // it is no longer part of what stood or was dropped
    int body = -1;         // while it is in the physics
    Placement placement;   // of its middle, once it is not
    Vec3 velocity, spin;   // while it is light
    double slow_s = -1;    // the same: since when
    double born_s = 0;     // when it became loose
    double rest_s = -1;    // since when it rests; negative: it moves
    double clear_s = 0;    // when its clearing began
    float clear_for_s = 0;
};

struct Instance {
    uint32_t number = 0;
    bool stands = false; // put up, not dropped
    std::shared_ptr<const Cut> cut;
    Placement whole; // where the cut's zero was put
    std::vector<Piece> pieces;
    std::vector<char> broken; // bonds: 1 broken, 2 told of as well
};

struct Body {
    std::string breakable;
    uint32_t instance = 0;
    std::vector<uint32_t> pieces; // of the instance
    Vec3 middle;                  // of its mass, in the cut's axes
    bool is_fixed = false;
    double slow_s = -1;      // since when
    Vec3 pushed;             // m/s that forces gave it in this step
    bool is_checked = false; // whether it holds its own weight
};

struct GridMesh {
    std::shared_ptr<const GridTable> grid;
    std::shared_ptr<const Mesh> mesh;
};

struct Hulls {
    std::shared_ptr<const Cut> cut;
    std::vector<int> of_piece;
};

struct Source {
    std::shared_ptr<const Cut> cut; // that new instances have
    std::deque<Instance> instances; // in order of their numbers
    uint32_t next_instance = 0, next_piece = 0;
    uint64_t refused = 0; // pieces that there was no room for
    size_t live = 0;      // pieces in physics or parked, loose or not
    double stood_s = 0;   // when it was put up last
    bool has_pins = false;
    std::array<float, 4> numbers{}; // that its bodies were told
    CutFacts facts;
    std::vector<float> lingered; // s, of the last pieces that went
};

// What a zone, or a breakable's own rules, took.
struct Tally {
    size_t taken = 0;
    std::array<size_t, 10> lately{}; // in each of the last seconds
    int64_t second = 0;
    double ms = 0; // of the last step

    void take(size_t pieces, double now_s);
    size_t taken_lately(double now_s) const;
};

// A body, a piece of it, and what that meets: another body and its piece, or a collider by its id.
using Meeting = std::tuple<int, uint32_t, int, uint32_t, std::string>;

struct State {
    std::map<std::string, Source> sources;
    std::map<int, Body> bodies;
    std::vector<Hulls> hulls;
    std::map<std::string, GridMesh> grid_meshes; // of mesh colliders, by id
    std::map<std::string, Tally> tallies;        // by the ids of zones and breakables
    std::set<Meeting> meetings, met_before;      // of the last step, and of the one before
    std::map<std::string, PieceEvents> events;
    std::map<std::string, std::map<std::string, float>> collider_links; // weights, by collider, breakable
    EffectPtr given;  // as the artist had it in the last step
    double now_s = 0; // at its end
};

} // namespace ember::debris
