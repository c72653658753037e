// What a RigidWorld holds, in the physics library's own words: for its own files only.
#pragma once

#include "core/debris/rigid_world.h"

// The library's headers are not ours to warn about.
#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wall"
#pragma GCC diagnostic ignored "-Wextra"
#pragma GCC diagnostic ignored "-Wconversion"
#pragma GCC diagnostic ignored "-Wshadow"
#include <BulletCollision/CollisionShapes/btHeightfieldTerrainShape.h>
#include <LinearMath/btConvexHullComputer.h>
#include <btBulletDynamicsCommon.h>
#pragma GCC diagnostic pop

#include <algorithm>
#include <cmath>
#include <map>
#include <utility>

namespace ember {

inline btVector3 bullet(const Vec3& v) {
    return {v.x, v.y, v.z};
}
inline Vec3 ours(const btVector3& v) {
    return {v.x(), v.y(), v.z()};
}
inline btTransform bullet(const Placement& p) {
    const Axes& a = p.axes;
    const btMatrix3x3 turn(a.x.x, a.y.x, a.z.x, a.x.y, a.y.y, a.z.y, a.x.z, a.y.z, a.z.z);
    return btTransform(turn, bullet(p.position));
}
inline Placement ours(const btTransform& t) {
    const btMatrix3x3& m = t.getBasis();
    return {ours(t.getOrigin()), {ours(m.getColumn(0)), ours(m.getColumn(1)), ours(m.getColumn(2))}};
}

// Who an object is: bodies count from 0, colliders from -1 down.
inline int number_of(const btCollisionObject* object) {
    return object->getUserIndex();
}

inline float mean_of(float a, float b) {
    return std::sqrt(std::max(a, 0.0f) * std::max(b, 0.0f));
}

/// How an object stands and moves.
struct RigidMotion {
    btTransform at, foreseen; // now; as the library last foresaw it
    btVector3 velocity, spin, foreseen_velocity, foreseen_spin;
    float friction = 0, bounce = 0;
    int flags = 0, activation = 0;
};

/// A body but for the library's own object.
struct RigidBodyState {
    std::shared_ptr<btCollisionShape> compound; // null for one hull in its own axes
    btCollisionShape* shape = nullptr;
    btTransform principal; // from the axes that the library turns about to ours
    btTransform met_at;    // where it was when contacts were last looked for
    std::vector<uint32_t> tags;
    float mass = 0;
    btVector3 inertia;
    btVector3 velocity_before, spin_before; // the step
    btVector3 pushed = {0, 0, 0};           // m/s, what it was last given between two steps
    float rest_speed = 0;
    float stirs = 0;   // m/s, how fast it last went, or was pushed to go
    float slow_s = 0;  // since it was faster than its rest speed
    float awake_s = 0; // since it was woken
    bool is_fixed = false, rests = false;
};

/// The same of a collider.
struct RigidColliderState {
    std::shared_ptr<btTriangleIndexVertexArray> triangles; // that the shape reads
    std::shared_ptr<btCollisionShape> shape;
    RigidCollider from;
    int number = 0; // below 0
};

struct RigidWorld::Inside {
    struct Body : RigidBodyState {
        std::unique_ptr<btRigidBody> body;
    };
    struct Collider : RigidColliderState {
        std::unique_ptr<btRigidBody> body;
        bool is_asked = false;
    };
    // Which pairs are looked at: what can never move is not held against what can not either.
    struct Pairs : btOverlapFilterCallback {
        RigidFilter filter;
        bool needBroadphaseCollision(btBroadphaseProxy* a, btBroadphaseProxy* b) const override {
            const auto* one = static_cast<const btCollisionObject*>(a->m_clientObject);
            const auto* two = static_cast<const btCollisionObject*>(b->m_clientObject);
            if (is_body(one) && is_body(two)) {
                return !body_of(one).is_fixed || !body_of(two).is_fixed;
            }
            if (!is_body(one) && !is_body(two)) {
                return false;
            }
            const auto* body = is_body(one) ? one : two;
            const auto* collider = body == one ? two : one;
            return !body_of(body).is_fixed &&
                   (filter.passes == nullptr ||
                    !filter.passes(filter.context, collider_of(collider).from.id, number_of(body)));
        }
    };
    // Contacts are solved in the order of the numbers of what meets, and not in the order in which they came
    // about: that of a world that was made from a state is another.
    struct World : btDiscreteDynamicsWorld {
        using btDiscreteDynamicsWorld::btDiscreteDynamicsWorld;
        void calculateSimulationIslands() override {}
        void solveConstraints(btContactSolverInfo& info) override;
    };

    static bool is_body(const btCollisionObject* object) { return number_of(object) >= 0; }
    static Body& body_of(const btCollisionObject* object) {
        return *static_cast<Body*>(object->getUserPointer());
    }
    static Collider& collider_of(const btCollisionObject* object) {
        return *static_cast<Collider*>(object->getUserPointer());
    }

    btDefaultCollisionConfiguration configuration;
    btCollisionDispatcher dispatcher{&configuration};
    btDbvtBroadphase broadphase;
    btSequentialImpulseConstraintSolver solver;
    World world{&dispatcher, &broadphase, &solver, &configuration};
    Pairs pairs;

    std::map<int, std::shared_ptr<btConvexHullShape>> hulls;
    std::map<int, std::unique_ptr<Body>> bodies;
    std::map<std::string, Collider> colliders; // by id
    int next_hull = 0, next_body = 0, next_collider = -1;
    std::vector<RigidContact> contacts, strikes;
    bool is_disturbed = true; // what rests may move in the next step

    Inside() {
        world.setGravity({0, 0, 0});
        world.setForceUpdateAllAabbs(false);
        world.getPairCache()->setOverlapFilterCallback(&pairs);
        world.getDispatchInfo().m_allowedCcdPenetration = 1e-3f;
        world.getSolverInfo().m_numIterations = 10;
        world.getSolverInfo().m_splitImpulse = 1;
        world.getSolverInfo().m_splitImpulsePenetrationThreshold = -0.01f;
        world.getSolverInfo().m_restitutionVelocityThreshold = 0.3f;
        gCalculateCombinedFrictionCallback = [](const btCollisionObject* a, const btCollisionObject* b) {
            return mean_of(a->getFriction(), b->getFriction());
        };
        gCalculateCombinedRestitutionCallback = [](const btCollisionObject* a, const btCollisionObject* b) {
            return mean_of(a->getRestitution(), b->getRestitution());
        };
    }
    ~Inside() {
        for (auto& [number, body] : bodies) {
            world.removeRigidBody(body->body.get());
        }
        for (auto& [element, collider] : colliders) {
            world.removeRigidBody(collider.body.get());
        }
    }

    static bool is_awake(const btCollisionObject* object) {
        return is_body(object) ? !object->isStaticObject() : object->isKinematicObject();
    }
    void rest(Body& body);
    void wake(Body& body);
    void wake_near(btVector3 low, btVector3 high, float speed);
    void wake_on(const Collider& collider);
    void wake_what_is_touched(float step_s);
    void settle(float step_s);

    Body& at(int body) { return *bodies.at(body); }
    const Body& at(int body) const { return *bodies.at(body); }

    void add(Body& body, int number, const btTransform& at);
    void add(Collider& collider, const btTransform& at);
    void make(Collider& collider, const RigidCollider& now);
    void place(Collider& collider, const RigidCollider& now);
    void read_contacts();
    void find_strikes();
};

} // namespace ember
