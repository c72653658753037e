#include "core/runtime/piece_hulls.h"

#include "core/geometry/hull_planes.h"

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

// Half of the box, along the world's axes, round a turned box.
Vec3 half_of(const Vec3& half, const Axes& axes) {
    const auto along = [&](float x, float y, float z) {
        return std::fabs(x) * half.x + std::fabs(y) * half.y + std::fabs(z) * half.z;
    };
    return {along(axes.x.x, axes.y.x, axes.z.x), along(axes.x.y, axes.y.y, axes.z.y),
            along(axes.x.z, axes.y.z, axes.z.z)};
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

// `visit(pairs of one hull)`, hull by hull; pairs are in order of hulls.
template <class Pair>
void each_hull(std::span<Pair> pairs, auto visit) {
    while (!pairs.empty()) {
        const auto end = std::find_if(pairs.begin(), pairs.end(),
                                      [&](const Pair& each) { return each.hull != pairs[0].hull; });
        const auto count = size_t(end - pairs.begin());
        visit(pairs.first(count));
        pairs = pairs.subspan(count);
    }
}

} // namespace

// Particles taken out of a block, side by side.
struct PieceHulls::Gathered {
    ParticleBlock block;
    PathStarts starts{};

    void take(std::span<const Pair> pairs, const ParticleBlock& from, const PathStarts& from_starts) {
        block.count = int(pairs.size());
        for (size_t j = 0; j < pairs.size(); ++j) {
            const size_t i = pairs[j].particle;
            block.x[j] = from.x[i];
            block.y[j] = from.y[i];
            block.z[j] = from.z[i];
            block.vx[j] = from.vx[i];
            block.vy[j] = from.vy[i];
            block.vz[j] = from.vz[i];
            block.age[j] = from.age[i];
            block.lifetime[j] = from.lifetime[i];
            block.size[j] = from.size[i];
            block.number[j] = from.number[i];
            starts.x[j] = from_starts.x[i];
            starts.y[j] = from_starts.y[i];
            starts.z[j] = from_starts.z[i];
            starts.vx[j] = from_starts.vx[i];
            starts.vy[j] = from_starts.vy[i];
            starts.vz[j] = from_starts.vz[i];
        }
    }
    // What a hit changes.
    void put_back(std::span<const Pair> pairs, ParticleBlock& to) const {
        for (size_t j = 0; j < pairs.size(); ++j) {
            const size_t i = pairs[j].particle;
            to.x[i] = block.x[j];
            to.y[i] = block.y[j];
            to.z[i] = block.z[j];
            to.vx[i] = block.vx[j];
            to.vy[i] = block.vy[j];
            to.vz[i] = block.vz[j];
            to.age[i] = block.age[j];
        }
    }
};

const std::vector<std::vector<float>>& HullTables::of(const std::shared_ptr<const Cut>& cut) {
    const auto [found, is_new] = of_cuts_.try_emplace(cut);
    if (is_new) {
        for (const Piece& piece : cut->pieces) {
            found->second.push_back(hull_planes(piece.mesh));
        }
    }
    return found->second;
}

void HullTables::keep_only(std::span<const FrameDebris> shown) {
    std::erase_if(of_cuts_, [&](const auto& entry) {
        return std::none_of(shown.begin(), shown.end(),
                            [&](const FrameDebris& each) { return each.cut == entry.first; });
    });
}

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
            hull.breakable = breakable.element;
            hull.number = piece.number;
            hull.row.kind = COLLIDER_HULL;
            hull.row.half_size = {piece.size, piece.size, piece.size};
            hull.row.grid = own.data();
            hull.row.grid_cells = {float(own.size() / 4), 1, 1};
            set_motion(hull.row, from, piece.placement, step_s);

            const Mesh& mesh = breakable.cut->pieces[piece.piece].mesh;
            const Vec3 low = mesh.low(), high = mesh.high();
            const Vec3 middle = (low + high) * (0.5f * piece.size), half = (high - low) * (0.5f * piece.size);
            hull.low = Vec3{1e30f, 1e30f, 1e30f};
            hull.high = hull.low * -1.0f;
            for (const Placement& at : {from, piece.placement}) {
                const Vec3 place = at.position + at.axes.out(middle), reach = half_of(half, at.axes);
                hull.low = lower(hull.low, place - reach);
                hull.high = higher(hull.high, place + reach);
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

size_t PieceHulls::Cells::index(const std::array<int, 3>& cell) const {
    return size_t((cell[2] * counts[1] + cell[1]) * counts[0] + cell[0]);
}

size_t PieceHulls::Cells::between(const Vec3& from, const Vec3& to) const {
    const std::array<int, 3> first = at(from), last = at(to);
    return size_t(last[0] - first[0] + 1) * size_t(last[1] - first[1] + 1) * size_t(last[2] - first[2] + 1);
}

template <class Visit>
void PieceHulls::Cells::each(const Vec3& from, const Vec3& to, Visit visit) const {
    const std::array<int, 3> first = at(from), last = at(to);
    for (int z = first[2]; z <= last[2]; ++z) {
        for (int y = first[1]; y <= last[1]; ++y) {
            for (int x = first[0]; x <= last[0]; ++x) {
                visit(index({x, y, z}));
            }
        }
    }
}

// A cell is about as large as a piece.
void PieceHulls::sort_into_cells() {
    if (hulls_.empty()) {
        return;
    }
    Vec3 low = hulls_[0].low, high = hulls_[0].high, sizes;
    for (const Hull& hull : hulls_) {
        low = lower(low, hull.low);
        high = higher(high, hull.high);
        sizes += hull.high - hull.low;
    }
    constexpr float most = 48;
    const float piece = std::max(std::max({sizes.x, sizes.y, sizes.z}) / float(hulls_.size()), 1e-4f);
    const Vec3 extent = high - low;
    const float extents[3] = {extent.x, extent.y, extent.z};
    float per_cell[3];
    for (int axis = 0; axis < 3; ++axis) {
        cells_.counts[axis] = int(std::clamp(std::ceil(extents[axis] / piece), 1.0f, most));
        per_cell[axis] = float(cells_.counts[axis]) / std::max(extents[axis], 1e-4f);
    }
    cells_.low = low;
    cells_.per_cell = {per_cell[0], per_cell[1], per_cell[2]};

    const size_t count = size_t(cells_.counts[0]) * size_t(cells_.counts[1]) * size_t(cells_.counts[2]);
    starts_.assign(count + 1, 0);
    const auto each_cell = [&](auto visit) {
        for (uint32_t i = 0; i < hulls_.size(); ++i) {
            cells_.each(hulls_[i].low, hulls_[i].high, [&](size_t cell) { visit(i, cell); });
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

// Once for each hull whose box meets this one, in no order. What sweeps over more cells than there are pieces
// looks at the pieces.
template <class Visit>
void PieceHulls::each_near(const Vec3& low, const Vec3& high, std::optional<size_t> of, Visit visit) const {
    if (hulls_.empty()) {
        return;
    }
    const auto meets = [&](const Hull& hull) {
        return hull.low.x <= high.x && hull.high.x >= low.x && hull.low.y <= high.y && hull.high.y >= low.y &&
               hull.low.z <= high.z && hull.high.z >= low.z && (!of || hull.breakable == *of);
    };
    if (cells_.between(low, high) > hulls_.size()) {
        for (uint32_t i = 0; i < hulls_.size(); ++i) {
            if (meets(hulls_[i])) {
                visit(i);
            }
        }
        return;
    }
    cells_.each(low, high, [&](size_t cell) {
        for (uint32_t at = starts_[cell]; at < starts_[cell + 1]; ++at) {
            const Hull& hull = hulls_[in_cells_[at]];
            // Of the cells that both lie in, only the first counts.
            if (meets(hull) && cells_.index(cells_.at(higher(low, hull.low))) == cell) {
                visit(in_cells_[at]);
            }
        }
    });
}

void PieceHulls::collide(const ColliderRow& surface, const MetPieces& met, const PathStarts& starts,
                         float step_s, ParticleBlock& block, Impacts& impacts, std::vector<PiecePush>& pushes,
                         const BlockKernels& kernels) const {
    std::fill_n(impacts.speed, block_size, 0.0f);
    std::vector<Pair> near;
    std::vector<Pair> first; // of each particle
    for (int i = 0; i < block.count; ++i) {
        const Vec3 from = {starts.x[i], starts.y[i], starts.z[i]};
        const Vec3 to = {block.x[i], block.y[i], block.z[i]};
        const float r = block.size[i] * 0.5f;
        const Vec3 radius = {r, r, r};
        const size_t known = near.size();
        each_near(lower(from, to) - radius, higher(from, to) + radius, met.of, [&](uint32_t hull) {
            near.push_back({hull, uint32_t(i)});
        });
        if (near.size() == known + 1) { // nothing to compare it with
            first.push_back(near.back());
            near.pop_back();
        }
    }
    if (near.empty() && first.empty()) {
        return;
    }
    Gathered gathered;
    std::sort(near.begin(), near.end());
    each_hull(std::span(near), [&](std::span<Pair> pairs) {
        alignas(64) float order[block_size];
        gathered.take(pairs, block, starts);
        kernels.meet_hull(hulls_[pairs[0].hull].row, gathered.starts, gathered.block, order);
        for (size_t j = 0; j < pairs.size(); ++j) {
            pairs[j].order = order[j];
        }
    });
    std::sort(near.begin(), near.end(), [](const Pair& a, const Pair& b) {
        return std::tuple(a.particle, a.order, a.hull) < std::tuple(b.particle, b.order, b.hull);
    });
    for (size_t n = 0; n < near.size(); ++n) {
        if ((n == 0 || near[n - 1].particle != near[n].particle) && near[n].order < 2) {
            first.push_back(near[n]);
        }
    }
    std::sort(first.begin(), first.end());
    each_hull(std::span(first), [&](std::span<Pair> pairs) {
        const Hull& hull = hulls_[pairs[0].hull];
        Impacts own;
        gathered.take(pairs, block, starts);
        kernels.collide(with_surface(hull.row, surface), gathered.starts, step_s, gathered.block, &own);
        if (met.push_kg > 0) {
            add_push(hull, pairs, block, gathered.block, met.push_kg, pushes);
        }
        gathered.put_back(pairs, block);
        for (size_t j = 0; j < pairs.size(); ++j) {
            const size_t i = pairs[j].particle;
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
void PieceHulls::add_push(const Hull& hull, std::span<const Pair> pairs, const ParticleBlock& before,
                          const ParticleBlock& after, float kg, std::vector<PiecePush>& pushes) {
    PiecePush sum{hull.breakable, hull.number, {}, {}};
    float weights = 0;
    for (size_t j = 0; j < pairs.size(); ++j) {
        const size_t i = pairs[j].particle;
        const Vec3 lost =
            Vec3{before.vx[i] - after.vx[j], before.vy[i] - after.vy[j], before.vz[i] - after.vz[j]} * kg;
        const Vec3 place = higher(hull.low, lower(hull.high, {after.x[j], after.y[j], after.z[j]}));
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
