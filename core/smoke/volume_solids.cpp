// Where a volume is open, and what its obstacles do to it.
#include "core/smoke/obstacles.h"
#include "core/smoke/pockets.h"
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

#include <algorithm>
#include <cmath>

namespace ember {

// Faces between cells of gas are open, and so are sides that the gas may leave by.
void SmokeVolume::open_faces(const CellBox& box) {
    const bool sides = smoke_.sides != SmokeSides::closed, floor = smoke_.sides == SmokeSides::open;
    const int deep = box.high[2] - box.low[2] + 1;
    each_slice(size_.cells(), deep, [&](int part) {
        const int z = box.low[2] + part;
        for (int y = box.low[1]; y <= box.high[1]; ++y) {
            const bool in_y = y < size_.y, in_z = z < size_.z;
            for (int x = box.low[0]; x <= box.high[0]; ++x) {
                const size_t at = size_.at(x, y, z);
                const bool in_x = x < size_.x;
                // Beyond the sides nothing is solid; what is open there is the sides' own.
                const bool here = solid_[at] == 0;
                const auto is_open = [&](size_t below, int place, int count, bool low_side, bool high_side) {
                    const bool is_side_open = place == 0 ? low_side : place == count ? high_side : true;
                    return here && solid_[below] == 0 && is_side_open ? 1.0f : 0.0f;
                };
                open_[0][at] = in_y && in_z ? is_open(at - 1, x, size_.x, sides, sides) : 0.0f;
                open_[1][at] = in_x && in_z ? is_open(at - size_.stride(), y, size_.y, floor, sides) : 0.0f;
                open_[2][at] = in_x && in_y ? is_open(at - size_.slice(), z, size_.z, sides, sides) : 0.0f;
            }
        }
    });
    pressure_.set_open(size_, open_, box);
}

namespace {

// What a cell can tell apart. Gas that obstacles enclose is solid, too.
constexpr size_t most_obstacles = 65'534;
constexpr uint16_t pocket = 65'535;

bool meet(const CellBox& a, const CellBox& b) {
    bool does = true;
    for (int axis = 0; axis < 3; ++axis) {
        does = does && a.low[axis] < b.high[axis] && b.low[axis] < a.high[axis];
    }
    return does;
}

void widen(CellBox& box, const CellBox& by) {
    if (by.is_empty()) {
        return;
    }
    const bool was_empty = box.is_empty();
    for (int axis = 0; axis < 3; ++axis) {
        box.low[axis] = was_empty ? by.low[axis] : std::min(box.low[axis], by.low[axis]);
        box.high[axis] = was_empty ? by.high[axis] : std::max(box.high[axis], by.high[axis]);
    }
}

} // namespace

// Marks the cells of the obstacles that are not where they were; the first of several in one place counts.
void SmokeVolume::mark_obstacles(const std::vector<ColliderRow>& obstacles) {
    const auto is_same = [](const ColliderRow& a, const ColliderRow& b) {
        return a.kind == b.kind && a.position == b.position && a.axis_x == b.axis_x && a.axis_y == b.axis_y &&
               a.half_size == b.half_size && a.grid == b.grid;
    };
    std::vector<CellBox> changed;
    for (size_t i = 0; i < std::max(obstacles.size(), obstacles_.size()); ++i) {
        const bool was = i < obstacles_.size(), is = i < obstacles.size();
        if (was && is && is_same(obstacles_[i], obstacles[i])) {
            continue;
        }
        CellBox box;
        if (was) {
            widen(box, reach_of_obstacle(obstacles_[i], size_));
        }
        if (is) {
            widen(box, reach_of_obstacle(obstacles[i], size_));
        }
        if (!box.is_empty()) {
            changed.push_back(box);
        }
    }
    obstacles_ = obstacles;
    obstacles_.resize(std::min(obstacles_.size(), most_obstacles));
    if (changed.empty()) {
        return;
    }
    const std::vector<CellBox> opened = open_pockets();
    std::vector<CellBox> reaches;
    for (const ColliderRow& obstacle : obstacles_) {
        reaches.push_back(reach_of_obstacle(obstacle, size_));
    }
    for (const CellBox& box : changed) {
        std::vector<size_t> near;
        for (size_t i = 0; i < obstacles_.size(); ++i) {
            if (meet(reaches[i], box)) {
                near.push_back(i);
            }
        }
        each_slice(size_.cells(), box.high[2] - box.low[2], [&](int part) {
            const int z = box.low[2] + part;
            for (int y = box.low[1]; y < box.high[1]; ++y) {
                for (int x = box.low[0]; x < box.high[0]; ++x) {
                    const Vec3 middle = size_.middle(x, y, z);
                    const auto found = std::find_if(near.begin(), near.end(), [&](size_t i) {
                        return distance_to(obstacles_[i], middle) < 0;
                    });
                    solid_[size_.at(x, y, z)] = found != near.end() ? uint16_t(*found + 1) : uint16_t(0);
                }
            }
        });
    }
    const std::vector<CellBox> closed = close_pockets();
    for (const auto& boxes : {changed, opened, closed}) {
        for (const CellBox& box : boxes) {
            open_faces(box);
        }
    }
}

// Where there were pockets.
std::vector<CellBox> SmokeVolume::open_pockets() {
    std::vector<CellBox> boxes;
    for (int z = 0; z < size_.z; ++z) {
        for (int y = 0; y < size_.y; ++y) {
            uint16_t* row = solid_.data() + size_.at(0, y, z);
            for (int x = 0; x < size_.x; ++x) {
                if (row[x] == pocket) {
                    row[x] = 0;
                    boxes.push_back({{x, y, z}, {x + 1, y + 1, z + 1}});
                }
            }
        }
    }
    return boxes;
}

// Where there are some now.
std::vector<CellBox> SmokeVolume::close_pockets() {
    std::vector<CellBox> boxes;
    for (const CellSpan& span : enclosed_gas(size_, smoke_.sides, solid_)) {
        std::fill_n(solid_.begin() + std::ptrdiff_t(size_.at(span.low, span.y, span.z)), span.high - span.low,
                    pocket);
        boxes.push_back({{span.low, span.y, span.z}, {span.high, span.y + 1, span.z + 1}});
    }
    return boxes;
}

// Solid cells beside gas take on what it holds, so that no smoke is lost to them between cells.
void SmokeVolume::spread_into_solids() {
    if (obstacles_.empty()) {
        return;
    }
    each_row(size_, [&](int y, int z) {
        each_hemmed_in(y, z, [&](int x) {
            if (solid_[size_.at(x, y, z)] == 0) {
                return;
            }
            SmokeCell& own = cells_[size_.packed(x, y, z)];
            float density = 0, heat = 0, count = 0;
            const auto add = [&](int i, int j, int k) {
                const bool is_in = i >= 0 && j >= 0 && k >= 0 && i < size_.x && j < size_.y && k < size_.z;
                if (is_in && solid_[size_.at(i, j, k)] == 0) {
                    density += cells_[size_.packed(i, j, k)].density;
                    heat += cells_[size_.packed(i, j, k)].heat;
                    ++count;
                }
            };
            add(x - 1, y, z);
            add(x + 1, y, z);
            add(x, y - 1, z);
            add(x, y + 1, z);
            add(x, y, z - 1);
            add(x, y, z + 1);
            own.density = count > 0 ? density / count : 0;
            own.heat = count > 0 ? heat / count : 0;
        });
    });
}

// Faces that are closed move as what closes them does.
void SmokeVolume::hold_solids() {
    const auto hold = [&](int x, int y, int z) {
        const size_t at = size_.at(x, y, z);
        const size_t below[3] = {at - 1, at - size_.stride(), at - size_.slice()};
        for (int axis = 0; axis < 3; ++axis) {
            if (open_[axis][at] > 0) {
                continue;
            }
            float speed = 0;
            const uint16_t solid = solid_[at] != 0 ? solid_[at] : solid_[below[axis]];
            if (solid != 0 && solid != pocket && obstacles_[solid - 1].is_moving != 0) {
                Vec3 place = size_.middle(x, y, z);
                (axis == 0 ? place.x : axis == 1 ? place.y : place.z) -= 0.5f * size_.cell;
                const Vec3 velocity = velocity_of(obstacles_[solid - 1], place);
                speed = axis == 0 ? velocity.x : axis == 1 ? velocity.y : velocity.z;
            }
            faces_[axis][at] = speed;
        }
    };
    each_row(
        size_,
        [&](int y, int z) {
            if (y < size_.y && z < size_.z) {
                each_hemmed_in(y, z, [&](int x) {
                    hold(x, y, z);
                    if (x + 1 == size_.x) {
                        hold(x + 1, y, z);
                    }
                });
                return;
            }
            for (int x = 0; x <= size_.x; ++x) {
                hold(x, y, z);
            }
        },
        1);
}

} // namespace ember
