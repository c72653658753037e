// One step of breakables: its phases in their order, and what they share. See debris.h.
//
//     keep_only(...)        what is no longer there goes
//     raise, drop           what stands, returns or falls
//     pin, place_colliders, take_over_edits
//     push, blast           forces and blasts; then the bodies are stepped
//     fracture              hits, and what breaks
//     settle, move_light    what has come to rest; what goes on without a body
//     note_moving, clean    who is told of it; what is taken away
//     measure
#pragma once

#include "core/base/hash.h"
#include "core/debris/debris.h"

#include <algorithm>
#include <cmath>

namespace ember::debris {

// Purposes of hashed numbers.
enum : uint32_t { for_linger = 201, for_clearing, for_turn, for_place = 211, for_link = 221, for_strength };

inline float random_of(uint32_t seed, uint32_t number, uint32_t purpose) {
    return float(mixed_seed(mixed_seed(seed, number), purpose) >> 8) / 16777216.0f;
}

inline float drawn(const Range& range, uint32_t seed, uint32_t number, uint32_t purpose) {
    return range.low + (range.high - range.low) * random_of(seed, number, purpose);
}

// Whether what is slow since then is at rest.
inline bool has_rested(double slow_s, double now_s) {
    constexpr double rest_after_s = 0.5;
    return slow_s >= 0 && now_s - slow_s >= rest_after_s - 1e-6;
}

inline uint32_t seed_of(const Effect& effect, const std::string& id) {
    return mixed_seed(effect.seed, hash_of(id));
}

// What a bond holds, as a factor on the strength of its breakable: spread evenly by its logarithm about 1.
inline float strength_share(const Effect& effect, const std::string& id, const Breakable& breakable,
                            uint32_t instance, uint32_t bond) {
    const float drawn = random_of(mixed_seed(seed_of(effect, id), instance), bond, for_strength);
    return std::pow(1 + 4 * breakable.strength_spread, 2 * drawn - 1);
}

Placement whole_of(const State& state, const RigidWorld& world, int body);
/// `world` may be null while nothing has a body.
Placement placement_of(const State& state, const RigidWorld* world, const Instance& instance,
                       const Piece& piece);

struct Step {
    State& state;
    RigidWorld& world;
    const Debris::Scene& scene;
    const Effect& effect;
    double now_s;
    float step_s;
    const std::vector<Placement>&from, &to;        // of the elements
    std::map<std::string, SourceProgram> programs; // of the breakables

    size_t index_of(const std::string& id) const { return *scene.prepared.index_of(id); }
    const Breakable& breakable(const std::string& id) const {
        return std::get<Breakable>(effect.elements[index_of(id)].body);
    }
    // How many loose pieces a breakable may have; without cleanup far more, but no more than run at all.
    size_t capacity_of(const Breakable& breakable) const {
        constexpr int most_uncleaned = 4000;
        return size_t(scene.cleans ? breakable.capacity : std::max(breakable.capacity, most_uncleaned));
    }
    // Visits active influences of a kind with what they do to a breakable.
    template <class Body>
    void each(const std::string& breakable, auto visit) const {
        for (size_t i = 0; i < effect.elements.size(); ++i) {
            const auto* body = std::get_if<Body>(&effect.elements[i].body);
            const Link* link = body != nullptr ? find_link(effect.elements[i], breakable) : nullptr;
            if (link != nullptr && link->weight > 0 && is_active(effect, effect.elements[i])) {
                visit(i, *body, link->weight);
            }
        }
    }

    // Where the zero of a body's cut is.
    Placement whole_of(int body) const { return debris::whole_of(state, world, body); }
    Placement placement_of(const Instance& instance, const Piece& piece) const {
        return debris::placement_of(state, &world, instance, piece);
    }
    Instance& instance_of(const Body& body) const;
};

// debris_standing.cpp
void keep_only(State& state, RigidWorld* world, const PreparedEffect& prepared);
void raise(Step& step);
void drop(Step& step);
void take_over_edits(const Step& step);
int add_body(Step& step, const std::string& id, Instance& instance, std::vector<uint32_t> pieces,
             const Placement& whole, const Vec3& velocity, const Vec3& spin);
/// The piece leaves its body, which it was alone in, or which goes on without it.
void take_out(Step& step, Instance& instance, uint32_t index, PieceState state);

// debris_forces.cpp
void place_colliders(Step& step);
void push(Step& step);
bool is_in(const Step& step, const std::vector<ReachRow>& reaches, const Vec3& place);
/// Whether a body, by its number, passes a collider that is linked to it by a half; `context` is the State.
bool lets_through(const void* context, const std::string& collider, int number);

// debris_breaking.cpp
void pin(Step& step);
void blast(Step& step);
void fracture(Step& step);
std::optional<float> distance_to(const State& state, const RigidWorld& world, const std::string& id,
                                 const Vec3& place);

// debris_light.cpp
void lighten(Step& step);
void move_light(Step& step);

// debris_cleanup.cpp
void settle(Step& step);
void note_rest(const Step& step, const std::string& id, const Instance& instance, Piece& piece, bool rests,
               const Vec3& velocity);
void note_moving(const Step& step);
void clean(Step& step);
void leave(Step& step, const std::string& id, Instance& instance, uint32_t index, PieceState state);

// debris_measure.cpp
CutFacts facts_of(const Cut& cut);
void measure(Step& step, Meters& meters);

} // namespace ember::debris
