#include "core/scene/windows.h"

#include "core/base/stopwatch.h"
#include "core/scene/placements.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <utility>

namespace ember {

namespace {

bool has_window(const PreparedEffect& prepared, size_t i) {
    const ElementBody& body = prepared.effect->elements[i].body;
    const auto* map = std::get_if<HeightMap>(&body);
    const auto* mesh = std::get_if<MeshCollider>(&body);
    const bool has = (map != nullptr && map->from == HeightsFrom::stage) ||
                     (mesh != nullptr && mesh->area > 0 && prepared.elements[i]->distances);
    return has && is_active(*prepared.effect, prepared.effect->elements[i]);
}

} // namespace

void StageWindows::take_over(const PreparedEffect& prepared) {
    const Effect& effect = *prepared.effect;
    grids_.clear();
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const auto* carrier = std::get_if<GridFlow>(&effect.elements[i].body);
        const auto window = windows_.find(effect.elements[i].id);
        if (carrier != nullptr && carrier->grid == FlowGrid::smoke && flow_) {
            grids_[i] = flow_;
        } else if (window != windows_.end() && has_window(prepared, i) &&
                   window->second.kind == effect.elements[i].body.index()) {
            grids_[i] = window->second.grid;
        }
    }
}

const WindowGrids& StageWindows::update(const PreparedEffect& prepared,
                                        const std::vector<Placement>& placements, Meters& meters) {
    const Effect& effect = *prepared.effect;
    Kept kept;
    take_over(prepared);
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        if (!has_window(prepared, i)) {
            continue;
        }
        const Stopwatch watch;
        Window& window = kept[effect.elements[i].id] = std::move(windows_[effect.elements[i].id]);
        const auto* map = std::get_if<HeightMap>(&effect.elements[i].body);
        window.kind = effect.elements[i].body.index();
        meters.elements[i].cells_captured =
            map != nullptr ? capture_heights(prepared, placements, i, *map, window)
                           : cut_out_distances(prepared, placements, i,
                                               std::get<MeshCollider>(effect.elements[i].body), window);
        grids_[i] = window.grid;
        meters.elements[i].ms += watch.elapsed_ms();
        meters.collision_ms += watch.elapsed_ms();
    }
    windows_ = std::move(kept);
    return grids_;
}

namespace {

using Cells = std::array<int, 4>;

Cells joined(const Cells& a, const Cells& b) {
    return {std::min(a[0], b[0]), std::max(a[1], b[1]), std::min(a[2], b[2]), std::max(a[3], b[3])};
}

bool is_empty(const Cells& cells) {
    return cells[0] > cells[1] || cells[2] > cells[3];
}

// Half of the sides of the box round a collider, in its own axes, and the box's middle; a plane is
// everywhere.
struct Extent {
    Vec3 middle, half;
};
std::optional<Extent> extent_of(const ColliderRow& row) {
    switch (row.kind) {
    case COLLIDER_PLANE:
        return std::nullopt;
    case COLLIDER_CAPSULE:
        return Extent{{}, {row.half_size.x, row.half_size.y + row.half_size.x, row.half_size.x}};
    case COLLIDER_DISTANCES: {
        const Vec3 half = (row.grid_cells - Vec3{1, 1, 1}) * (0.5f / row.per_cell.x);
        return Extent{row.grid_low + half, half};
    }
    default:
        return Extent{{}, row.half_size};
    }
}

// The columns and rows of a map that a collider may reach; those beyond the map are left out.
Cells cells_of(const ColliderRow& row, const Vec3& low, float cell_x, float cell_z, int cells) {
    const std::optional<Extent> extent = extent_of(row);
    if (!extent) {
        return {0, cells - 1, 0, cells - 1};
    }
    const Vec3 middle = row.position + row.axis_x * extent->middle.x + row.axis_y * extent->middle.y +
                        row.axis_z * extent->middle.z;
    const auto wide = [&](float x, float y, float z) {
        return std::fabs(x) * extent->half.x + std::fabs(y) * extent->half.y + std::fabs(z) * extent->half.z;
    };
    const float half_x = wide(row.axis_x.x, row.axis_y.x, row.axis_z.x);
    const float half_z = wide(row.axis_x.z, row.axis_y.z, row.axis_z.z);
    const auto at = [&](float place, float cell) {
        return int(std::clamp(std::floor(place / cell), -1.0f, float(cells)));
    };
    return {std::max(at(middle.x - half_x - low.x, cell_x), 0),
            std::min(at(middle.x + half_x - low.x, cell_x) + 1, cells - 1),
            std::max(at(middle.z - half_z - low.z, cell_z), 0),
            std::min(at(middle.z + half_z - low.z, cell_z) + 1, cells - 1)};
}

} // namespace

// Of what stands within the area only that which has moved, and where it was before, is captured anew.
size_t StageWindows::capture_heights(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                                     size_t element, const HeightMap& map, Window& window) {
    const Effect& effect = *prepared.effect;
    const Vec3 middle = placements[element].position;
    const int cells = map.resolution;
    const float cell_x = map.size.x / float(cells - 1), cell_z = map.size.z / float(cells - 1);
    Origin origin;
    origin.low = {int(std::floor(middle.x / cell_x)) - cells / 2, 0,
                  int(std::floor(middle.z / cell_z)) - cells / 2};
    const Vec3 low = {float(origin.low[0]) * cell_x, 0, float(origin.low[2]) * cell_z};
    std::vector<Standing> standing;
    for (size_t j = 0; j < effect.elements.size(); ++j) {
        ColliderRow row{};
        const Surface* surface = surface_of(effect.elements[j].body);
        const bool stands = surface != nullptr && surface->captured &&
                            !std::holds_alternative<HeightMap>(effect.elements[j].body) &&
                            is_active(effect, effect.elements[j]) &&
                            collider_row(prepared, j, grids_, placements[j], placements[j], 1, row);
        if (stands) {
            row.on_hit = HIT_BOUNCE;
            row.bounce = 0;
            row.friction = 1e6f;
            standing.push_back({row, cells_of(row, low, cell_x, cell_z, cells)});
            origin.elements.push_back(prepared.elements[j]);
            origin.placements.push_back(placements[j]);
            origin.cells.push_back(standing.back().cells);
        }
    }
    origin.elements.push_back(prepared.elements[element]);
    origin.placements.push_back({{0, middle.y, 0}, {}});
    origin.cells.push_back({0, -1, 0, -1});

    const Origin before = std::exchange(window.made_of, origin);
    const std::shared_ptr<const GridTable> last = window.grid;
    Cells changed = {0, cells - 1, 0, cells - 1};
    if (last && before.low == origin.low && before.elements == origin.elements &&
        before.placements.back() == origin.placements.back()) {
        changed = {cells, -1, cells, -1};
        for (size_t i = 0; i + 1 < origin.placements.size(); ++i) {
            for (const Cells& reached : {before.cells[i], origin.cells[i]}) {
                if (before.placements[i] != origin.placements[i] && !is_empty(reached)) {
                    changed = joined(changed, reached);
                }
            }
        }
        if (is_empty(changed)) {
            return 0;
        }
    }
    const auto grid = std::make_shared<GridTable>();
    window.grid = grid;
    grid->cells = {float(cells), 1, float(cells)};
    grid->low = {low.x - middle.x, 0, low.z - middle.z};
    grid->per_cell = {1 / cell_x, 0, 1 / cell_z};
    if (last && last->values.size() == size_t(cells) * size_t(cells)) {
        grid->values = last->values;
    } else {
        grid->values.resize(size_t(cells) * size_t(cells));
    }
    capture_cells(standing, map, middle, changed, *grid);
    return size_t(changed[1] - changed[0] + 1) * size_t(changed[3] - changed[2] + 1);
}

// Particles are dropped from above on what stands there; where they come to lie is how high it is.
void StageWindows::capture_cells(const std::vector<Standing>& standing, const HeightMap& map,
                                 const Vec3& middle, const Cells& cells, GridTable& grid) const {
    const auto columns = size_t(grid.cells.x);
    const size_t wide = size_t(cells[1] - cells[0] + 1), total = wide * size_t(cells[3] - cells[2] + 1);
    const float top = middle.y + map.size.y, bottom = middle.y - map.size.y;
    constexpr float fall_s = 1;
    tbb::parallel_for(size_t(0), (total + block_size - 1) / block_size, [&](size_t b) {
        const auto block = std::make_unique<ParticleBlock>();
        const auto starts = std::make_unique<PathStarts>();
        block->count = int(std::min<size_t>(block_size, total - b * block_size));
        const auto column = [&](int i) { return size_t(cells[0]) + (b * block_size + size_t(i)) % wide; };
        const auto row_of = [&](int i) { return size_t(cells[2]) + (b * block_size + size_t(i)) / wide; };
        const int first_row = int(row_of(0)), last_row = int(row_of(block->count - 1));
        for (int i = 0; i < block->count; ++i) {
            grid.values[row_of(i) * columns + column(i)] = bottom - middle.y;
        }
        for (const Standing& one : standing) {
            const bool is_near = one.cells[0] <= cells[1] && one.cells[1] >= cells[0] &&
                                 one.cells[2] <= last_row && one.cells[3] >= first_row;
            if (!is_near) {
                continue;
            }
            for (int i = 0; i < block->count; ++i) {
                block->x[i] = starts->x[i] = middle.x + grid.low.x + float(column(i)) / grid.per_cell.x;
                block->z[i] = starts->z[i] = middle.z + grid.low.z + float(row_of(i)) / grid.per_cell.z;
                starts->y[i] = top;
                block->y[i] = bottom;
                block->vx[i] = starts->vx[i] = 0;
                block->vz[i] = starts->vz[i] = 0;
                block->vy[i] = starts->vy[i] = (bottom - top) / fall_s;
                block->age[i] = 1e3f;
                block->size[i] = 0;
            }
            kernels_->collide(one.row, *starts, fall_s, *block, nullptr);
            for (int i = 0; i < block->count; ++i) {
                float& height = grid.values[row_of(i) * columns + column(i)];
                height = std::max(height, std::clamp(block->y[i], bottom, top) - middle.y);
            }
        }
    });
}

size_t StageWindows::cut_out_distances(const PreparedEffect& prepared,
                                       const std::vector<Placement>& placements, size_t element,
                                       const MeshCollider& collider, Window& window) {
    const DistanceField& field = *prepared.elements[element]->distances;
    const auto ridden = prepared.index_of(collider.area_rides_on);
    const Vec3 middle =
        ridden ? placements[element].in(placements[*ridden].position) / collider.scale : Vec3();
    const int cells = collider.resolution;
    const auto low_of = [&](float place) { return int(std::floor(place / field.cell() + 0.5f)) - cells / 2; };
    Origin origin{
        {low_of(middle.x), low_of(middle.y), low_of(middle.z)}, {prepared.elements[element]}, {}, {}};
    const std::array<int, 3> low = origin.low;
    if (window.grid && window.made_of == origin) {
        return 0;
    }
    window.made_of = std::move(origin);
    const auto grid = std::make_shared<GridTable>();
    window.grid = grid;
    grid->values.resize(size_t(cells) * size_t(cells) * size_t(cells));
    field.fill(low, {cells, cells, cells}, grid->values.data());
    for (float& value : grid->values) {
        value *= collider.scale;
    }
    const float cell = field.cell() * collider.scale;
    grid->cells = {float(cells), float(cells), float(cells)};
    grid->low = Vec3{float(low[0]), float(low[1]), float(low[2])} * cell;
    grid->per_cell = {1 / cell, 1 / cell, 1 / cell};
    return grid->values.size();
}

} // namespace ember
