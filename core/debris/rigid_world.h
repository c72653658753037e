// Rigid bodies in contact. Only this class's own files know the physics library (Bullet).
//
// Everything is done in a fixed order on one thread: the same calls give the same bytes.
//
//     RigidWorld world;
//     const int hull = world.add_hull(corners);
//     const int body = world.add_body({{{hull, {}, 0}}, 12, ...});
//     world.step(1.0 / 60);
//     const Placement now = world.placement(body);
#pragma once

#include "core/base/axes.h"
#include "core/geometry/mesh.h"
#include "kernels/rows.h"

#include <memory>
#include <span>
#include <string>
#include <vector>

namespace ember {

/// A convex part of a body.
struct RigidPart {
    int hull = 0;
    Vec3 offset;      // m, of the hull's zero from the body's centre of mass
    uint32_t tag = 0; // that contacts name it by
    float mass = 1;   // kg
};

struct RigidBody {
    std::vector<RigidPart> parts;
    Placement placement; // of the centre of mass
    Vec3 velocity, spin; // m/s, rad/s
    float bounce = 0, friction = 0.5f;
    float rest_speed = 0.15f; // m/s
    bool is_fixed = false;
};

/// A collider of the stage.
struct RigidCollider {
    std::string id;  // that it is known by from step to step
    int element = 0; // that contacts name it by
    ColliderRow row{};
    Placement from, to;               // at the ends of the step
    std::shared_ptr<const void> grid; // keeps what the row points to
    std::shared_ptr<const Mesh> mesh; // of a grid of distances, in the collider's own axes
};

/// What comes together more slowly rests (m/s).
constexpr float least_hit = 0.05f;

/// Something that pressed on a part of a body within a step.
struct RigidContact {
    int body = -1;
    uint32_t tag = 0;
    int other = -1;         // body, or -1
    uint32_t other_tag = 0; // of that body
    int collider = -1;      // element, or -1
    Vec3 place;             // m
    Vec3 normal;            // length 1, towards the body
    float impulse = 0;      // N s, along the normal
    Vec3 whole_impulse;     // N s, with friction
    float closing = 0;      // m/s with which they came together, before the step
};

/// Everything in a world that its next steps depend on, as plain data; shapes are shared, not copied.
struct RigidState;
size_t bytes_of(const RigidState& state);

/// Whether a body does not meet a collider; asked for each pair that comes near.
struct RigidFilter {
    bool (*passes)(const void* context, const std::string& collider, int body) = nullptr;
    const void* context = nullptr;
};

class RigidWorld {
  public:
    RigidWorld();
    /// Goes on as the world that the state was taken from does, to the byte.
    RigidWorld(const RigidState& state, const RigidFilter& filter);
    ~RigidWorld();
    RigidWorld(const RigidWorld&) = delete;

    std::shared_ptr<const RigidState> state() const;

    /// The convex hull of points (m), slightly smaller so that its margin does not keep it off what it lies
    /// on. Points need a volume.
    int add_hull(const std::vector<Vec3>& points);
    void remove_hull(int hull);

    /// The number that the next body will have; the filter is asked about it while it is added.
    int next_body() const;
    /// All parts need hulls that stay until the body is removed.
    int add_body(const RigidBody& body);
    void remove_body(int body);

    Placement placement(int body) const;
    Vec3 velocity(int body) const;
    Vec3 spin(int body) const;
    /// As they were when the last step began.
    Vec3 velocity_before(int body) const;
    Vec3 spin_before(int body) const;
    void set_velocity(int body, const Vec3& velocity, const Vec3& spin);
    /// At a place in the world; wakes the body.
    void push(int body, const Vec3& impulse, const Vec3& place);
    float mass(int body) const;
    bool is_awake(int body) const;
    void wake(int body);
    void doze(int body); // until something touches it
    void set_surface(int body, float bounce, float friction, float rest_speed);

    /// What stands on the stage during the coming step. `asks_again`: the filter says something else now.
    void set_colliders(std::span<const RigidCollider> colliders, bool asks_again = false);
    void set_filter(const RigidFilter& filter);

    void step(double step_s);

    /// Of the last step, in a fixed order; of both bodies where two meet. Bodies of one part are only told of
    /// what came faster than least_hit.
    const std::vector<RigidContact>& contacts() const;
    /// Fixed bodies that a moving collider runs into.
    const std::vector<RigidContact>& strikes() const;

  private:
    struct Inside;
    std::unique_ptr<Inside> inside_;
};

} // namespace ember
