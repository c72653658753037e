// Cutting a closed mesh into closed pieces, and which of them touch.
//
//     CutOrder order;
//     order.pieces = 40;
//     Problems problems;
//     std::optional<Cut> cut = cut_apart(mesh, order, problems);   // volumes add up to the whole's
//
// Every pattern is a set of convex cells; a piece is what of the mesh lies in one of them and hangs together.
#pragma once

#include "core/base/problem.h"
#include "core/base/progress.h"
#include "core/effect/breakable.h"
#include "core/geometry/mesh.h"

#include <array>
#include <optional>
#include <vector>

namespace ember {

struct CutOrder {
    CutPattern pattern = CutPattern::even;
    int pieces = 40;                 // about; what of a concave mesh does not hang together is more
    float evenness = 0.5f;           // 0..1 of Voronoi cells
    float grading = 0.7f;            // 0..1, how much smaller pieces are near the centre
    Vec3 centre;                     // m, of grading and spokes
    Vec3 axis = {0, 0, 1};           // of spokes and layers
    Vec3 block = {0.4f, 0.2f, 0.2f}; // m, of courses
    int again = 0;                   // cuts each of some pieces again into about so many; 0 does not
    Vec3 again_centre;               // m, of those pieces
    float again_radius = 0.5f;       // m
    float sliver = 0.02f;            // of the mean volume: pieces below are merged with a neighbour
    uint32_t seed = 1;
};

/// Corners are about the piece's own centre of mass.
struct Piece {
    Mesh mesh;
    uint32_t outer = 0; // the triangles before this are of the whole's outside; the others are cut faces
    Vec3 centre;        // m, in the mesh's axes
    float volume = 0;   // m^3
    float radius = 0;   // m, of the ball about the centre that holds it
};

/// Two pieces that touch along a cut.
struct Bond {
    uint32_t a = 0, b = 0;                 // a < b
    float area = 0;                        // m^2
    Vec3 middle;                           // m, in the mesh's axes
    Vec3 normal;                           // length 1, from a to b
    std::vector<std::array<Vec3, 3>> face; // triangles of it, in the mesh's axes
};

/// Even places on the face of a bond, in the mesh's axes.
class BondFace {
  public:
    /// The bond has to outlive this.
    explicit BondFace(const Bond& bond);
    /// The same for the same seed.
    Vec3 place(uint32_t seed) const;

  private:
    const Bond* bond_;
    std::vector<float> up_to_; // twice the area up to the end of each triangle
};

struct Cut {
    std::vector<Piece> pieces;
    std::vector<Bond> bonds; // in order of a, then b
    size_t slivers = 0;      // that were merged
    double volume = 0;       // of the whole, m^3
    size_t triangles = 0;    // of all pieces
};

constexpr size_t most_pieces_of_a_cut = 20'000;
/// Larger meshes are to be made coarser before they are cut.
constexpr size_t most_cut_triangles = 200'000;

/// Nothing if the mesh has no inside (said in `problems`), or if cancelled. Small flat holes are closed and
/// said.
std::optional<Cut> cut_apart(const Mesh& mesh, const CutOrder& order, Problems& problems,
                             const Progress& progress = {});

} // namespace ember
