// The breakables of an effect: what stands and falls, breaks, comes to rest and goes again.
//
// A breakable stands, or is dropped, as many bodies as do not hang together; a body that comes apart is
// replaced by smaller ones that go on with its motion. Pieces at rest cost nothing; cleanup takes them out of
// the physics, then out of the picture.
#pragma once

#include "core/blocks/block_kernels.h"
#include "core/debris/frame_debris.h"
#include "core/debris/rigid_world.h"
#include "core/scene/debris_meter.h"
#include "core/scene/meters.h"
#include "core/scene/program.h"
#include "core/scene/trigger_call.h"

#include <deque>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <span>
#include <string>
#include <tuple>
#include <vector>

namespace ember {

/// Something that happened to a piece, in a fixed order.
struct PieceEvent {
    Vec3 place, velocity; // m, m/s
    Vec3 normal;          // of the face, or of what was hit; length 1
    float strength =
        0; // of a hit, m/s; of what comes off, the area laid open, m^2; of what comes apart, the load, kPa
    uint32_t number = 0;            // the same for no other event of its kind for long
    std::shared_ptr<const Cut> cut; // of what comes off or apart
    std::vector<uint32_t> faces;    // the bonds of the cut that this laid open
    Placement whole;                // where the whole's zero was then
};

/// `broken`: what comes off, one for each part but the largest. `apart`: one for each body that comes apart.
/// `moving`: every awake loose piece, if an emitter asks.
struct PieceEvents {
    std::vector<PieceEvent> broken, apart, hits, rests, cleared, moving;
};

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

    /// What a step needs of its surroundings.
    struct Scene {
        const EffectPtr& given; // before drives
        const PreparedEffect& prepared;
        const WindowGrids& windows;
        const StepTime& time;
        const StepPlacements& placed;
        const BlockKernels& kernels;
        const std::vector<TriggerCall>& calls;
        bool cleans = true; // whether zones and rules take pieces
    };
    void step(const Scene& scene, Meters& meters);

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
    enum class State : uint8_t { physics, light, parked, clearing, gone }; // up to parked: there
    struct Piece {
        uint32_t cut_piece = 0;
        uint32_t number = 0; // of the breakable's pieces
        State state = State::physics;
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
    struct Step; // what one step works with
    struct Zone; // of cleanup, as it stands

    void keep_only(const Scene& scene);
    void take_over_edits(const Step& step);
    void raise(Step& step);
    void drop(Step& step);
    void stand(Step& step, size_t element, const Placement& whole, bool stands, const Vec3& velocity);
    void pin(Step& step);
    void place_colliders(Step& step);
    void push(Step& step);
    void blast(Step& step);
    bool comes_near(const Step& step, size_t element, const Blast& blast);
    void blast_off(Step& step, const std::string& id, size_t element, const Blast& blast, float weight);
    void fracture(Step& step);
    void note_hits(const Step& step, int number, const std::vector<RigidContact>& met);
    void come_apart(Step& step, int body, const std::vector<RigidContact>& contacts);
    void share_out(Step& step, const Instance& instance, const std::vector<int>& parts,
                   const std::vector<RigidContact>& contacts, const std::optional<Vec3>& gained);
    void note_break(const std::string& id, Instance& instance, const std::vector<int>& parts,
                    const Placement& whole, const Vec3& velocity, float load_kpa);
    std::vector<int> regroup(Step& step, int number, const Vec3& velocity, const Vec3& spin);
    void settle(Step& step);
    void note_rest(const Step& step, const std::string& id, const Instance& instance, Piece& piece,
                   bool rests, const Vec3& velocity);
    struct Light {
        Instance* instance;
        Piece* piece;
        float foot;       // m, how far its lowest point is below its middle
        float impact = 0; // m/s, of the hardest of the step; tiny: it rests or slides
    };
    void lighten(Step& step);
    void move_light(Step& step);
    static void fill(std::span<const Light> lights, ParticleBlock& block);
    void land(Step& step, const std::string& id, const Light& light, const Vec3& foot, const Vec3& velocity);
    void note_moving(const Step& step);
    void clean(Step& step);
    void obey(Step& step);
    struct Subject; // of cleanup: a body, or a light piece
    State fate_of(Step& step, const std::string& id, const Subject& subject, const std::vector<Zone>& zones);
    void call_back(Step& step, const std::string& id, Instance& instance, uint32_t index);
    void clean_out_of_physics(Step& step, const std::string& id, Instance& instance,
                              const std::vector<Zone>& zones);
    void leave(Step& step, const std::string& id, Instance& instance, uint32_t index, State state);
    void hold_capacity(Step& step, const std::string& id, Source& source);
    void measure(Step& step, Meters& meters);
    void tell_savings(const Step& step, Meters& meters);

    int add_body(const std::string& id, const Breakable& breakable, Instance& instance,
                 std::vector<uint32_t> pieces, const Placement& whole, const Vec3& velocity,
                 const Vec3& spin);
    void take_out(Instance& instance, uint32_t piece, State state);
    static bool is_in(const Step& step, const std::vector<ReachRow>& reaches, const Vec3& place);
    static bool lets_through(const void* context, const std::string& collider, int number);
    Placement whole_of(int body) const;
    Placement placement_of(const Instance& instance, const Piece& piece) const;
    Instance& instance_of(const Body& body);
    const std::vector<int>& hulls_of(const std::shared_ptr<const Cut>& cut);

    // What is kept of the pieces, beside the world that their bodies are in.
    struct Data {
        std::map<std::string, Source> sources;
        std::map<int, Body> bodies;
        std::vector<Hulls> hulls;
        std::map<std::string, GridMesh> grid_meshes; // of mesh colliders, by id
        std::map<std::string, Tally> tallies;        // by the ids of zones and breakables
        std::set<Meeting> meetings, met_before;      // of the last step, and of the one before
        std::map<std::string, bool> were_near;       // what sets blasts off, by the blasts' ids
        std::map<std::string, PieceEvents> events;
        std::map<std::string, std::map<std::string, float>> collider_links; // weights, by collider, breakable
        EffectPtr given;  // as the artist had it in the last step
        double now_s = 0; // at its end
    };
    Data state_;
    std::unique_ptr<RigidWorld> world_; // null while nothing can break
    double piece_ms_ = 0;               // what a moving piece costs in a step, lately
};

} // namespace ember
