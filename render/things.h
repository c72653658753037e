// What there is to draw of a frame's particles, projected and listed by tiles.
#pragma once

#include "render/cloud_picture.h"
#include "render/projection.h"
#include "render/surfaces.h"
#include "render/tiles.h"

#include <bit>
#include <optional>
#include <vector>

namespace ember {

/// What lies in which tile: indices, tile after tile.
struct TileLists {
    std::vector<uint32_t> starts; // one more than there are tiles
    std::vector<uint32_t> items;

    std::span<const uint32_t> of(size_t tile) const {
        return {items.data() + starts[tile], items.data() + starts[tile + 1]};
    }
};

/// What the colour of dots says: how they look, or how old they are.
enum class DotTint { look, age };

struct GatherOptions {
    DotTint tint = DotTint::look;
    bool is_preview = false;             // only as many copies as the stage shows while one works
    std::optional<MirrorPlane> mirror;   // what it hides is left out
    const CloudPicture* smoke = nullptr; // that things may be behind
    const SunMap* sun = nullptr;         // that pieces are in
    const std::vector<FrameDebris>* debris = nullptr; // null: that of the frame
    bool tints_pieces = false;                        // each in a colour of its own
};

class Things {
  public:
    void gather(const Frame& frame, const Effect& effect, const Lighting& lighting, const Projection& to,
                const GatherOptions& options, Surfaces& surfaces, BodyShelf& shelf);
    void list_by_tiles(int across, int down);

    /// Draws what lies in a tile. `solids`: what hides, before all that is blended.
    void draw_solids(size_t index, const Tile& tile, const Canvas& canvas, const RenderKernels& kernels,
                     const Surfaces& surfaces) const;
    void draw_blended(size_t index, const Tile& tile, const Canvas& canvas, const RenderKernels& kernels,
                      const Surfaces& surfaces) const;
    bool has_solids(size_t tile) const;
    bool has_any(size_t tile) const;

    /// The nearest soft dot at a pixel of a tile (m); far away if there is none.
    float depth_at(size_t tile, float x, float y) const;
    /// Adds what the steps of dots cost to the tiles that they are in.
    void add_steps(const Frame& frame, int across, int down, std::vector<float>& ms) const;

    size_t count() const;
    size_t triangles() const { return triangles_.list.size(); }
    double surface_ms() const { return surface_ms_; }
    size_t bytes() const;

  private:
    template <class Thing>
    struct Chunked {
        std::vector<Thing> list;      // a chunk fills the beginning of a stretch of its own
        std::vector<uint32_t> counts; // of each chunk
        std::vector<size_t> sources;  // of each chunk, by their place in the frame
        TileLists tiles;
    };
    struct Gathered;

    template <class Thing>
    static void append(const std::vector<std::vector<Thing>>& pieces, Chunked<Thing>& things);

    void gather_dots(const Gathered& from);
    void gather_cards(const Gathered& from);
    void gather_trails(const Gathered& from);
    void gather_bodies(const Gathered& from, BodyShelf& shelf);
    void gather_surface(const Gathered& from);

    Chunked<Sprite> sprites_;
    Chunked<Patch> patches_;
    Chunked<Segment> segments_;
    Chunked<Triangle> triangles_;
    std::vector<Skin> skins_; // the first has no layers
    bool any_over_ = false;
    bool any_cut_ = false;
    double surface_ms_ = 0;
};

/// Indices in order of their depths, far ones first; equal ones keep their order. A radix sort, stable.
void sort_far_to_near(std::vector<uint64_t>& keys);

/// The key of a depth (m, positive) with something to go along.
inline uint64_t depth_key(float depth, uint32_t what) {
    return uint64_t(~std::bit_cast<uint32_t>(depth)) << 32 | what;
}

} // namespace ember
