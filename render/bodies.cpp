#include "render/bodies.h"

#include "core/base/hash.h"

#include <oneapi/tbb/parallel_for.h>
#include <oneapi/tbb/parallel_sort.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <numeric>
#include <tuple>

namespace ember {

namespace {

float random_part(uint32_t seed, uint32_t what) {
    return float(mixed_seed(seed, what) >> 8) / 16777216.0f;
}

// An icosahedron with corners pushed in and out.
Mesh pebble(uint32_t seed) {
    constexpr float ring = 0.4472136f,
                    wide = 0.8944272f; // of the two rings of five, 1 / sqrt 5 and twice that
    Mesh mesh = spindle(5, {{-ring, wide}, {ring, wide}}, -1, 1, 0, seed);
    for (int side = 0; side < 5; ++side) { // the upper ring lies between the corners of the lower one
        const float turn = (float(side) + 0.5f) * 2 * std::numbers::pi_v<float> / 5;
        mesh.corners[size_t(6 + side)] = {std::cos(turn) * wide, ring, std::sin(turn) * wide};
    }
    for (size_t i = 0; i < mesh.corners.size(); ++i) {
        Vec3& corner = mesh.corners[i];
        corner = corner * (0.75f + 0.25f * random_part(seed, uint32_t(i)));
        corner.y *= 0.7f;
    }
    return mesh;
}

} // namespace

Mesh spindle(int sides, const std::vector<std::array<float, 2>>& rings, float low, float high, float uneven,
             uint32_t seed) {
    Mesh mesh;
    mesh.corners.push_back({0, low, 0});
    for (size_t ring = 0; ring < rings.size(); ++ring) {
        for (int side = 0; side < sides; ++side) {
            const auto number = uint32_t(side);
            const float turn = (float(side) + uneven * (random_part(seed, number) - 0.5f)) * 2 *
                               std::numbers::pi_v<float> / float(sides);
            const float radius = rings[ring][1] * (1 - uneven * random_part(seed, number + 100));
            mesh.corners.push_back({std::cos(turn) * radius,
                                    rings[ring][0] + uneven * 0.3f * (random_part(seed, number + 200) - 0.5f),
                                    std::sin(turn) * radius});
        }
    }
    mesh.corners.push_back({0, high, 0});
    const auto at = [&](size_t ring, int side) {
        return uint32_t(1 + ring * size_t(sides) + size_t(side % sides));
    };
    const auto top = uint32_t(mesh.corners.size() - 1);
    for (int side = 0; side < sides; ++side) {
        mesh.triangles.push_back({0, at(0, side), at(0, side + 1)});
        mesh.triangles.push_back({top, at(rings.size() - 1, side + 1), at(rings.size() - 1, side)});
        for (size_t ring = 0; ring + 1 < rings.size(); ++ring) {
            mesh.triangles.push_back({at(ring, side), at(ring + 1, side), at(ring + 1, side + 1)});
            mesh.triangles.push_back({at(ring, side), at(ring + 1, side + 1), at(ring, side + 1)});
        }
    }
    return mesh;
}

Body body_of(const Mesh& mesh, bool to_unit_size, float sharp_degrees) {
    Body body;
    body.corners = mesh.corners;
    if (to_unit_size && !mesh.corners.empty()) {
        const Vec3 low = mesh.low(), size = mesh.high() - low;
        const float scale = 1 / std::max({size.x, size.y, size.z, 1e-9f});
        for (Vec3& corner : body.corners) {
            corner = (corner - low - size * 0.5f) * scale;
        }
    }
    // Sides of faces, by the corners that they lie between: those of two faces follow one another.
    struct Side {
        uint64_t corners;
        uint32_t face, opposite;
        bool operator<(const Side& other) const {
            return std::tie(corners, face) < std::tie(other.corners, other.face);
        }
    };
    std::vector<Side> sides;
    sides.reserve(mesh.triangles.size() * 3);
    std::vector<Vec3> crosses; // of the faces: as long as twice their areas
    body.faces.reserve(mesh.triangles.size());
    for (const auto& t : mesh.triangles) {
        BodyFace face{{t[0], t[1], t[2]}, {-1, -1, -1}, {}, {}};
        const Vec3& a = body.corners[t[0]];
        const Vec3 across = cross(body.corners[t[1]] - a, body.corners[t[2]] - a);
        face.normal = normalized(across, {0, 1, 0});
        for (uint32_t i = 0; i < 3; ++i) {
            const uint32_t from = t[(i + 1) % 3], to = t[(i + 2) % 3];
            sides.push_back(
                {uint64_t(std::min(from, to)) << 32 | std::max(from, to), uint32_t(body.faces.size()), i});
        }
        crosses.push_back(across);
        body.faces.push_back(face);
    }
    tbb::parallel_sort(sides.begin(), sides.end());
    for (size_t i = 0; i + 1 < sides.size(); ++i) {
        const Side &a = sides[i], &b = sides[i + 1];
        if (a.corners == b.corners) {
            body.faces[a.face].beyond[a.opposite] = int32_t(b.face);
            body.faces[b.face].beyond[b.opposite] = int32_t(a.face);
        }
    }
    // A corner is smooth between those of its faces that turn by less.
    const float least = std::cos(sharp_degrees * std::numbers::pi_v<float> / 180);
    std::vector<uint32_t> starts(body.corners.size() + 1), at_corner(body.faces.size() * 3);
    for (const BodyFace& face : body.faces) {
        for (const uint32_t corner : face.corners) {
            ++starts[corner + 1];
        }
    }
    std::partial_sum(starts.begin(), starts.end(), starts.begin());
    std::vector<uint32_t> next(starts.begin(), starts.end() - 1);
    for (uint32_t f = 0; f < body.faces.size(); ++f) {
        for (const uint32_t corner : body.faces[f].corners) {
            at_corner[next[corner]++] = f;
        }
    }
    for (BodyFace& face : body.faces) {
        for (int i = 0; i < 3; ++i) {
            Vec3 sum;
            bool is_flat = true;
            for (uint32_t k = starts[face.corners[i]]; k < starts[face.corners[i] + 1]; ++k) {
                const bool is_smooth = dot(body.faces[at_corner[k]].normal, face.normal) > least;
                sum += is_smooth ? crosses[at_corner[k]] : Vec3();
                is_flat =
                    is_flat && (!is_smooth || dot(body.faces[at_corner[k]].normal, face.normal) > 0.9999f);
            }
            face.corner_normals[i] = is_flat ? face.normal : normalized(sum, face.normal);
        }
    }
    return body;
}

BodyLevels levels_of(const Mesh& mesh) {
    BodyLevels levels = {body_of(mesh, true)};
    for (const int cells : {64, 24, 10, 5, 2}) {
        const Mesh coarse = coarsened(mesh, cells);
        if (coarse.triangles.size() >= 4 && coarse.triangles.size() * 3 < levels.back().faces.size() * 2) {
            levels.push_back(body_of(coarse, true));
        }
    }
    return levels;
}

const std::vector<BodyLevels>& ready_bodies(MeshSet set) {
    static const std::vector<BodyLevels> cubes = {{body_of(block_mesh({1, 1, 1}), true)}};
    static const std::vector<BodyLevels> crystals = {
        {body_of(spindle(6, {{-0.6f, 0.3f}, {0.55f, 0.34f}}, -0.9f, 1, 0.15f, 1), true),
         body_of(spindle(4, {{0, 0.36f}}, -0.9f, 1, 0, 1), true)},
        {body_of(spindle(5, {{-0.7f, 0.22f}, {0.35f, 0.3f}}, -0.8f, 1, 0.25f, 2), true),
         body_of(spindle(4, {{-0.2f, 0.3f}}, -0.8f, 1, 0, 2), true)},
        {body_of(spindle(4, {{0.1f, 0.45f}}, -0.7f, 0.9f, 0.2f, 3), true)}};
    static const std::vector<BodyLevels> shards = {
        {body_of(spindle(5, {{0, 1}}, -0.18f, 0.15f, 0.55f, 4), true)},
        {body_of(spindle(4, {{0, 1}}, -0.12f, 0.2f, 0.6f, 5), true)},
        {body_of(spindle(3, {{0, 1}}, -0.15f, 0.15f, 0.45f, 6), true)}};
    static const std::vector<BodyLevels> pebbles = {
        {body_of(pebble(7), true, 25)}, {body_of(pebble(8), true, 25)}, {body_of(pebble(9), true, 25)}};
    static const std::vector<BodyLevels> none;
    switch (set) {
    case MeshSet::cubes:
        return cubes;
    case MeshSet::crystals:
        return crystals;
    case MeshSet::shards:
        return shards;
    case MeshSet::pebbles:
        return pebbles;
    case MeshSet::files:
        break;
    }
    return none;
}

std::vector<const BodyLevels*> BodyShelf::bodies_of(const Look& look, const Frame& frame) {
    std::vector<const BodyLevels*> bodies;
    for (const BodyLevels& levels : ready_bodies(look.mesh_set)) {
        bodies.push_back(&levels);
    }
    for (const AssetNeed& need : needs_of(look)) {
        const auto mesh = frame.assets != nullptr ? frame.assets->find<Mesh>(need.key()) : nullptr;
        if (mesh == nullptr) {
            continue;
        }
        auto found =
            std::find_if(kept_.begin(), kept_.end(), [&](const auto& kept) { return kept->mesh == mesh; });
        if (found == kept_.end()) {
            kept_.push_back(std::make_unique<Kept>(Kept{mesh, levels_of(*mesh)}));
            found = kept_.end() - 1;
        }
        (*found)->is_asked = true;
        bodies.push_back(&(*found)->levels);
    }
    if (bodies.empty()) {
        bodies.push_back(&ready_bodies(MeshSet::cubes).front());
    }
    return bodies;
}

namespace {

bool lies_on(const std::array<Vec3, 3>& triangle, const Vec3& place, float off_m) {
    const auto& [a, b, c] = triangle;
    const Vec3 across = cross(b - a, c - a);
    const float twice = length(across);
    const auto is_inside = [&](const Vec3& from, const Vec3& to) {
        return dot(cross(to - from, place - from), across) >= -1e-3f * twice * twice;
    };
    return twice > 0 && std::fabs(dot(place - a, across)) <= off_m * twice && is_inside(a, b) &&
           is_inside(b, c) && is_inside(c, a);
}

// A cut face lies at the bond that has its middle.
void find_joins(const Cut& cut, PieceBody& piece) {
    const std::vector<BodyFace>& faces = piece.body.faces;
    for (size_t f = piece.outer; f < faces.size(); ++f) {
        const auto& corners = faces[f].corners;
        const Vec3 middle = piece.offset + (piece.body.corners[corners[0]] + piece.body.corners[corners[1]] +
                                            piece.body.corners[corners[2]]) *
                                               (1.0f / 3);
        const auto has_middle = [&](uint32_t bond) {
            const auto& face = cut.bonds[bond].face;
            return std::any_of(face.begin(), face.end(), [&](const auto& triangle) {
                return lies_on(triangle, middle, 1e-3f * piece.radius);
            });
        };
        const auto found = std::find_if(piece.bonds.begin(), piece.bonds.end(), has_middle);
        piece.joins.push_back(found == piece.bonds.end() ? -1 : int(found - piece.bonds.begin()));
    }
}

} // namespace

const std::vector<PieceBody>& BodyShelf::pieces_of(const std::shared_ptr<const Cut>& cut) {
    auto found = std::find_if(kept_cuts_.begin(), kept_cuts_.end(),
                              [&](const auto& kept) { return kept->cut == cut; });
    if (found == kept_cuts_.end()) {
        auto kept = std::make_unique<KeptCut>(KeptCut{cut, {}});
        for (const Piece& piece : cut->pieces) {
            kept->pieces.push_back(
                {body_of(piece.mesh, false), piece.outer, piece.centre, piece.radius, {}, {}});
        }
        for (uint32_t i = 0; i < cut->bonds.size(); ++i) {
            kept->pieces[cut->bonds[i].a].bonds.push_back(i);
            kept->pieces[cut->bonds[i].b].bonds.push_back(i);
        }
        tbb::parallel_for(size_t(0), kept->pieces.size(),
                          [&](size_t i) { find_joins(*cut, kept->pieces[i]); });
        kept_cuts_.push_back(std::move(kept));
        found = kept_cuts_.end() - 1;
    }
    (*found)->is_asked = true;
    return (*found)->pieces;
}

void BodyShelf::forget_others() {
    std::erase_if(kept_cuts_, [](const auto& kept) { return !kept->is_asked; });
    for (const auto& kept : kept_cuts_) {
        kept->is_asked = false;
    }
    std::erase_if(kept_, [](const auto& kept) { return !kept->is_asked; });
    for (const auto& kept : kept_) {
        kept->is_asked = false;
    }
}

const Body& level_for(const BodyLevels& levels, float radius_px) {
    // Faces of about four pixels.
    const float enough = std::max(radius_px * radius_px * 0.8f, 4.0f);
    const Body* best = &levels.front();
    for (const Body& level : levels) {
        best = float(level.faces.size()) >= enough || best == &level ? &level : best;
    }
    return *best;
}

} // namespace ember
