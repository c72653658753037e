#include "core/runtime/piece_hulls.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

Vec3 lower(const Vec3& a, const Vec3& b) {
    return {std::min(a.x, b.x), std::min(a.y, b.y), std::min(a.z, b.z)};
}
Vec3 higher(const Vec3& a, const Vec3& b) {
    return {std::max(a.x, b.x), std::max(a.y, b.y), std::max(a.z, b.z)};
}

// The hull where it is, with what a hit does.
ColliderRow with_surface(ColliderRow hull, const ColliderRow& surface) {
    hull.on_hit = surface.on_hit;
    hull.seed = surface.seed;
    hull.step = surface.step;
    hull.reach = surface.reach;
    hull.bounce = surface.bounce;
    hull.friction = surface.friction;
    hull.roughness = surface.roughness;
    hull.share = surface.share;
    return hull;
}

} // namespace

// Pairs of a hull and a particle that comes near it, found hull by hull.
class PieceHulls::Pairs {
  public:
    explicit Pairs(size_t hulls) : last_(hulls, none) {}

    // The same pair again is one; particles come one after another.
    void add(uint32_t hull, uint32_t particle) {
        if (last_[hull] == none) {
            hulls_.push_back(hull);
        } else if (pairs_[last_[hull]].particle == particle) {
            return;
        }
        pairs_.push_back({particle, last_[hull]});
        last_[hull] = uint32_t(pairs_.size() - 1);
    }
    bool empty() const { return pairs_.empty(); }

    // `visit(hull, its particles)`, hulls in the order in which they were met.
    void each_hull(auto visit) const {
        std::vector<uint32_t> particles;
        for (const uint32_t hull : hulls_) {
            particles.clear();
            for (uint32_t at = last_[hull]; at != none; at = pairs_[at].before) {
                particles.push_back(pairs_[at].particle);
            }
            visit(hull, std::span<const uint32_t>(particles));
        }
    }

  private:
    static constexpr uint32_t none = ~0u;
    struct Pair {
        uint32_t particle, before; // of the same hull
    };
    std::vector<Pair> pairs_;
    std::vector<uint32_t> last_; // of each hull
    std::vector<uint32_t> hulls_;
};

// Particles taken out of a block, side by side.
struct PieceHulls::Gathered {
    ParticleBlock block;
    PathStarts starts{};

    // What says where they are met.
    void take_paths(std::span<const uint32_t> particles, const ParticleBlock& from,
                    const PathStarts& from_starts) {
        using Block = ParticleBlock;
        block.count = int(particles.size());
        for (const auto array : {&Block::x, &Block::y, &Block::z, &Block::size}) {
            pick(particles, from.*array, block.*array);
        }
        for (const auto array : {&PathStarts::x, &PathStarts::y, &PathStarts::z}) {
            pick(particles, from_starts.*array, starts.*array);
        }
    }
    void take(std::span<const uint32_t> particles, const ParticleBlock& from, const PathStarts& from_starts) {
        using Block = ParticleBlock;
        take_paths(particles, from, from_starts);
        for (const auto array : {&Block::vx, &Block::vy, &Block::vz, &Block::age, &Block::lifetime}) {
            pick(particles, from.*array, block.*array);
        }
        for (const auto array : {&PathStarts::vx, &PathStarts::vy, &PathStarts::vz}) {
            pick(particles, from_starts.*array, starts.*array);
        }
        pick(particles, from.number, block.number);
    }
    // What a hit changes.
    void put_back(std::span<const uint32_t> particles, ParticleBlock& to) const {
        using Block = ParticleBlock;
        for (const auto array :
             {&Block::x, &Block::y, &Block::z, &Block::vx, &Block::vy, &Block::vz, &Block::age}) {
            for (size_t j = 0; j < particles.size(); ++j) {
                (to.*array)[particles[j]] = (block.*array)[j];
            }
        }
    }

  private:
    template <class Value>
    static void pick(std::span<const uint32_t> particles, const Value (&from)[block_size],
                     Value (&to)[block_size]) {
        for (size_t j = 0; j < particles.size(); ++j) {
            to[j] = from[particles[j]];
        }
    }
};

PieceHulls::PieceHulls(std::span<const FrameDebris> before, std::span<const FrameDebris> after,
                       HullTables& tables, double step_s) {
    std::map<std::pair<size_t, uint32_t>, const FramePiece*> were;
    for (const FrameDebris& breakable : before) {
        for (const FramePiece& piece : breakable.pieces) {
            were[{breakable.element, piece.number}] = &piece;
        }
    }
    for (const FrameDebris& breakable : after) {
        const std::vector<std::vector<float>>& planes = tables.of(breakable.cut);
        for (const FramePiece& piece : breakable.pieces) {
            const std::vector<float>& own = planes[piece.piece];
            if (own.empty() || piece.size <= 0 || piece.opacity <= 0) {
                continue;
            }
            const auto was = were.find({breakable.element, piece.number});
            const Placement& from = was == were.end() ? piece.placement : was->second->placement;
            Hull& hull = hulls_.emplace_back();
            hull.number = piece.number;
            hull.row.kind = COLLIDER_HULL;
            hull.row.half_size = {piece.size, piece.size, piece.size};
            hull.row.grid = own.data();
            hull.row.grid_cells = {float(own.size() / 4), 1, 1};
            set_motion(hull.row, from, piece.placement, step_s);

            const Mesh& mesh = breakable.cut->pieces[piece.piece].mesh;
            const Vec3 low = mesh.low(), high = mesh.high();
            const Vec3 middle = (low + high) * (0.5f * piece.size), half = (high - low) * (0.5f * piece.size);
            Box& box = boxes_.emplace_back();
            box.breakable = breakable.element;
            box.low = Vec3{1e30f, 1e30f, 1e30f};
            box.high = box.low * -1.0f;
            for (const Placement& at : {from, piece.placement}) {
                const Vec3 place = at.position + at.axes.out(middle), reach = at.axes.box_round(half);
                box.low = lower(box.low, place - reach);
                box.high = higher(box.high, place + reach);
            }
        }
    }
    sort_into_cells();
}

std::array<int, 3> PieceHulls::Cells::at(const Vec3& place) const {
    const Vec3 free = (place - low) * per_cell;
    const auto held = [](float a, int count) { return int(std::clamp(a, 0.0f, float(count - 1))); };
    return {held(free.x, counts[0]), held(free.y, counts[1]), held(free.z, counts[2])};
}

template <class Visit>
bool PieceHulls::Cells::each(const Vec3& from, const Vec3& to, size_t most, Visit visit) const {
    const std::array<int, 3> first = at(from), last = at(to);
    const auto along = [&](int axis) { return size_t(last[axis] - first[axis] + 1); };
    if (along(0) * along(1) * along(2) > most) {
        return false;
    }
    for (int z = first[2]; z <= last[2]; ++z) {
        for (int y = first[1]; y <= last[1]; ++y) {
            for (int x = first[0]; x <= last[0]; ++x) {
                visit(size_t((z * counts[1] + y) * counts[0] + x));
            }
        }
    }
    return true;
}

// A cell is about half as wide as a piece.
void PieceHulls::sort_into_cells() {
    if (boxes_.empty()) {
        return;
    }
    Vec3 low = boxes_[0].low, high = boxes_[0].high, sizes;
    for (const Box& box : boxes_) {
        low = lower(low, box.low);
        high = higher(high, box.high);
        sizes += box.high - box.low;
    }
    constexpr float most = 48;
    const float wide = std::max(std::max({sizes.x, sizes.y, sizes.z}) / float(2 * boxes_.size()), 1e-4f);
    const Vec3 extent = high - low;
    const float extents[3] = {extent.x, extent.y, extent.z};
    float per_cell[3];
    for (int axis = 0; axis < 3; ++axis) {
        cells_.counts[axis] = int(std::clamp(std::ceil(extents[axis] / wide), 1.0f, most));
        per_cell[axis] = float(cells_.counts[axis]) / std::max(extents[axis], 1e-4f);
    }
    cells_.low = low;
    cells_.per_cell = {per_cell[0], per_cell[1], per_cell[2]};

    const size_t count = size_t(cells_.counts[0]) * size_t(cells_.counts[1]) * size_t(cells_.counts[2]);
    starts_.assign(count + 1, 0);
    const auto each_cell = [&](auto visit) {
        for (uint32_t i = 0; i < boxes_.size(); ++i) {
            cells_.each(boxes_[i].low, boxes_[i].high, count, [&](size_t cell) { visit(i, cell); });
        }
    };
    each_cell([&](uint32_t, size_t cell) { ++starts_[cell + 1]; });
    for (size_t cell = 0; cell < count; ++cell) {
        starts_[cell + 1] += starts_[cell];
    }
    in_cells_.resize(starts_[count]);
    std::vector<uint32_t> next(starts_.begin(), starts_.end() - 1);
    each_cell([&](uint32_t hull, size_t cell) { in_cells_[next[cell]++] = hull; });
}

// For each hull whose box meets this one, at least once, in no order. What sweeps over more cells than there
// are pieces looks at the pieces.
template <class Visit>
void PieceHulls::each_near(const Vec3& low, const Vec3& high, std::optional<size_t> of, Visit visit) const {
    const auto visit_if_near = [&](uint32_t hull) {
        const Box& box = boxes_[hull];
        if (box.low.x <= high.x && box.high.x >= low.x && box.low.y <= high.y && box.high.y >= low.y &&
            box.low.z <= high.z && box.high.z >= low.z && (!of || box.breakable == *of)) {
            visit(hull);
        }
    };
    const bool are_few = !boxes_.empty() && cells_.each(low, high, boxes_.size(), [&](size_t cell) {
        for (uint32_t at = starts_[cell]; at < starts_[cell + 1]; ++at) {
            visit_if_near(in_cells_[at]);
        }
    });
    for (uint32_t i = 0; !are_few && i < boxes_.size(); ++i) {
        visit_if_near(i);
    }
}

void PieceHulls::collide(const ColliderRow& surface, const MetPieces& met, const PathStarts& starts,
                         float step_s, ParticleBlock& block, Impacts& impacts, std::vector<PiecePush>& pushes,
                         const BlockKernels& kernels) const {
    std::fill_n(impacts.speed, block.count, 0.0f);
    Pairs near(hulls_.size());
    float order[block_size]; // of the hull that each particle meets first, so far
    uint32_t first[block_size];
    std::fill_n(order, block.count, 2.0f);
    for (int i = 0; i < block.count; ++i) {
        const Vec3 from = {starts.x[i], starts.y[i], starts.z[i]};
        const Vec3 to = {block.x[i], block.y[i], block.z[i]};
        const float r = block.size[i] * 0.5f;
        const Vec3 radius = {r, r, r};
        each_near(lower(from, to) - radius, higher(from, to) + radius, met.of,
                  [&](uint32_t hull) { near.add(hull, uint32_t(i)); });
    }
    if (near.empty()) {
        return;
    }
    Gathered gathered;
    near.each_hull([&](uint32_t hull, std::span<const uint32_t> particles) {
        alignas(64) float of_hull[block_size];
        gathered.take_paths(particles, block, starts);
        kernels.meet_hull(hulls_[hull].row, gathered.starts, gathered.block, of_hull);
        for (size_t j = 0; j < particles.size(); ++j) {
            const uint32_t i = particles[j];
            if (of_hull[j] < order[i] || (of_hull[j] == order[i] && of_hull[j] < 2 && hull < first[i])) {
                order[i] = of_hull[j];
                first[i] = hull;
            }
        }
    });
    Pairs hits(hulls_.size());
    for (int i = 0; i < block.count; ++i) {
        if (order[i] < 2) {
            hits.add(first[i], uint32_t(i));
        }
    }
    hits.each_hull([&](uint32_t number, std::span<const uint32_t> particles) {
        const Hull& hull = hulls_[number];
        Impacts own;
        gathered.take(particles, block, starts);
        kernels.collide(with_surface(hull.row, surface), gathered.starts, step_s, gathered.block, &own);
        if (met.push_kg > 0) {
            add_push(hull, boxes_[number], particles, block, gathered.block, met.push_kg, pushes);
        }
        gathered.put_back(particles, block);
        for (size_t j = 0; j < particles.size(); ++j) {
            const size_t i = particles[j];
            if (own.speed[j] > 0) {
                impacts.speed[i] = own.speed[j];
                impacts.normal_x[i] = own.normal_x[j];
                impacts.normal_y[i] = own.normal_y[j];
                impacts.normal_z[i] = own.normal_z[j];
            }
        }
    });
}

// All that one piece feels of a block together: the momentum that its particles lose, where they are hit.
void PieceHulls::add_push(const Hull& hull, const Box& box, std::span<const uint32_t> particles,
                          const ParticleBlock& before, const ParticleBlock& after, float kg,
                          std::vector<PiecePush>& pushes) {
    PiecePush sum{box.breakable, hull.number, {}, {}};
    float weights = 0;
    for (size_t j = 0; j < particles.size(); ++j) {
        const size_t i = particles[j];
        const Vec3 lost =
            Vec3{before.vx[i] - after.vx[j], before.vy[i] - after.vy[j], before.vz[i] - after.vz[j]} * kg;
        const Vec3 place = higher(box.low, lower(box.high, {after.x[j], after.y[j], after.z[j]}));
        const float weight = length(lost);
        sum.impulse += lost;
        sum.place += place * weight;
        weights += weight;
    }
    if (weights > 0) {
        sum.place = sum.place * (1 / weights);
        pushes.push_back(sum);
    }
}

const ColliderRow* PieceHulls::touching(const Vec3& place, float radius, bool at_end,
                                        std::optional<size_t> of) const {
    const float most = 0.005f + 0.1f * radius; // m, off the surface
    const Vec3 around = Vec3{1, 1, 1} * (radius + most);
    const ColliderRow* nearest = nullptr;
    float least = most;
    size_t number = 0; // of the nearest
    each_near(place - around, place + around, of, [&](uint32_t hull) {
        const ColliderRow& row = hulls_[hull].row;
        const Axes axes = {row.axis_x, row.axis_y, row.axis_z};
        const Axes turned = {row.turned_x, row.turned_y, row.turned_z};
        const Vec3 from = at_end ? place - row.position : turned.out(place - row.was_position);
        const Vec3 p = axes.in(from);
        float off = -1e30f;
        for (size_t i = 0; i < size_t(row.grid_cells.x); ++i) {
            const float* plane = row.grid + 4 * i;
            off = std::max(off, dot(p, {plane[0], plane[1], plane[2]}) - plane[3] * row.half_size.x - radius);
        }
        if (off < least || (off == least && nearest != nullptr && hull < number)) {
            least = off;
            nearest = &row;
            number = hull;
        }
    });
    return nearest;
}

} // namespace ember
