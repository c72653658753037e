// The breakables of an effect: what stands and falls, breaks, comes to rest and goes again.
//
// A breakable stands, or is dropped, as many bodies as do not hang together; a body that comes apart is
// replaced by smaller ones that go on with its motion. Pieces at rest cost nothing; cleanup takes them out of
// the physics, then out of the picture.
#pragma once

#include "core/blocks/block_kernels.h"
#include "core/debris/debris_state.h"
#include "core/debris/frame_debris.h"
#include "core/debris/piece_push.h"
#include "core/debris/rigid_world.h"
#include "core/scene/meters.h"
#include "core/scene/program.h"
#include "core/scene/trigger_call.h"

#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace ember {

class Debris {
  public:
    Debris();
    ~Debris();
    Debris(Debris&&) noexcept;
    Debris& operator=(Debris&&) noexcept;

    /// All that the next steps depend on.
    struct Kept;
    std::shared_ptr<const Kept> kept() const;
    /// Goes on as what was kept did, to the byte.
    void restore(const Kept& kept);
    static size_t bytes(const Kept& kept);
    /// What is held now, in plain data.
    size_t bytes() const;

    /// What a step needs of its surroundings.
    struct Scene {
        const EffectPtr& given; // before drives
        const PreparedEffect& prepared;
        const WindowGrids& windows;
        const StepTime& time;
        const StepPlacements& placed;
        const BlockKernels& kernels;
        const std::vector<TriggerCall>& calls;
        const std::vector<size_t>& blasts; // that go off, by their elements' indices
        bool cleans = true;                // whether zones and rules take pieces
    };
    void step(const Scene& scene, Meters& meters);
    /// What hits pieces after they have moved; felt in the next step. In the order in which it is given.
    void feel(const PreparedEffect& prepared, std::span<const PiecePush> pushes);

    /// Of the last step, by the breakable's id.
    const std::map<std::string, PieceEvents>& events() const { return state_.events; }

    void write(const PreparedEffect& prepared, std::vector<FrameDebris>& out) const;
    void clear();

    /// How far the nearest of a breakable's bodies is from a place (m); nothing if it has none.
    std::optional<float> distance_to(const std::string& id, const Vec3& place) const;

    /// For tests: a place in the world and the mass of what moves.
    struct Moving {
        Vec3 place, velocity;
        float mass;
        size_t pieces;
        bool is_fixed, is_awake;
    };
    std::vector<Moving> bodies(const std::string& id) const;

  private:
    void tell_savings(const Scene& scene, Meters& meters);

    debris::State state_;
    std::unique_ptr<RigidWorld> world_; // null while nothing can break
    double piece_ms_ = 0;               // what a moving piece costs in a step, lately
};

} // namespace ember
