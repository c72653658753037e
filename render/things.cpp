#include "render/things_inside.h"

#include "core/base/stopwatch.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <limits>
#include <numeric>

namespace ember {

namespace {

// A box on the picture, in pixels.
struct Extent {
    float left, top, right, bottom;
};

Extent extent_of(const Sprite& s) {
    return {s.x - s.width, s.y - s.height, s.x + s.width, s.y + s.height};
}

Extent extent_of(const Patch& p) {
    return {p.x - p.width, p.y - p.height, p.x + p.width, p.y + p.height};
}

Extent extent_of(const Segment& s) {
    const float wide = std::max(s.half_a, s.half_b);
    return {std::min(s.ax, s.bx) - wide, std::min(s.ay, s.by) - wide, std::max(s.ax, s.bx) + wide,
            std::max(s.ay, s.by) + wide};
}

Extent extent_of(const Triangle& t) {
    return {std::min({t.x[0], t.x[1], t.x[2]}) - 1, std::min({t.y[0], t.y[1], t.y[2]}) - 1,
            std::max({t.x[0], t.x[1], t.x[2]}) + 1, std::max({t.y[0], t.y[1], t.y[2]}) + 1};
}

// The tiles that a box touches.
TileBox tiles_of(const Extent& extent, int across, int down) {
    const auto tile_of = [](float pixel, int size, int count) {
        return uint16_t(std::clamp(pixel * (1.0f / float(size)), 0.0f, float(count - 1)));
    };
    return {tile_of(extent.left, tile_width, across), tile_of(extent.right, tile_width, across),
            tile_of(extent.top, tile_height, down), tile_of(extent.bottom, tile_height, down)};
}

// What of a box lies on a picture of so many tiles (pixels); at least one, since small things cost as well.
float area_seen(const Extent& extent, int across, int down) {
    const float right = float(across * tile_width), bottom = float(down * tile_height);
    const float wide = std::min(extent.right, right) - std::max(extent.left, 0.0f);
    const float high = std::min(extent.bottom, bottom) - std::max(extent.top, 0.0f);
    return std::max(wide, 1.0f) * std::max(high, 1.0f);
}

// Lists what lies in which tile, and adds up what the things of each chunk cover.
template <class Thing>
void list_by_tile(const std::vector<Thing>& things, const std::vector<uint32_t>& counts, int across, int down,
                  TileLists& lists, std::vector<float>& areas) {
    const size_t tiles = size_t(across) * size_t(down);
    const size_t chunks = counts.size();
    lists.boxes.resize(things.size());
    const auto each_in_chunk = [&](size_t c, auto visit) {
        for (size_t i = c * chunk_size; i < c * chunk_size + counts[c]; ++i) {
            const TileBox box = lists.boxes[i];
            for (size_t y = box.top; y <= box.bottom; ++y) {
                for (size_t x = box.left; x <= box.right; ++x) {
                    visit(y * size_t(across) + x, uint32_t(i));
                }
            }
        }
    };
    // How many each chunk puts into each tile, then where in the tile's list they begin: chunk after chunk,
    // so that the lists do not depend on which thread did what.
    std::vector<uint32_t> places(chunks * tiles, 0);
    areas.assign(chunks, 0);
    tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
        float area = 0;
        for (size_t i = c * chunk_size; i < c * chunk_size + counts[c]; ++i) {
            const Extent extent = extent_of(things[i]);
            lists.boxes[i] = tiles_of(extent, across, down);
            area += area_seen(extent, across, down);
        }
        areas[c] = area;
        each_in_chunk(c, [&](size_t tile, uint32_t) { ++places[c * tiles + tile]; });
    });
    lists.starts.assign(tiles + 1, 0);
    uint32_t total = 0;
    for (size_t tile = 0; tile < tiles; ++tile) {
        lists.starts[tile] = total;
        for (size_t c = 0; c < chunks; ++c) {
            const uint32_t count = places[c * tiles + tile];
            places[c * tiles + tile] = total;
            total += count;
        }
    }
    lists.starts[tiles] = total;
    lists.items.resize(total);
    tbb::parallel_for(size_t(0), chunks, [&](size_t c) {
        each_in_chunk(c, [&](size_t tile, uint32_t i) { lists.items[places[c * tiles + tile]++] = i; });
    });
}

// What is drawn in which way, in the order of blended things.
enum class Kind : uint32_t { segment, patch, sprite };
constexpr uint32_t index_bits = 29;
constexpr uint32_t index_mask = (1u << index_bits) - 1;

} // namespace

void sort_far_to_near(std::vector<uint64_t>& keys) {
    if (keys.size() < 256) {
        std::stable_sort(keys.begin(), keys.end(), [](uint64_t a, uint64_t b) { return a >> 32 < b >> 32; });
        return;
    }
    // Three passes of 11 bits from the lowest up, each stable.
    thread_local std::vector<uint64_t> other;
    other.resize(keys.size());
    for (int pass = 0; pass < 3; ++pass) {
        const int shift = 32 + pass * 11;
        std::array<uint32_t, 2049> starts{};
        for (const uint64_t key : keys) {
            ++starts[(key >> shift & 2047) + 1];
        }
        std::partial_sum(starts.begin(), starts.end(), starts.begin());
        for (const uint64_t key : keys) {
            other[starts[key >> shift & 2047]++] = key;
        }
        keys.swap(other);
    }
}

void Things::list_by_tiles(int across, int down) {
    const auto list = [&](auto& things) {
        list_by_tile(things.list, things.counts, across, down, things.tiles, things.areas);
    };
    list(sprites_);
    list(patches_);
    list(segments_);
    list(triangles_);
}

bool Things::has_any(size_t tile) const {
    return !(triangles_.tiles.of(tile).empty() && patches_.tiles.of(tile).empty() &&
             sprites_.tiles.of(tile).empty() && segments_.tiles.of(tile).empty());
}

bool Things::has_solids(size_t tile) const {
    return !triangles_.tiles.of(tile).empty() || (any_cut_ && !patches_.tiles.of(tile).empty());
}

void Things::draw_solids(size_t index, const Tile& tile, const Canvas& canvas, const RenderKernels& kernels,
                         const Surfaces& surfaces, KindTimes& times) const {
    const Coats coats = {skins_.list, surfaces.list()};
    Stopwatch watch;
    kernels.draw_triangles(triangles_.list, more_, triangles_.tiles.of(index), coats, tile, canvas);
    times.triangles += watch.lap_ms();
    if (any_cut_) {
        thread_local std::vector<uint32_t> cut;
        cut.clear();
        const auto patches = patches_.tiles.of(index);
        std::copy_if(patches.begin(), patches.end(), std::back_inserter(cut),
                     [&](uint32_t i) { return patches_.list[i].is_cut; });
        kernels.draw_patches(patches_.list, cut, coats, tile, canvas);
        times.patches += watch.lap_ms();
    }
}

void Things::draw_blended(size_t index, const Tile& tile, const Canvas& canvas, const RenderKernels& kernels,
                          const Surfaces& surfaces, KindTimes& times) const {
    const Coats coats = {skins_.list, surfaces.list()};
    const auto draw = [&](Kind kind, std::span<const uint32_t> order) {
        const Stopwatch watch;
        if (kind == Kind::sprite) {
            kernels.splat(sprites_.list, order, tile, canvas.stride, canvas.red, canvas.green, canvas.blue,
                          canvas.depth);
            times.sprites += watch.elapsed_ms();
        } else if (kind == Kind::patch) {
            kernels.draw_patches(patches_.list, order, coats, tile, canvas);
            times.patches += watch.elapsed_ms();
        } else {
            kernels.draw_segments(segments_.list, order, tile, canvas.stride, canvas.red, canvas.green,
                                  canvas.blue, canvas.depth);
            times.segments += watch.elapsed_ms();
        }
    };
    const auto sprites = sprites_.tiles.of(index), segments = segments_.tiles.of(index),
               patches = patches_.tiles.of(index);
    if (!any_over_) {
        draw(Kind::segment, segments);
        draw(Kind::patch, patches);
        return draw(Kind::sprite, sprites);
    }
    // All in one order, drawn in runs of a kind.
    thread_local std::vector<uint64_t> keys;
    thread_local std::vector<uint32_t> run;
    keys.clear();
    const auto add = [&](Kind kind, std::span<const uint32_t> items, auto depth) {
        for (const uint32_t i : items) {
            keys.push_back(depth_key(depth(i), uint32_t(kind) << index_bits | i));
        }
    };
    add(Kind::segment, segments,
        [&](uint32_t i) { return 0.5f * (segments_.list[i].depth_a + segments_.list[i].depth_b); });
    add(Kind::sprite, sprites, [&](uint32_t i) { return sprites_.list[i].depth; });
    for (const uint32_t i : patches) {
        if (!patches_.list[i].is_cut) {
            keys.push_back(depth_key(patches_.list[i].depth, uint32_t(Kind::patch) << index_bits | i));
        }
    }
    sort_far_to_near(keys);
    for (size_t first = 0; first < keys.size();) {
        const auto kind = Kind(uint32_t(keys[first]) >> index_bits);
        run.clear();
        for (; first < keys.size() && Kind(uint32_t(keys[first]) >> index_bits) == kind; ++first) {
            run.push_back(uint32_t(keys[first]) & index_mask);
        }
        draw(kind, run);
    }
}

float Things::depth_at(size_t tile, float x, float y) const {
    float nearest = std::numeric_limits<float>::max();
    for (const uint32_t i : sprites_.tiles.of(tile)) {
        const Sprite& sprite = sprites_.list[i];
        const float dy = y - sprite.y;
        const float dx = x - sprite.x - dy * sprite.slant;
        const bool is_there = dx * dx < sprite.square - dy * dy * sprite.narrowing;
        nearest = is_there ? std::min(nearest, sprite.depth) : nearest;
    }
    for (const uint32_t i : patches_.tiles.of(tile)) {
        const Patch& patch = patches_.list[i];
        const float dx = x - patch.x, dy = y - patch.y;
        const float u = dx * patch.u_x + dy * patch.u_y, v = dx * patch.v_x + dy * patch.v_y;
        const bool is_there = std::fabs(u) < 1 && std::fabs(v) < 1;
        nearest = is_there ? std::min(nearest, patch.depth) : nearest;
    }
    return nearest;
}

void Things::add_steps(const Frame& frame, int across, int down, std::vector<float>& ms) const {
    const auto add = [&](const auto& things) {
        for (size_t c = 0; c < things.counts.size(); ++c) {
            const ElementMeter& meter = frame.meters.elements[things.owners[c]];
            const auto step_ms = float(meter.blocks_ms / double(std::max<size_t>(meter.live, 1)));
            for (size_t i = c * chunk_size; i < c * chunk_size + things.counts[c]; ++i) {
                const int x = std::clamp(int(things.list[i].x) / tile_width, 0, across - 1);
                const int y = std::clamp(int(things.list[i].y) / tile_height, 0, down - 1);
                ms[size_t(y) * size_t(across) + size_t(x)] += step_ms;
            }
        }
    };
    add(sprites_);
    add(patches_);
}

void Things::share_out(const KindTimes& drawing, std::vector<double>& element_ms,
                       std::vector<double>& readied_ms) const {
    for (const Readied& readied : readied_) {
        element_ms[readied.owner] += readied.ms;
        readied_ms[readied.owner] += readied.ms;
    }
    const auto share = [&](const auto& things, double ms) {
        const double whole = std::accumulate(things.areas.begin(), things.areas.end(), 0.0);
        for (size_t c = 0; c < things.areas.size() && whole > 0; ++c) { // none may be in sight
            element_ms[things.owners[c]] += ms * double(things.areas[c]) / whole;
        }
    };
    share(sprites_, drawing.sprites);
    share(patches_, drawing.patches);
    share(segments_, drawing.segments);
    share(triangles_, drawing.triangles);
}

size_t Things::count() const {
    return sprites_.used() + patches_.used();
}

size_t Things::bytes() const {
    const auto of = [](const auto& things) {
        return things.list.capacity() * sizeof(things.list[0]) +
               things.tiles.items.capacity() * sizeof(uint32_t) +
               things.tiles.boxes.capacity() * sizeof(TileBox);
    };
    return of(sprites_) + of(patches_) + of(segments_) + of(triangles_) +
           more_.capacity() * sizeof(TriangleMore) + skins_.list.capacity() * sizeof(Skin);
}

} // namespace ember
