// Colliders: what particles hit.
#pragma once

#include "core/effect/place.h"

namespace ember {

enum class OnHit { bounce, stick, die };

struct Surface : Reach {
    OnHit on_hit = OnHit::bounce;
    float bounce = 0.3f;
    float friction = 0.3f;
    float roughness = 0.1f;
    float blow = 100; // kg, behind what it strikes
    bool captured = true;
    bool visible = true;
    Colour colour = {0.2f, 0.19f, 0.18f, 1};
    bool operator==(const Surface&) const = default;
};

/// Solid below. Its turn is not used: the normal says which way it faces.
struct Plane : Surface, Place {
    Vec3 normal = {0, 1, 0};
    float mirror = 0;
    float puddles = 0.5f;
    bool operator==(const Plane&) const = default;
};

/// Solid inside.
struct Box : Surface, Place {
    Vec3 size = {1, 1, 1};
    bool operator==(const Box&) const = default;
};

struct Ball : Surface, Place {
    float radius = 0.5f;
    bool operator==(const Ball&) const = default;
};

/// Round at both ends; stands along its own y.
struct Capsule : Surface, Place {
    float radius = 0.25f;
    float length = 1; // between the middles of the two round ends
    bool operator==(const Capsule&) const = default;
};

/// Flat at both ends; stands along its own y.
struct Cylinder : Surface, Place {
    float radius = 0.25f;
    float length = 1;
    bool operator==(const Cylinder&) const = default;
};

enum class HeightsFrom { image, stage };

/// Ground whose height is read from a table: an image, or what stands on the stage.
/// What becomes of what goes over the edge of a height map.
enum class MapEdge { fall, stay, die };

struct HeightMap : Surface, Place {
    HeightsFrom from = HeightsFrom::image;
    std::string image;
    Vec3 size = {4, 0.5f, 4};
    int resolution = 128;
    MapEdge at_edge = MapEdge::fall;
    bool operator==(const HeightMap&) const = default;
};

/// Any closed mesh, as a grid of distances to its surface.
struct MeshCollider : Surface, Place {
    std::string mesh;
    float scale = 1;
    int resolution = 64;
    float area = 0; // 0: the whole mesh
    std::string area_rides_on;
    bool operator==(const MeshCollider&) const = default;
};

/// Particles of the linked sources hit one another.
struct Contacts : Reach {
    float radius_share = 1;
    float bounce = 0.5f;
    bool operator==(const Contacts&) const = default;
};

/// The pieces of breakables, as what particles of the linked sources hit.
struct PieceCollider : Reach {
    std::string of; // id of the breakable; empty: of all
    OnHit on_hit = OnHit::bounce;
    float bounce = 0.2f;
    float friction = 0.6f;
    float roughness = 0.2f;
    float push = 0; // kg, of each particle as pieces feel it
    bool operator==(const PieceCollider&) const = default;
};

} // namespace ember
