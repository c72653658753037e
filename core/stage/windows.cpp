#include "core/stage/windows.h"

#include "core/stage/placements.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace ember {

const WindowGrids& StageWindows::update(const PreparedEffect& prepared, double time_s) {
    const Effect& effect = *prepared.effect;
    std::erase_if(grids_, [&](const auto& entry) { return entry.first >= effect.elements.size(); });
    std::vector<Placement> placements;
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const auto* carrier = std::get_if<GridFlow>(&effect.elements[i].body);
        if (carrier != nullptr && carrier->grid == FlowGrid::smoke && flow_) {
            grids_[i] = flow_;
            continue;
        }
        const auto* map = std::get_if<HeightMap>(&effect.elements[i].body);
        const auto* mesh = std::get_if<MeshCollider>(&effect.elements[i].body);
        const bool has_window = (map != nullptr && map->from == HeightsFrom::stage) ||
                                (mesh != nullptr && mesh->area > 0 && prepared.elements[i]->distances);
        if (!has_window) {
            grids_.erase(i);
            continue;
        }
        if (placements.empty()) {
            placements = placements_at(prepared, time_s);
        }
        if (map != nullptr) {
            capture_heights(prepared, placements, i, *map);
        } else {
            cut_out_distances(prepared, placements, i, *mesh);
        }
    }
    return grids_;
}

// A new grid to be filled, or nothing if the one that is there was made from the same.
std::shared_ptr<GridTable> StageWindows::renewed(size_t element, Origin origin) {
    if (grids_.contains(element) && made_of_[element] == origin) {
        return nullptr;
    }
    made_of_[element] = std::move(origin);
    auto grid = std::make_shared<GridTable>();
    grids_[element] = grid;
    return grid;
}

// Particles are dropped from above on everything that stands within the area; where they come to lie is how
// high it is.
void StageWindows::capture_heights(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                                   size_t element, const HeightMap& map) {
    const Effect& effect = *prepared.effect;
    const Vec3 middle = placements[element].position;
    const int cells = map.resolution;
    const float cell_x = map.size.x / float(cells - 1), cell_z = map.size.z / float(cells - 1);
    Origin origin;
    origin.low = {int(std::floor(middle.x / cell_x)) - cells / 2, 0,
                  int(std::floor(middle.z / cell_z)) - cells / 2};
    std::vector<ColliderRow> rows;
    for (size_t j = 0; j < effect.elements.size(); ++j) {
        ColliderRow row{};
        const bool stands = !std::holds_alternative<HeightMap>(effect.elements[j].body) &&
                            is_active(effect, effect.elements[j]) &&
                            collider_row(prepared, j, grids_, placements[j], placements[j], 1, row);
        if (stands) {
            row.on_hit = HIT_BOUNCE;
            row.bounce = 0;
            row.friction = 1e6f;
            rows.push_back(row);
            origin.elements.push_back(prepared.elements[j]);
            origin.placements.push_back(placements[j]);
        }
    }
    origin.elements.push_back(prepared.elements[element]);
    origin.placements.push_back({{0, middle.y, 0}, {}});
    const float low_x = float(origin.low[0]) * cell_x, low_z = float(origin.low[2]) * cell_z;
    const auto grid = renewed(element, origin);
    if (!grid) {
        return;
    }
    grid->cells = {float(cells), 1, float(cells)};
    grid->low = {low_x - middle.x, 0, low_z - middle.z};
    grid->per_cell = {1 / cell_x, 0, 1 / cell_z};
    grid->values.resize(size_t(cells) * size_t(cells));

    const float top = middle.y + map.size.y, bottom = middle.y - map.size.y;
    constexpr float fall_s = 1;
    const size_t total = grid->values.size();
    tbb::parallel_for(size_t(0), (total + block_size - 1) / block_size, [&](size_t b) {
        const auto block = std::make_unique<ParticleBlock>();
        const auto starts = std::make_unique<PathStarts>();
        block->count = int(std::min<size_t>(block_size, total - b * block_size));
        for (const ColliderRow& row : rows) {
            for (int i = 0; i < block->count; ++i) {
                const size_t index = b * block_size + size_t(i);
                block->x[i] = starts->x[i] = low_x + cell_x * float(index % size_t(cells));
                block->z[i] = starts->z[i] = low_z + cell_z * float(index / size_t(cells));
                starts->y[i] = top;
                block->y[i] = bottom;
                block->vx[i] = starts->vx[i] = 0;
                block->vz[i] = starts->vz[i] = 0;
                block->vy[i] = starts->vy[i] = (bottom - top) / fall_s;
                block->age[i] = 1e3f;
                block->size[i] = 0;
            }
            kernels_->collide(row, *starts, fall_s, *block, nullptr);
            for (int i = 0; i < block->count; ++i) {
                float& height = grid->values[b * block_size + size_t(i)];
                const float found = std::clamp(block->y[i], bottom, top) - middle.y;
                height = &row == &rows.front() ? found : std::max(height, found);
            }
        }
        if (rows.empty()) {
            std::fill_n(&grid->values[b * block_size], block->count, bottom - middle.y);
        }
    });
}

void StageWindows::cut_out_distances(const PreparedEffect& prepared, const std::vector<Placement>& placements,
                                     size_t element, const MeshCollider& collider) {
    const DistanceField& field = *prepared.elements[element]->distances;
    const auto ridden = prepared.index_of(collider.area_rides_on);
    const Vec3 middle =
        ridden ? placements[element].in(placements[*ridden].position) / collider.scale : Vec3();
    const int cells = collider.resolution;
    const auto low_of = [&](float place) { return int(std::floor(place / field.cell() + 0.5f)) - cells / 2; };
    Origin origin{{low_of(middle.x), low_of(middle.y), low_of(middle.z)}, {prepared.elements[element]}, {}};
    const std::array<int, 3> low = origin.low;
    const auto grid = renewed(element, std::move(origin));
    if (!grid) {
        return;
    }
    grid->values.resize(size_t(cells) * size_t(cells) * size_t(cells));
    field.fill(low, {cells, cells, cells}, grid->values.data());
    for (float& value : grid->values) {
        value *= collider.scale;
    }
    const float cell = field.cell() * collider.scale;
    grid->cells = {float(cells), float(cells), float(cells)};
    grid->low = Vec3{float(low[0]), float(low[1]), float(low[2])} * cell;
    grid->per_cell = {1 / cell, 1 / cell, 1 / cell};
}

} // namespace ember
