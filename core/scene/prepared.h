// An effect made ready to run: curves and paths as tables, meshes and grids as kernels read them. Made once
// for each edit; what an edit did not touch is taken over.
#pragma once

#include "core/assets/assets.h"
#include "core/base/axes.h"
#include "core/base/curve.h"
#include "core/effect/effect.h"
#include "kernels/rows.h"

#include <memory>
#include <optional>
#include <span>
#include <vector>

namespace ember {

struct PathPoint {
    Vec3 position, tangent;
};

/// A path as points that are evenly far apart.
struct PathTable {
    std::vector<float> points; // x y z
    float length = 0;          // m

    int count() const { return int(points.size() / 3); }
    /// `share` of the way, 0..1.
    PathPoint at(float share) const;
};

/// `closed`: the end leads straight back to the start.
PathTable sampled(const PathShape& path, bool closed = false);

/// A grid as kernels read it. Heights: y of the cells is 1.
struct GridTable {
    std::vector<float> values;
    Vec3 cells;     // how many along each side, as floats
    Vec3 low;       // m
    Vec3 per_cell;  // 1/m
    Axes turn = {}; // of the grid's axes in its element's
};

/// A mesh that gives birth. Faces, ten numbers each: share of the area up to its end, then three corners.
/// Corners, six numbers each: place and normal.
struct BirthMesh {
    std::vector<float> values;
    int parts = 0;
};

/// In the second order faces that follow one another lie near each other, so that what is spread along it is
/// spread over the mesh.
enum class FaceOrder { as_read, neighbours_together };

BirthMesh birth_mesh(const Mesh& mesh, MeshBirth birth, FaceOrder order = FaceOrder::as_read);

/// CURVE_ENTRIES even values.
using CurveTable = std::vector<float>;

struct PreparedElement {
    ElementBody body; // what it was made from
    CurveTable fade;  // of the reach
    CurveTable hold, limit;
    CurveTable stretch_x, stretch_y, stretch_z, spun; // of particles that are not round
    std::optional<LifeTable<Colour>> birth_colours;   // if they are not all plain white
    PathTable path;
    bool path_closed = false;
    std::shared_ptr<const BirthMesh> mesh;
    std::shared_ptr<const GridTable> grid;
    std::string made_of; // what mesh or grid depend on; while that stays, so do they
    std::shared_ptr<const DistanceField> distances; // of a mesh collider with an area of its own
    std::shared_ptr<const KeyTrack> keys;
    std::shared_ptr<const Cut> cut;                  // of a breakable
    std::shared_ptr<const Clip> clip;                // of a source that plays one
    std::shared_ptr<const PieceClip> piece_clip;     // of a breakable that plays one
    std::shared_ptr<const SmokeClip> smoke_clip;     // of a volume that plays one
    std::vector<std::shared_ptr<const void>> assets; // what it was made with
};

/// A line of sight, along which the pointer may be anywhere.
struct PointerRay {
    Vec3 from, way;
    bool operator==(const PointerRay&) const = default;
};

/// What comes from people, at the start of a step and at its end.
struct Inputs {
    std::optional<PointerRay> pointer_before, pointer_now; // nothing: there is no pointer
    double now_s = 0;                                      // when the step ends
    double step_s = 1;                                     // how long it is
};

struct PreparedEffect {
    EffectPtr effect;
    Inputs inputs;
    std::vector<std::shared_ptr<const PreparedElement>> elements; // in the order of the effect

    std::optional<size_t> index_of(const std::string& id) const;
};

/// `before`: what was made for the effect before this edit; may be empty.
PreparedEffect prepared(EffectPtr effect, const Assets& assets, const PreparedEffect& before);

/// The same for an effect that is like that of `before` but for the elements with the indices `changed`.
PreparedEffect prepared(EffectPtr effect, const Assets& assets, const PreparedEffect& before,
                        std::span<const size_t> changed);

} // namespace ember
