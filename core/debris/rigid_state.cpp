// A world as plain data, and a world from it.
//
// What the library keeps besides bodies are points of contact, from step to step, and its own lists, whose
// order comes from all that has happened. Points are copied; nothing here depends on the order of lists.
#include "core/debris/rigid_inside.h"

#include <BulletCollision/CollisionDispatch/btCompoundCollisionAlgorithm.h>
#include <BulletCollision/CollisionDispatch/btCompoundCompoundCollisionAlgorithm.h>
#include <BulletCollision/CollisionDispatch/btHashedSimplePairCache.h>

#include <tuple>

namespace ember {

struct RigidState {
    // In the order in which they came: of two that meet, the library names the older one first.
    struct Object {
        int order = 0;
        int body = -1; // its number; below 0: a collider
        RigidBodyState of_body;
        RigidColliderState of_collider;
        RigidMotion motion;
    };
    // Where two meet; bodies of several parts have one for each of them that meets.
    using Meeting = std::tuple<int, int, int, int>; // their numbers, and the parts; below 0: the only one
    std::vector<Object> objects;
    std::map<int, std::shared_ptr<btConvexHullShape>> hulls;
    std::map<Meeting, std::vector<btManifoldPoint>> points;
    int next_hull = 0, next_body = 0, next_collider = 0;
    bool is_disturbed = false;
};

namespace {

RigidMotion motion_of(const btRigidBody& object) {
    return {object.getWorldTransform(),
            object.getInterpolationWorldTransform(),
            object.getLinearVelocity(),
            object.getAngularVelocity(),
            object.getInterpolationLinearVelocity(),
            object.getInterpolationAngularVelocity(),
            object.getFriction(),
            object.getRestitution(),
            object.getCollisionFlags(),
            object.getActivationState()};
}

void set_motion(btRigidBody& object, const RigidMotion& motion) {
    object.setCollisionFlags(motion.flags);
    object.setWorldTransform(motion.at);
    object.updateInertiaTensor();
    object.setInterpolationWorldTransform(motion.foreseen);
    object.setLinearVelocity(motion.velocity);
    object.setAngularVelocity(motion.spin);
    object.setInterpolationLinearVelocity(motion.foreseen_velocity);
    object.setInterpolationAngularVelocity(motion.foreseen_spin);
    object.setFriction(motion.friction);
    object.setRestitution(motion.bounce);
    object.forceActivationState(motion.activation);
}

// Which parts of two bodies meet is known to the library alone, which hands it to nobody: a name given to an
// instantiation may be that of a private member.
template <auto Member>
struct Opened {
    friend btHashedSimplePairCache& parts_that_meet(btCompoundCompoundCollisionAlgorithm& of) {
        return *(of.*Member);
    }
};
btHashedSimplePairCache& parts_that_meet(btCompoundCompoundCollisionAlgorithm& of);
template struct Opened<&btCompoundCompoundCollisionAlgorithm::m_childCollisionAlgorithmCache>;

template <class Visit>
void each_meeting(btCollisionWorld& world, Visit visit) {
    btBroadphasePairArray& pairs = world.getPairCache()->getOverlappingPairArray();
    for (int p = 0; p < pairs.size(); ++p) {
        const btCollisionObject* objects[2] = {
            static_cast<const btCollisionObject*>(pairs[p].m_pProxy0->m_clientObject),
            static_cast<const btCollisionObject*>(pairs[p].m_pProxy1->m_clientObject)};
        const auto tell = [&](btCollisionAlgorithm* algorithm, int part, int other_part) {
            if (algorithm == nullptr) {
                return;
            }
            btManifoldArray found;
            algorithm->getAllContactManifolds(found);
            for (int i = 0; i < found.size(); ++i) {
                visit({number_of(objects[0]), number_of(objects[1]), part, other_part}, *found[i]);
            }
        };
        const bool has_parts[2] = {objects[0]->getCollisionShape()->isCompound(),
                                   objects[1]->getCollisionShape()->isCompound()};
        if ((!has_parts[0] && !has_parts[1]) || pairs[p].m_algorithm == nullptr) {
            tell(pairs[p].m_algorithm, -1, -1);
            continue;
        }
        if (has_parts[0] && has_parts[1]) {
            auto& both = *static_cast<btCompoundCompoundCollisionAlgorithm*>(pairs[p].m_algorithm);
            btSimplePairArray& parts = parts_that_meet(both).getOverlappingPairArray();
            for (int i = 0; i < parts.size(); ++i) {
                tell(static_cast<btCollisionAlgorithm*>(parts[i].m_userPointer), parts[i].m_indexA,
                     parts[i].m_indexB);
            }
            continue;
        }
        const auto* shape =
            static_cast<const btCompoundShape*>(objects[has_parts[0] ? 0 : 1]->getCollisionShape());
        const auto* parts = static_cast<const btCompoundCollisionAlgorithm*>(pairs[p].m_algorithm);
        for (int part = 0; part < shape->getNumChildShapes(); ++part) {
            tell(parts->getChildAlgorithm(part), part, -1);
        }
    }
}

} // namespace

size_t bytes_of(const RigidState& state) {
    size_t bytes = state.objects.size() * sizeof(RigidState::Object);
    for (const auto& [meeting, points] : state.points) {
        bytes += points.size() * sizeof(btManifoldPoint);
    }
    return bytes;
}

std::shared_ptr<const RigidState> RigidWorld::state() const {
    auto state = std::make_shared<RigidState>();
    Inside& inside = *inside_;
    state->hulls = inside.hulls;
    state->next_hull = inside.next_hull;
    state->next_body = inside.next_body;
    state->next_collider = inside.next_collider;
    state->is_disturbed = inside.is_disturbed;
    for (const auto& [number, body] : inside.bodies) {
        state->objects.push_back(
            {body->body->getBroadphaseHandle()->m_uniqueId, number, *body, {}, motion_of(*body->body)});
    }
    for (const auto& [id, collider] : inside.colliders) {
        state->objects.push_back(
            {collider.body->getBroadphaseHandle()->m_uniqueId, -1, {}, collider, motion_of(*collider.body)});
    }
    std::sort(state->objects.begin(), state->objects.end(),
              [](const auto& a, const auto& b) { return a.order < b.order; });
    each_meeting(inside.world, [&](const RigidState::Meeting& meeting, btPersistentManifold& found) {
        for (int i = 0; i < found.getNumContacts(); ++i) {
            state->points[meeting].push_back(found.getContactPoint(i));
        }
    });
    return state;
}

RigidWorld::RigidWorld(const RigidState& state, const RigidFilter& filter) : RigidWorld() {
    Inside& inside = *inside_;
    inside.pairs.filter = filter;
    inside.hulls = state.hulls;
    inside.next_hull = state.next_hull;
    inside.next_body = state.next_body;
    inside.next_collider = state.next_collider;
    inside.is_disturbed = state.is_disturbed;
    // What meets is looked for once more as things stood when it was last found, so that there is a place for
    // each point that is known.
    for (const RigidState::Object& object : state.objects) {
        if (object.body >= 0) {
            auto& body = inside.bodies[object.body] = std::make_unique<Inside::Body>();
            static_cast<RigidBodyState&>(*body) = object.of_body;
            inside.add(*body, object.body, object.of_body.met_at);
        } else {
            Inside::Collider& collider = inside.colliders[object.of_collider.from.id];
            static_cast<RigidColliderState&>(collider) = object.of_collider;
            inside.add(collider, object.motion.at);
        }
    }
    inside.world.performDiscreteCollisionDetection();
    each_meeting(inside.world, [&](const RigidState::Meeting& meeting, btPersistentManifold& found) {
        found.clearManifold();
        const auto known = state.points.find(meeting);
        if (known != state.points.end()) {
            found.setNumContacts(int(known->second.size()));
            for (int i = 0; i < found.getNumContacts(); ++i) {
                found.getContactPoint(i) = known->second[size_t(i)];
            }
        }
    });
    for (const RigidState::Object& object : state.objects) {
        if (object.body < 0) {
            btRigidBody& collider = *inside.colliders.at(object.of_collider.from.id).body;
            set_motion(collider, object.motion);
            inside.world.updateSingleAabb(&collider);
            continue;
        }
        Inside::Body& body = inside.at(object.body);
        if (body.rests) {
            body.body->setMassProps(0, {0, 0, 0});
        }
        set_motion(*body.body, object.motion);
        inside.world.updateSingleAabb(body.body.get());
    }
}

} // namespace ember
