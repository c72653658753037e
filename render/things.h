// What there is to draw of a frame's particles, projected and listed by tiles.
#pragma once

#include "render/cloud_picture.h"
#include "render/projection.h"
#include "render/surfaces.h"
#include "render/tiles.h"

#include <algorithm>
#include <bit>
#include <numeric>
#include <optional>
#include <vector>

namespace ember {

/// The tiles that something touches, from the first to the last.
struct TileBox {
    uint16_t left, right, top, bottom;
};

/// What lies in which tile: indices, tile after tile.
struct TileLists {
    std::vector<TileBox> boxes;   // of each thing
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

/// Skins of what is drawn, the first without layers. Keeps its memory from frame to frame.
struct SkinList {
    std::vector<Skin> list;
    size_t used = 0;

    void forget_all() {
        used = 0;
        add({});
    }
    /// Where room for so many begins; they are to be written by who asked for it.
    size_t add_room(size_t count) {
        const size_t first = used;
        used += count;
        list.resize(std::max(list.size(), used));
        return first;
    }
    uint32_t add(const Skin& skin) {
        const size_t at = add_room(1);
        list[at] = skin;
        return uint32_t(at);
    }
};

/// What it takes to draw things, kind by kind (ms of one thread).
struct KindTimes {
    double triangles = 0, patches = 0, sprites = 0, segments = 0;

    KindTimes& operator+=(const KindTimes& other) {
        triangles += other.triangles;
        patches += other.patches;
        sprites += other.sprites;
        segments += other.segments;
        return *this;
    }
    KindTimes operator*(double by) const {
        return {triangles * by, patches * by, sprites * by, segments * by};
    }
};

class Things {
  public:
    void gather(const Frame& frame, const Effect& effect, const Lighting& lighting, const Projection& to,
                const GatherOptions& options, Surfaces& surfaces, BodyShelf& shelf);
    void list_by_tiles(int across, int down);

    /// Draws what lies in a tile, and adds what that took. `solids`: what hides, before all that is blended.
    void draw_solids(size_t index, const Tile& tile, const Canvas& canvas, const RenderKernels& kernels,
                     const Surfaces& surfaces, KindTimes& times) const;
    void draw_blended(size_t index, const Tile& tile, const Canvas& canvas, const RenderKernels& kernels,
                      const Surfaces& surfaces, KindTimes& times) const;
    bool has_solids(size_t tile) const;
    bool has_any(size_t tile) const;

    /// The nearest soft dot at a pixel of a tile (m); far away if there is none.
    float depth_at(size_t tile, float x, float y) const;
    /// Adds what a picture cost to the elements whose things it shows: what made them ready as it was
    /// measured (to both), and what drew them, kind by kind, by the area that they cover.
    void share_out(const KindTimes& drawing, std::vector<double>& element_ms,
                   std::vector<double>& readied_ms) const;
    /// Adds what the steps of dots cost to the tiles that they are in.
    void add_steps(const Frame& frame, int across, int down, std::vector<float>& ms) const;

    size_t count() const;
    size_t triangles() const { return triangles_.used(); }
    double surface_ms() const { return surface_ms_; }
    size_t bytes() const;

  private:
    template <class Thing>
    struct Chunked {
        std::vector<Thing> list;      // a chunk fills the beginning of a stretch of its own
        std::vector<uint32_t> counts; // of each chunk
        std::vector<size_t> owners;   // of each chunk: the element, by its place in the frame's effect
        std::vector<float> areas;     // of each chunk: what its things cover (pixels)
        TileLists tiles;

        size_t used() const { return std::accumulate(counts.begin(), counts.end(), size_t(0)); }
    };
    struct Gathered;
    struct Readied {
        size_t owner; // an element
        double ms;
    };

    void gather_source(const Gathered& from, BodyShelf& shelf);
    template <class Thing>
    static void append(size_t pieces, auto piece_of, size_t owner, Chunked<Thing>& things);
    void append_triangles(std::vector<Triangles>& pieces, size_t owner);

    void gather_dots(const Gathered& from);
    void gather_cards(const Gathered& from);
    void gather_trails(const Gathered& from);
    void gather_bodies(const Gathered& from, BodyShelf& shelf);
    void gather_surface(const Gathered& from);

    Chunked<Sprite> sprites_;
    Chunked<Patch> patches_;
    Chunked<Segment> segments_;
    Chunked<Triangle> triangles_;
    std::vector<TriangleMore> more_;      // of some of them
    std::vector<Triangles> drawn_bodies_; // of one source, as threads made them
    SkinList skins_;
    std::vector<Readied> readied_;
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
