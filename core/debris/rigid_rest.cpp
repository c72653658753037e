// Which bodies rest, and what wakes them.
//
// What rests stands as fast as the stage, each by itself: the library would let what touches sleep only
// together, and a heap would not rest while something is thrown onto it.
#include "core/debris/rigid_inside.h"

#include <set>

namespace ember {

void RigidWorld::Inside::rest(Body& body) {
    if (body.is_fixed || body.rests) {
        return;
    }
    body.rests = true;
    body.body->setLinearVelocity({0, 0, 0});
    body.body->setAngularVelocity({0, 0, 0});
    body.body->setInterpolationLinearVelocity({0, 0, 0});
    body.body->setInterpolationAngularVelocity({0, 0, 0});
    body.body->setMassProps(0, {0, 0, 0});
    body.body->forceActivationState(ISLAND_SLEEPING);
}

void RigidWorld::Inside::wake(Body& body) {
    if (body.is_fixed || !body.rests) {
        return;
    }
    body.rests = false;
    body.awake_s = 0;
    body.stirs = 0;
    body.body->setMassProps(body.mass, body.inertia);
    body.body->updateInertiaTensor();
    body.body->forceActivationState(DISABLE_DEACTIVATION);
    is_disturbed = true;
}

// Wakes what rests there, if something so fast comes, or goes.
void RigidWorld::Inside::wake_near(btVector3 low, btVector3 high, float speed) {
    struct Resting : btBroadphaseAabbCallback {
        btVector3 low, high;
        std::vector<Body*> found;
        bool process(const btBroadphaseProxy* proxy) override {
            const auto* object = static_cast<const btCollisionObject*>(proxy->m_clientObject);
            if (!is_body(object) || !body_of(object).rests) {
                return true;
            }
            // The library's own bounds are wider, by what came before.
            btVector3 own_low, own_high;
            body_of(object).body->getAabb(own_low, own_high);
            if (TestAabbAgainstAabb2(low, high, own_low, own_high)) {
                found.push_back(&body_of(object));
            }
            return true;
        }
    } resting;
    constexpr float near_m = 0.02f;
    const btVector3 margin(near_m, near_m, near_m);
    resting.low = low - margin;
    resting.high = high + margin;
    broadphase.aabbTest(resting.low, resting.high, resting);
    for (Body* body : resting.found) {
        if (speed > 2 * body->rest_speed) {
            wake(*body);
        }
    }
}

// What may lie on a collider that is put elsewhere, or goes.
void RigidWorld::Inside::wake_on(const Collider& collider) {
    btVector3 low, high;
    collider.body->getAabb(low, high);
    wake_near(low, high, HUGE_VALF);
}

// What moves wakes what it will come to in the step. A body that goes at the speed of rest does not.
void RigidWorld::Inside::wake_what_is_touched(float step_s) {
    for (auto& [number, body] : bodies) {
        if (body->is_fixed || body->rests || body->stirs <= 0) {
            continue;
        }
        btVector3 low, high;
        body->body->getAabb(low, high);
        const btVector3 way = body->body->getLinearVelocity() * step_s;
        low.setMin(low + way);
        high.setMax(high + way);
        wake_near(low, high, body->stirs);
    }
    for (auto& [id, collider] : colliders) {
        if (collider.body->isKinematicObject()) {
            btVector3 low, high;
            collider.body->getAabb(low, high);
            wake_near(low, high, HUGE_VALF);
        }
    }
}

// A body rests when it has been slow for a while and lies on nothing that has not.
void RigidWorld::Inside::settle(float step_s) {
    constexpr float slow_for_s = 0.5f, awake_for_s = 0.25f;
    for (auto& [number, body] : bodies) {
        if (body->is_fixed || body->rests) {
            continue;
        }
        const float speed = float(body->body->getLinearVelocity().length());
        const float spin = float(body->body->getAngularVelocity().length());
        const bool is_slow = speed <= body->rest_speed && spin <= 3 * body->rest_speed;
        btVector3 low, high;
        body->body->getAabb(low, high);
        const btVector3 half = (high - low) * 0.5f;
        body->stirs = speed + 0.5f * spin * float(half.length());
        body->slow_s = is_slow ? body->slow_s + step_s : 0;
        body->awake_s += step_s;
    }
    const auto is_unquiet = [&](const Body& body) {
        return !body.is_fixed && !body.rests &&
               (body.slow_s < slow_for_s - 1e-4f || body.awake_s < awake_for_s);
    };
    // `normal`: towards the first. What is pressed nowhere lies on all that it touches.
    const auto lies_on = [](const Body& body, const btVector3& normal) {
        constexpr float steep = 0.3f;
        const float push = float(body.pushed.length());
        return push < 1e-4f || float(normal.dot(body.pushed)) < -steep * push;
    };
    std::set<const Body*> held_awake, touching;
    for (int i = 0; i < dispatcher.getNumManifolds(); ++i) {
        const btPersistentManifold& manifold = *dispatcher.getManifoldByIndexInternal(i);
        if (manifold.getNumContacts() == 0) {
            continue;
        }
        const auto body_or_null = [](const btCollisionObject* object) {
            return is_body(object) ? &body_of(object) : nullptr;
        };
        const Body *one = body_or_null(manifold.getBody0()), *other = body_or_null(manifold.getBody1());
        touching.insert({one, other});
        if (one == nullptr || other == nullptr) {
            continue;
        }
        const btVector3& normal = manifold.getContactPoint(0).m_normalWorldOnB; // towards the one
        if (is_unquiet(*one) && lies_on(*other, -normal)) {
            held_awake.insert(other);
        }
        if (is_unquiet(*other) && lies_on(*one, normal)) {
            held_awake.insert(one);
        }
    }
    for (auto& [number, body] : bodies) {
        if (body->is_fixed || body->rests) {
            continue;
        }
        if (!is_unquiet(*body) && !held_awake.contains(body.get())) {
            rest(*body);
        } else if (body->slow_s > 0 && touching.contains(body.get())) {
            // Rubble does not roll on for ever: its edges take what little motion is left.
            constexpr float kept = 0.85f;
            body->body->setLinearVelocity(body->body->getLinearVelocity() * kept);
            body->body->setAngularVelocity(body->body->getAngularVelocity() * kept);
        }
    }
}

} // namespace ember
