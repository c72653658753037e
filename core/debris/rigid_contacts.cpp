// Where bodies touch: what is solved there, what is told of it, and what strikes those that do not move.
#include "core/debris/rigid_inside.h"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace ember {

void RigidWorld::Inside::World::solveConstraints(btContactSolverInfo& info) {
    btAlignedObjectArray<btCollisionObject*> moving;
    for (int i = 0; i < getNumCollisionObjects(); ++i) {
        if (is_awake(getCollisionObjectArray()[i])) {
            moving.push_back(getCollisionObjectArray()[i]);
        }
    }
    btAlignedObjectArray<btPersistentManifold*> meetings;
    for (int i = 0; i < getDispatcher()->getNumManifolds(); ++i) {
        btPersistentManifold* each = getDispatcher()->getManifoldByIndexInternal(i);
        if (each->getNumContacts() > 0 && (is_awake(each->getBody0()) || is_awake(each->getBody1()))) {
            meetings.push_back(each);
        }
    }
    if (moving.size() == 0) {
        return;
    }
    const auto key = [](const btPersistentManifold* each) {
        const btManifoldPoint& first = each->getContactPoint(0);
        return std::tuple(number_of(each->getBody0()), number_of(each->getBody1()), first.m_index0,
                          first.m_index1);
    };
    std::sort(&moving[0], &moving[0] + moving.size(),
              [](const auto* a, const auto* b) { return number_of(a) < number_of(b); });
    if (meetings.size() > 0) {
        std::sort(&meetings[0], &meetings[0] + meetings.size(),
                  [&](const auto* a, const auto* b) { return key(a) < key(b); });
    }
    m_constraintSolver->solveGroup(&moving[0], moving.size(), meetings.size() > 0 ? &meetings[0] : nullptr,
                                   meetings.size(), nullptr, 0, info, nullptr, getDispatcher());
}

void RigidWorld::Inside::read_contacts() {
    contacts.clear();
    const auto velocity_of = [&](const btCollisionObject* object, const btVector3& place) -> btVector3 {
        const auto* body = btRigidBody::upcast(object);
        const btVector3 arm = place - body->getWorldTransform().getOrigin();
        if (!is_body(object)) {
            return body->getLinearVelocity() + body->getAngularVelocity().cross(arm);
        }
        const Body& one = body_of(object);
        return one.velocity_before + one.spin_before.cross(arm);
    };
    const auto tag_of = [&](const btCollisionObject* object, int part) {
        const Body& body = body_of(object);
        return body.tags[part >= 0 && size_t(part) < body.tags.size() ? size_t(part) : 0];
    };
    for (int i = 0; i < dispatcher.getNumManifolds(); ++i) {
        const btPersistentManifold& manifold = *dispatcher.getManifoldByIndexInternal(i);
        const btCollisionObject* objects[2] = {manifold.getBody0(), manifold.getBody1()};
        if (!is_awake(objects[0]) && !is_awake(objects[1])) {
            continue; // what they were to one another before they came to rest
        }
        for (int k = 0; k < manifold.getNumContacts(); ++k) {
            const btManifoldPoint& point = manifold.getContactPoint(k);
            if (!(point.getAppliedImpulse() > 0)) {
                continue;
            }
            const btVector3 place = point.getPositionWorldOnB();
            const btVector3 apart = velocity_of(objects[0], place) - velocity_of(objects[1], place);
            const float closing = std::max(-float(apart.dot(point.m_normalWorldOnB)), 0.0f);
            const int parts[2] = {point.m_index0, point.m_index1};
            for (int side = 0; side < 2; ++side) {
                const btCollisionObject *one = objects[side], *other = objects[1 - side];
                if (!is_body(one) || (closing <= least_hit && body_of(one).tags.size() <= 1)) {
                    continue;
                }
                RigidContact& contact = contacts.emplace_back();
                contact.body = number_of(one);
                contact.tag = tag_of(one, parts[side]);
                if (is_body(other)) {
                    contact.other = number_of(other);
                    contact.other_tag = tag_of(other, parts[1 - side]);
                } else {
                    contact.collider = collider_of(other).from.element;
                }
                contact.place = ours(place);
                contact.normal = ours(point.m_normalWorldOnB) * (side == 0 ? 1.0f : -1.0f);
                contact.impulse = point.getAppliedImpulse();
                contact.whole_impulse = contact.normal * contact.impulse +
                                        ours(point.m_lateralFrictionDir1 * point.m_appliedImpulseLateral1) *
                                            (side == 0 ? 1.0f : -1.0f);
                contact.closing = closing;
            }
        }
    }
    std::stable_sort(contacts.begin(), contacts.end(), [](const RigidContact& a, const RigidContact& b) {
        return std::tie(a.body, a.tag, a.other, a.other_tag, a.collider) <
               std::tie(b.body, b.tag, b.other, b.other_tag, b.collider);
    });
}

namespace {

struct StrikeFinder : btCollisionWorld::ContactResultCallback {
    std::vector<RigidContact>* found = nullptr;
    const btCollisionObject* fixed = nullptr;
    const std::vector<uint32_t>* tags = nullptr;
    const btRigidBody* mover = nullptr;
    int element = 0; // the mover's

    btScalar addSingleResult(btManifoldPoint& point, const btCollisionObjectWrapper* a, int, int part_a,
                             const btCollisionObjectWrapper*, int, int part_b) override {
        const bool is_first = a->getCollisionObject() == fixed;
        const int part = is_first ? part_a : part_b;
        const btVector3 place = point.getPositionWorldOnB();
        const btVector3 normal = point.m_normalWorldOnB * (is_first ? 1.0f : -1.0f); // towards the fixed one
        const btVector3 arm = place - mover->getWorldTransform().getOrigin();
        const float closing =
            (mover->getLinearVelocity() + mover->getAngularVelocity().cross(arm)).dot(normal);
        if (closing <= 0 || point.getDistance() > 0.01f) {
            return 0;
        }
        RigidContact& strike = found->emplace_back();
        strike.body = number_of(fixed);
        strike.tag = (*tags)[part >= 0 && size_t(part) < tags->size() ? size_t(part) : 0];
        strike.collider = element;
        strike.place = ours(place);
        strike.normal = ours(normal);
        strike.closing = closing;
        return 0;
    }
};

} // namespace

// The library does not let fixed bodies and moved ones meet.
void RigidWorld::Inside::find_strikes() {
    strikes.clear();
    for (auto& [id, collider] : colliders) {
        if (!collider.body->isKinematicObject()) {
            continue;
        }
        btVector3 low, high;
        collider.shape->getAabb(collider.body->getWorldTransform(), low, high);
        for (auto& [number, body] : bodies) {
            if (!body->is_fixed ||
                (pairs.filter.passes != nullptr && pairs.filter.passes(pairs.filter.context, id, number))) {
                continue;
            }
            btVector3 body_low, body_high;
            body->body->getAabb(body_low, body_high);
            if (!TestAabbAgainstAabb2(low, high, body_low, body_high)) {
                continue;
            }
            StrikeFinder finder;
            finder.found = &strikes;
            finder.fixed = body->body.get();
            finder.tags = &body->tags;
            finder.mover = collider.body.get();
            finder.element = collider.from.element;
            world.contactPairTest(collider.body.get(), body->body.get(), finder);
        }
    }
}

} // namespace ember
