#include "core/debris/rigid_inside.h"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace ember {

namespace {

// Corners that are enough for a piece to tumble on; more only cost.
constexpr int most_corners = 32;

std::vector<btVector3> thinned(const std::vector<btVector3>& corners) {
    if (corners.size() <= size_t(most_corners)) {
        return corners;
    }
    std::vector<char> is_kept(corners.size());
    for (int i = 0; i < most_corners; ++i) {
        // Even over a ball (A. Gonzalez, "Measurement of Areas on a Sphere Using Fibonacci", 2010).
        const float y = 1 - 2 * (float(i) + 0.5f) / float(most_corners), turn = float(i) * 2.3999632f;
        const float across = std::sqrt(1 - y * y);
        const btVector3 way(across * std::cos(turn), y, across * std::sin(turn));
        const auto far = std::max_element(corners.begin(), corners.end(), [&](const auto& a, const auto& b) {
            return a.dot(way) < b.dot(way);
        });
        is_kept[size_t(far - corners.begin())] = 1;
    }
    std::vector<btVector3> kept;
    for (size_t i = 0; i < corners.size(); ++i) {
        if (is_kept[i] != 0) {
            kept.push_back(corners[i]);
        }
    }
    return kept;
}

} // namespace

// --- the stage

namespace {

// Heights over even places, x fastest, as two triangles each.
std::shared_ptr<btCollisionShape> heights_shape(const ColliderRow& row) {
    const int wide = int(row.grid_cells.x), deep = int(row.grid_cells.z);
    float low = row.grid[0], high = row.grid[0];
    for (int i = 0; i < wide * deep; ++i) {
        low = std::min(low, row.grid[i]);
        high = std::max(high, row.grid[i]);
    }
    auto shape = std::make_shared<btHeightfieldTerrainShape>(wide, deep, row.grid, 1.0f, low, high, 1,
                                                             PHY_FLOAT, false);
    shape->setLocalScaling({1 / row.per_cell.x, 1, 1 / row.per_cell.z});
    return shape;
}

std::shared_ptr<btTriangleIndexVertexArray> triangles_of(const Mesh& mesh) {
    // The library takes them as not constant, and does not change them.
    auto* corners = const_cast<float*>(&mesh.corners.front().x);
    auto* indices = reinterpret_cast<int*>(const_cast<uint32_t*>(mesh.triangles.front().data()));
    return std::make_shared<btTriangleIndexVertexArray>(int(mesh.triangles.size()), indices,
                                                        int(sizeof(mesh.triangles.front())),
                                                        int(mesh.corners.size()), corners, int(sizeof(Vec3)));
}

bool same_shape(const ColliderRow& a, const ColliderRow& b) {
    return a.kind == b.kind && a.half_size == b.half_size && a.grid == b.grid;
}

} // namespace

void RigidWorld::Inside::make(Collider& collider, const RigidCollider& now) {
    const ColliderRow& row = now.row;
    switch (row.kind) {
    case COLLIDER_PLANE:
        collider.shape = std::make_shared<btStaticPlaneShape>(btVector3(0, 1, 0), 0.0f);
        break;
    case COLLIDER_BALL:
        collider.shape = std::make_shared<btSphereShape>(row.half_size.x);
        break;
    case COLLIDER_CAPSULE:
        collider.shape = std::make_shared<btCapsuleShape>(row.half_size.x, 2 * row.half_size.y);
        break;
    case COLLIDER_CYLINDER:
        collider.shape =
            std::make_shared<btCylinderShape>(btVector3(row.half_size.x, row.half_size.y, row.half_size.x));
        break;
    case COLLIDER_HEIGHTS:
        collider.shape = heights_shape(row);
        break;
    case COLLIDER_DISTANCES:
        collider.triangles = triangles_of(*now.mesh);
        collider.shape = std::make_shared<btBvhTriangleMeshShape>(collider.triangles.get(), true);
        break;
    default:
        collider.shape = std::make_shared<btBoxShape>(bullet(row.half_size));
    }
    collider.from = now;
    collider.number = next_collider--;
    add(collider, bullet(now.from));
}

void RigidWorld::Inside::add(Collider& collider, const btTransform& at) {
    btRigidBody::btRigidBodyConstructionInfo info(0, nullptr, collider.shape.get());
    info.m_startWorldTransform = at;
    collider.body = std::make_unique<btRigidBody>(info);
    collider.body->setUserIndex(collider.number);
    collider.body->setUserPointer(&collider);
    world.addRigidBody(collider.body.get());
}

// At rest at first; also what is going to rest is added as what may move, since the library keeps it so.
void RigidWorld::Inside::add(Body& body, int number, const btTransform& at) {
    btRigidBody::btRigidBodyConstructionInfo info(body.is_fixed ? 0 : body.mass, nullptr, body.shape,
                                                  body.is_fixed ? btVector3(0, 0, 0) : body.inertia);
    info.m_startWorldTransform = at;
    body.met_at = at;
    body.body = std::make_unique<btRigidBody>(info);
    body.body->setUserIndex(number);
    body.body->setUserPointer(&body);
    if (!body.is_fixed) {
        body.body->setActivationState(DISABLE_DEACTIVATION); // rest is found here: see settle()
    }
    world.addRigidBody(body.body.get()); // which asks the filter about it
}

void RigidWorld::Inside::place(Collider& collider, const RigidCollider& now) {
    btRigidBody& body = *collider.body;
    const bool moves = !(now.from == now.to) && now.row.kind != COLLIDER_PLANE;
    const int flags = body.getCollisionFlags();
    constexpr int fixed = btCollisionObject::CF_STATIC_OBJECT, moved = btCollisionObject::CF_KINEMATIC_OBJECT;
    const int wanted = (flags & ~(fixed | moved)) | (moves ? moved : fixed);
    Placement to = now.to;
    if (now.row.kind == COLLIDER_HEIGHTS) {
        // The library's heights lie about their middle.
        float least = now.row.grid[0], most = now.row.grid[0];
        for (int i = 0; i < int(now.row.grid_cells.x * now.row.grid_cells.z); ++i) {
            least = std::min(least, now.row.grid[i]);
            most = std::max(most, now.row.grid[i]);
        }
        const Vec3 half = {0.5f * (now.row.grid_cells.x - 1) / now.row.per_cell.x, 0,
                           0.5f * (now.row.grid_cells.z - 1) / now.row.per_cell.z};
        to.position += to.axes.out(now.row.grid_low + half + Vec3{0, 0.5f * (least + most), 0});
    }
    const bool was_placed = !(collider.from.to == now.to) || wanted != flags;
    is_disturbed = is_disturbed || moves || was_placed;
    if (was_placed && !moves) {
        wake_on(collider);
    }
    body.setCollisionFlags(wanted);
    if (moves) {
        // The library takes the velocity from where it was and where it is.
        body.setInterpolationWorldTransform(bullet(now.from));
        body.setActivationState(DISABLE_DEACTIVATION);
    }
    body.setWorldTransform(bullet(to));
    if (!moves) {
        body.forceActivationState(ISLAND_SLEEPING);
        body.setInterpolationWorldTransform(bullet(to));
        body.setLinearVelocity({0, 0, 0});
        body.setAngularVelocity({0, 0, 0});
    }
    if (was_placed || moves) {
        world.updateSingleAabb(&body);
    }
    if (was_placed && !moves) {
        wake_on(collider);
    }
    body.setFriction(now.row.friction);
    body.setRestitution(now.row.bounce);
    collider.from = now;
}

// --- the world

RigidWorld::RigidWorld() : inside_(std::make_unique<Inside>()) {}
RigidWorld::~RigidWorld() = default;

int RigidWorld::add_hull(const std::vector<Vec3>& points) {
    Vec3 low = points.front(), high = low;
    for (const Vec3& p : points) {
        low = {std::min(low.x, p.x), std::min(low.y, p.y), std::min(low.z, p.z)};
        high = {std::max(high.x, p.x), std::max(high.y, p.y), std::max(high.z, p.z)};
    }
    const Vec3 size = high - low;
    const float margin = std::clamp(0.08f * std::min({size.x, size.y, size.z}), 0.0005f, 0.02f);
    btConvexHullComputer computer;
    const float shrunk = computer.compute(&points.front().x, sizeof(Vec3), int(points.size()), margin, 0.3f);
    std::vector<btVector3> corners;
    for (int i = 0; i < computer.vertices.size(); ++i) {
        corners.push_back(computer.vertices[i]);
    }
    if (shrunk < 0 || corners.size() < 4) { // too thin to be made smaller
        corners.clear();
        for (const Vec3& p : points) {
            corners.push_back(bullet(p));
        }
    }
    auto shape = std::make_shared<btConvexHullShape>();
    for (const btVector3& corner : thinned(corners)) {
        shape->addPoint(corner, false);
    }
    shape->recalcLocalAabb();
    shape->setMargin(std::max(shrunk, 0.0005f));
    inside_->hulls[inside_->next_hull] = std::move(shape);
    return inside_->next_hull++;
}

void RigidWorld::remove_hull(int hull) {
    inside_->hulls.erase(hull);
}

int RigidWorld::next_body() const {
    return inside_->next_body;
}

int RigidWorld::add_body(const RigidBody& body) {
    auto made = std::make_unique<Inside::Body>();
    made->principal.setIdentity();
    made->inertia = {0, 0, 0};
    for (const RigidPart& part : body.parts) {
        made->mass += part.mass;
        made->tags.push_back(part.tag);
    }
    if (body.parts.size() == 1 && body.parts[0].offset == Vec3()) {
        made->shape = inside_->hulls.at(body.parts[0].hull).get();
        made->shape->calculateLocalInertia(made->mass, made->inertia);
    } else {
        auto compound = std::make_shared<btCompoundShape>(true, int(body.parts.size()));
        std::vector<float> masses;
        for (const RigidPart& part : body.parts) {
            btTransform place = btTransform::getIdentity();
            place.setOrigin(bullet(part.offset));
            compound->addChildShape(place, inside_->hulls.at(part.hull).get());
            masses.push_back(part.mass);
        }
        compound->calculatePrincipalAxisTransform(masses.data(), made->principal, made->inertia);
        // The centre of mass is where the caller says it is; only the turn is taken.
        made->principal.setOrigin({0, 0, 0});
        const btTransform back = made->principal.inverse();
        for (int i = 0; i < compound->getNumChildShapes(); ++i) {
            compound->updateChildTransform(i, back * compound->getChildTransform(i), false);
        }
        compound->recalculateLocalAabb();
        made->shape = compound.get();
        made->compound = std::move(compound);
    }
    made->is_fixed = body.is_fixed;
    made->stirs = length(body.velocity);
    const int number = inside_->next_body++;
    Inside::Body& kept = *(inside_->bodies[number] = std::move(made));
    inside_->add(kept, number, bullet(body.placement) * kept.principal);
    kept.body->setLinearVelocity(bullet(body.velocity));
    kept.body->setAngularVelocity(bullet(body.spin));
    inside_->is_disturbed = true;
    set_surface(number, body.bounce, body.friction, body.rest_speed);
    return number;
}

void RigidWorld::remove_body(int body) {
    btVector3 low, high;
    inside_->at(body).body->getAabb(low, high);
    inside_->wake_near(low, high, HUGE_VALF); // what may have lain on it
    inside_->world.removeRigidBody(inside_->at(body).body.get());
    inside_->bodies.erase(body);
    inside_->is_disturbed = true;
}

Placement RigidWorld::placement(int body) const {
    const Inside::Body& one = inside_->at(body);
    return ours(one.body->getWorldTransform() * one.principal.inverse());
}

Vec3 RigidWorld::velocity(int body) const {
    return ours(inside_->at(body).body->getLinearVelocity());
}

Vec3 RigidWorld::spin(int body) const {
    return ours(inside_->at(body).body->getAngularVelocity());
}

Vec3 RigidWorld::velocity_before(int body) const {
    return ours(inside_->at(body).velocity_before);
}

Vec3 RigidWorld::spin_before(int body) const {
    return ours(inside_->at(body).spin_before);
}

void RigidWorld::set_velocity(int body, const Vec3& velocity, const Vec3& spin) {
    btRigidBody& one = *inside_->at(body).body;
    inside_->at(body).pushed = bullet(velocity) - one.getLinearVelocity();
    one.setLinearVelocity(bullet(velocity));
    one.setAngularVelocity(bullet(spin));
}

void RigidWorld::push(int body, const Vec3& impulse, const Vec3& place) {
    Inside::Body& pushed = inside_->at(body);
    inside_->wake(pushed);
    btRigidBody& one = *pushed.body;
    one.applyImpulse(bullet(impulse), bullet(place) - one.getWorldTransform().getOrigin());
    pushed.stirs = std::max(pushed.stirs, float(one.getLinearVelocity().length()));
}

float RigidWorld::mass(int body) const {
    return inside_->at(body).mass;
}

bool RigidWorld::is_awake(int body) const {
    const Inside::Body& one = inside_->at(body);
    return !one.is_fixed && !one.rests;
}

void RigidWorld::wake(int body) {
    inside_->wake(inside_->at(body));
}

void RigidWorld::doze(int body) {
    inside_->rest(inside_->at(body));
}

void RigidWorld::set_surface(int body, float bounce, float friction, float rest_speed) {
    btRigidBody& one = *inside_->at(body).body;
    one.setRestitution(bounce);
    one.setFriction(friction);
    inside_->at(body).rest_speed = rest_speed;
}

void RigidWorld::set_colliders(std::span<const RigidCollider> colliders, bool asks_again) {
    for (auto& [id, collider] : inside_->colliders) {
        collider.is_asked = false;
    }
    for (const RigidCollider& now : colliders) {
        auto [place, is_new] = inside_->colliders.try_emplace(now.id);
        Inside::Collider& collider = place->second;
        if (!is_new && (asks_again || !same_shape(collider.from.row, now.row))) {
            inside_->wake_on(collider);
            inside_->world.removeRigidBody(collider.body.get());
            is_new = true;
        }
        if (is_new) {
            inside_->make(collider, now);
            inside_->is_disturbed = true;
        }
        inside_->place(collider, now);
        collider.is_asked = true;
    }
    std::erase_if(inside_->colliders, [&](const auto& entry) {
        if (!entry.second.is_asked) {
            inside_->is_disturbed = true;
            inside_->wake_on(entry.second);
            inside_->world.removeRigidBody(entry.second.body.get());
        }
        return !entry.second.is_asked;
    });
}

void RigidWorld::set_filter(const RigidFilter& filter) {
    inside_->pairs.filter = filter;
}

void RigidWorld::step(double step_s) {
    const bool any_moves = std::any_of(inside_->bodies.begin(), inside_->bodies.end(), [](const auto& entry) {
        return !entry.second->is_fixed && !entry.second->rests;
    });
    if (!any_moves && !std::exchange(inside_->is_disturbed, false)) {
        inside_->contacts.clear();
        inside_->strikes.clear();
        return; // all of it rests
    }
    inside_->is_disturbed = false;
    inside_->wake_what_is_touched(float(step_s));
    for (auto& [number, body] : inside_->bodies) {
        body->velocity_before = body->body->getLinearVelocity();
        body->spin_before = body->body->getAngularVelocity();
        body->met_at = body->body->getWorldTransform();
    }
    inside_->world.stepSimulation(float(step_s), 0);
    inside_->read_contacts();
    inside_->find_strikes();
    inside_->settle(float(step_s));
}

const std::vector<RigidContact>& RigidWorld::contacts() const {
    return inside_->contacts;
}

const std::vector<RigidContact>& RigidWorld::strikes() const {
    return inside_->strikes;
}

} // namespace ember
