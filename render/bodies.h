// Small bodies that particles are drawn as: ready-made ones, and meshes from files.
#pragma once

#include "core/geometry/mesh.h"
#include "core/runtime/frame.h"

#include <array>
#include <memory>
#include <vector>

namespace ember {

struct BodyFace {
    uint32_t corners[3];
    int32_t beyond[3]; // the face beyond the edge opposite of each corner; -1 if there is none
    Vec3 normal;
    Vec3 corner_normals[3]; // the same, or smooth where the body is not sharp
};

/// Rings of corners about y, closed by a tip at either end. Each ring: its height and radius. `uneven`: how
/// far corners are moved by chance.
Mesh spindle(int sides, const std::vector<std::array<float, 2>>& rings, float low, float high,
             float uneven = 0, uint32_t seed = 0);

/// Its longest side is 1, its middle 0.
struct Body {
    std::vector<Vec3> corners;
    std::vector<BodyFace> faces;
};

/// The body as such, then ever coarser ones, for when it is small on the picture.
using BodyLevels = std::vector<Body>;

/// A body from a mesh. `sharp_degrees`: edges that turn by more stay sharp.
Body body_of(const Mesh& mesh, bool to_unit_size, float sharp_degrees = 30);

BodyLevels levels_of(const Mesh& mesh);

/// The ready-made bodies of a set; empty for files.
const std::vector<BodyLevels>& ready_bodies(MeshSet set);

/// A piece of a cut, about its own middle.
struct PieceBody {
    Body body;
    size_t outer = 0;            // the faces before this are of the whole's outside
    Vec3 offset;                 // m, of its middle in the whole's axes
    float radius = 0;            // m
    std::vector<uint32_t> bonds; // of the cut, that it has
    std::vector<int> joins;      // of the other faces: at which of `bonds` they lie; -1: at none
};

/// Bodies of looks, kept while their files are the same.
class BodyShelf {
  public:
    /// What the look's particles pick from; cubes if its files are missing. Valid until the next call of
    /// forget_others().
    std::vector<const BodyLevels*> bodies_of(const Look& look, const Frame& frame);
    /// The pieces of a cut, in its order. Valid as long.
    const std::vector<PieceBody>& pieces_of(const std::shared_ptr<const Cut>& cut);
    /// Forgets what was not asked for since the last call.
    void forget_others();

  private:
    struct Kept {
        std::shared_ptr<const Mesh> mesh;
        BodyLevels levels;
        bool is_asked = false;
    };
    struct KeptCut {
        std::shared_ptr<const Cut> cut;
        std::vector<PieceBody> pieces;
        bool is_asked = false;
    };
    std::vector<std::unique_ptr<Kept>> kept_;
    std::vector<std::unique_ptr<KeptCut>> kept_cuts_;
};

/// The coarsest level that still looks right for a body of this radius on the picture.
const Body& level_for(const BodyLevels& levels, float radius_px);

} // namespace ember
