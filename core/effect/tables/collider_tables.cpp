// Colliders: everything an artist can turn, a line each.
#include "core/effect/tables/rows.h"

namespace ember::tables {

namespace {

constexpr std::array<std::string_view, 2> heights_froms = {"image", "stage"};
constexpr std::array<std::string_view, 1> height_endings = {"png"};
constexpr std::array<std::string_view, 1> every_breakable = {"all"};
constexpr std::array<std::string_view, 3> map_edges = {"fall", "stay", "die"};

// clang-format off: a table reads best with a row a line.

// What all solid colliders share, behind the rows of their own.
template <class T, size_t Size>
constexpr auto solid_table(const std::array<Parameter, Size>& own) {
    return joined(own, hit_rows<T>(), surface_rows<T>(), reach_rows<T>());
}
template <class T, size_t Size>
constexpr auto placed_table(const std::array<Parameter, Size>& own) {
    return joined(place_rows<T>(), own, hit_rows<T>(), surface_rows<T>(), reach_rows<T>());
}

constexpr auto is_mirror = [](const Plane& plane) { return plane.mirror > 0; };

constexpr auto plane_table = solid_table<Plane>(std::array{
    row<Plane, &Plane::position>({"position", "Position", "Place", "m", "A point of the plane."}, anywhere),
    row<Plane, &Plane::normal>(
        {"normal", "Normal", "Place", "",
         "The direction that is free; the other side is solid. Only the direction counts."},
        axis),
    names<Plane, &Plane::rides_on>(ParameterKind::place,
                                   {"rides_on", "Rides on", "Place", "",
                                    "A mover, or another element with a place, that carries it along."}),
    row<Plane, &Plane::mirror>(
        {"mirror", "Mirror", "Mirror", "",
         "How strongly it mirrors what stands and flies above it, like wet ground or still water."},
        share),
    when<Plane, is_mirror>(
        row<Plane, &Plane::puddles>({"puddles", "Puddles", "Mirror", "",
                                     "0 mirrors evenly; 1 only in puddles, with dry ground between them."},
                                    share)),
});

constexpr auto box_table = placed_table<Box>(std::array{
    row<Box, &Box::size>({"size", "Extent", "Place", "m", "Length of the box along its own x, y and z."},
                         lengths),
});

constexpr auto ball_table = placed_table<Ball>(std::array{
    row<Ball, &Ball::radius>({"radius", "Radius", "Place", "m", "Radius of the ball."}, lengths),
});

constexpr auto capsule_table = placed_table<Capsule>(std::array{
    row<Capsule, &Capsule::radius>(
        {"radius", "Radius", "Place", "m", "Radius of the capsule and of its round ends."}, lengths),
    row<Capsule, &Capsule::length>(
        {"length", "Length", "Place", "m", "Between the middles of the two round ends."}, lengths),
});

constexpr auto cylinder_table = placed_table<Cylinder>(std::array{
    row<Cylinder, &Cylinder::radius>({"radius", "Radius", "Place", "m", "Radius of the cylinder."}, lengths),
    row<Cylinder, &Cylinder::length>({"length", "Length", "Place", "m", "From one flat end to the other."},
                                     lengths),
});

constexpr auto from_image = [](const HeightMap& h) { return h.from == HeightsFrom::image; };
constexpr auto from_stage = [](const HeightMap& h) { return h.from == HeightsFrom::stage; };

constexpr auto height_map_table = placed_table<HeightMap>(std::array{
    row<HeightMap, &HeightMap::from>({"from", "Heights from", "Place", "",
                                      "image: bright is high. stage: what stands on the stage, seen from "
                                      "above; one height for each place in place of many colliders."},
                                     {}, heights_froms),
    when<HeightMap, from_image>(names<HeightMap, &HeightMap::image>(
        ParameterKind::file,
        {"image", "Image", "Place", "", "A PNG file of 8 or 16 bits, beside the effect file."},
        height_endings)),
    fixed(row<HeightMap, &HeightMap::size>(
        {"size", "Extent", "Place", "m",
         "How long and wide the area is, and how high white stands above black. "
         "While it rides on a mover, the area stays centred on it."},
        lengths)),
    when<HeightMap, from_stage>(row<HeightMap, &HeightMap::resolution>(
        {"resolution", "Resolution", "Place", "cells", "Cells along each side of the area."}, {16, 512})),
    row<HeightMap, &HeightMap::at_edge>({"at_edge", "At the edge", "Place", "",
                                         "What becomes of particles that go over the edge of the area. fall: "
                                         "nothing is under them any more. stay: the "
                                         "heights of the edge go on. die: they end."},
                                        {}, map_edges),
});

constexpr auto follows = [](const MeshCollider& m) { return m.area > 0; };

constexpr auto mesh_table = placed_table<MeshCollider>(std::array{
    names<MeshCollider, &MeshCollider::mesh>(
        ParameterKind::file,
        {"mesh", "Mesh", "Place", "",
         "A closed mesh (OBJ, PLY, STL, glTF), beside the effect file. An open one acts as a thin shell."},
        mesh_endings),
    fixed(row<MeshCollider, &MeshCollider::scale>(
        {"scale", "Scale", "Place", "\u00d7", "Factor on the size of the mesh."}, {0.0001, 10000, 0.1, 10})),
    row<MeshCollider, &MeshCollider::resolution>({"resolution", "Resolution", "Place", "cells",
                                                  "Cells along the longest side, of the mesh or of the area. "
                                                  "Finer holds smaller details and needs more memory."},
                                                 {8, 192}),
    fixed(row<MeshCollider, &MeshCollider::area>(
        {"area", "Area", "Place", "m",
         "Side of a cube outside of which the mesh is not felt, so that a large mesh costs no more than a "
         "small one; 0 keeps the whole mesh."},
        {0, 10000, 0, 20})),
    when<MeshCollider, follows>(names<MeshCollider, &MeshCollider::area_rides_on>(
        ParameterKind::place, {"area_rides_on", "Area follows", "Place", "",
                               "A mover, or another element with a place, that the area stays centred on; "
                               "otherwise the mesh's own middle."})),
});

constexpr auto contacts_table = joined(
    std::array{
        row<Contacts, &Contacts::radius_share>(
            {"radius_share", "Radius", "On a hit", "\u00d7", "Factor on the particles' own radius."},
            {0.01, 10, 0.1, 2}),
        row<Contacts, &Contacts::bounce>(
            {"bounce", "Bounce", "On a hit", "",
             "Share of the speed that comes back when two hit: 0 lands dead, 1 loses nothing."},
            share),
    },
    reach_rows<Contacts>());

constexpr auto piece_table = joined(
    std::array{
        names<PieceCollider, &PieceCollider::of>(
            ParameterKind::breakable,
            {"of", "Pieces of", "Pieces", "",
             "The breakable whose pieces are hit, standing or fallen, or those of all."},
            every_breakable),
        row<PieceCollider, &PieceCollider::push>(
            {"push", "Push", "Pieces", "kg",
             "How heavy each particle is for the pieces that it hits or lies on: a jet tips a block. "
             "0: they feel nothing."},
            {0, 1000, 0, 0.1}),
    },
    hit_rows<PieceCollider>(), reach_rows<PieceCollider>());

// clang-format on

} // namespace

std::span<const ElementType> collider_types() {
    static const std::array types = {
        ElementType{"plane", "Ground plane", "An endless flat surface to land and bounce on.", plane_table,
                    Plane{}},
        ElementType{"box", "Box", "A solid block: a wall, a step, a walkway.", box_table,
                    Box{{}, {{0, 0.5f, 0}, {}, {}}, {1, 1, 1}}},
        ElementType{"ball", "Ball", "A solid ball.", ball_table, Ball{{}, {{0, 0.5f, 0}, {}, {}}, 0.5f}},
        ElementType{"capsule", "Capsule", "A rod with round ends: a limb, a railing.", capsule_table,
                    Capsule{{}, {{0, 0.75f, 0}, {}, {}}, 0.25f, 1}},
        ElementType{"cylinder", "Cylinder", "A column, a drum, a wheel.", cylinder_table,
                    Cylinder{{}, {{0, 0.5f, 0}, {}, {}}, 0.25f, 1}},
        ElementType{"height-map", "Height map", "Uneven ground, from an image or captured from the stage.",
                    height_map_table, HeightMap{}},
        ElementType{"mesh", "Mesh", "Any closed shape, from a file.", mesh_table, MeshCollider{}},
        ElementType{"pieces", "Pieces", "Particles land on what has broken, and ride on it.", piece_table,
                    PieceCollider{}},
        ElementType{"contacts", "Contacts", "Particles hit one another.", contacts_table, Contacts{}},
    };
    return types;
}

} // namespace ember::tables
