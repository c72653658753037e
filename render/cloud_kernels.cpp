// Compiled once for each instruction set; EMBER_ISA names the namespace (see render/CMakeLists.txt).
#include "render/cloud_kernels.h"

#include "kernels/prelude_cpp.h"

#include <algorithm>
#include <cmath>

namespace ember::EMBER_ISA {

namespace {

// A cell between eight, with all of its four numbers at once: two neighbours along x fill a register of
// eight. `is_inside`: the place is not beyond the rim; else it is held to it.
template <bool is_inside>
KERNEL CloudCell between(const CloudGrid& grid, float x, float y, float z) {
    const auto split = [](float place, int count, float& share) {
        const float held = is_inside ? place : std::min(std::max(place, -1.0f), float(count) - 0.001f);
        const int lower = int(held + 1.0f) - 1;
        share = held - float(lower);
        return lower;
    };
    float fx, fy, fz;
    const int i = split(x, grid.x, fx), j = split(y, grid.y, fy), k = split(z, grid.z, fz);
    const auto* at = reinterpret_cast<const float*>(grid.cells.data() + grid.at(i, j, k));
    const float rows[4] = {(1 - fy) * (1 - fz), fy * (1 - fz), (1 - fy) * fz, fy * fz};
    const size_t starts[4] = {0, 4 * grid.row(), 4 * grid.slice(), 4 * (grid.row() + grid.slice())};
    float sums[8] = {};
    for (int part = 0; part < 8; part += lanes) {
        real sum = load_any(at + part) * real(rows[0]);
        for (int row = 1; row < 4; ++row) {
            sum = sum + load_any(at + starts[row] + part) * real(rows[row]);
        }
        store_any(sums + part, sum);
    }
    const float near = 1 - fx;
    return {sums[0] * near + sums[4] * fx, sums[1] * near + sums[5] * fx, sums[2] * near + sums[6] * fx,
            sums[3] * near + sums[7] * fx};
}

// Depths between which a ray is in a volume.
KERNEL void pass(const CloudVolume& volume, const Vec3& eye, const Vec3& way, float& enter, float& leave) {
    const float size[3] = {float(volume.grid.x) * volume.cell, float(volume.grid.y) * volume.cell,
                           float(volume.grid.z) * volume.cell};
    const float from[3] = {eye.x - volume.low.x, eye.y - volume.low.y, eye.z - volume.low.z};
    const float along[3] = {way.x, way.y, way.z};
    for (int axis = 0; axis < 3; ++axis) {
        const float by = std::fabs(along[axis]) > 1e-9f ? 1 / along[axis] : 1e9f;
        const float a = -from[axis] * by, b = (size[axis] - from[axis]) * by;
        enter = std::max(enter, std::min(a, b));
        leave = std::min(leave, std::max(a, b));
    }
}

// Up to how much of the light a way takes: 1 - exp(-a).
KERNEL float taken(float a) {
    return a < 0.3f ? a * (1 - a * (0.5f - a * (1.0f / 6))) : 1 - std::exp(-a);
}

constexpr float cells_a_step = 1.4f;

void march(const std::vector<std::unique_ptr<CloudVolume>>& volumes, const CloudView& view, CloudMap& map,
           int row, const float* farthest) {
    const int width = map.grid.x;
    for (int column = 0; column < width; ++column) {
        const float px = (float(map.left + column) + 0.5f) * map.pixels - view.middle_x;
        const float py = (float(map.top + row) + 0.5f) * map.pixels - view.middle_y;
        const Vec3 way = view.forward + view.right * px + view.down * py;
        const float metres = std::sqrt(dot(way, way)); // for each metre of depth
        // Rays begin at different places within a step, so that steps are not seen as layers (interleaved
        // gradient noise: J. Jimenez, 2014).
        const float inner = 0.06711056f * float(map.left + column) + 0.00583715f * float(map.top + row);
        const float outer = 52.9829189f * (inner - std::floor(inner));
        const float jitter = outer - std::floor(outer);

        CloudCell sum = {0, 0, 0, 1};
        map.grid.cells[map.grid.at(column, row, 0)] = sum;
        float begin = 1e9f, end = 0, step = 1e9f;
        for (const auto& volume : volumes) {
            float enter = map.near, leave = farthest[column];
            pass(*volume, view.eye, way, enter, leave);
            if (enter < leave) {
                begin = std::min(begin, enter);
                end = std::max(end, leave);
                step = std::min(step, cells_a_step * volume->cell / metres);
            }
        }
        for (int slice = 0; slice < CloudMap::slices; ++slice) {
            const float first = map.near + float(slice) * map.depth, last = first + map.depth;
            if (last > begin && first < end && sum.thin > 0.01f) {
                const int parts = std::max(int(std::ceil(map.depth / step)), 1);
                const float part = map.depth / float(parts);
                const int from = std::max(int((begin - first) / part), 0);
                const int to = std::min(int((end - first) / part) + 1, parts);
                for (int i = from; i < to; ++i) {
                    const Vec3 place = view.eye + way * (first + (float(i) + jitter) * part);
                    for (const auto& volume : volumes) {
                        const Vec3 at = (place - volume->low) * (1 / volume->cell);
                        const CloudGrid& grid = volume->grid;
                        const bool is_in = at.x >= 0 && at.y >= 0 && at.z >= 0 && at.x < float(grid.x) &&
                                           at.y < float(grid.y) && at.z < float(grid.z);
                        if (!is_in) {
                            continue;
                        }
                        const int block =
                            (int(at.z) / 8 * volume->blocks_y + int(at.y) / 8) * volume->blocks_x +
                            int(at.x) / 8;
                        if (volume->full[size_t(block)] == 0) {
                            continue;
                        }
                        const CloudCell cell = between<true>(grid, at.x - 0.5f, at.y - 0.5f, at.z - 0.5f);
                        if (cell.thin < 1e-5f) {
                            continue;
                        }
                        const float share = taken(cell.thin * part * metres);
                        const float sends = sum.thin * share / cell.thin;
                        sum.red += cell.red * sends;
                        sum.green += cell.green * sends;
                        sum.blue += cell.blue * sends;
                        sum.thin *= 1 - share;
                    }
                }
            }
            map.grid.cells[map.grid.at(column, row, slice + 1)] = sum;
        }
    }
}

void blend(const CloudMap& map, int y, int left, int right, const float* depth, float* red, float* green,
           float* blue) {
    const float at_y = (float(y) + 0.5f) / map.pixels - 0.5f - float(map.top);
    const float per_pixel = 1 / map.pixels, per_depth = 1 / map.depth;
    for (int x = left; x < right; ++x) {
        const float at_x = (float(x) + 0.5f) * per_pixel - 0.5f - float(map.left);
        const float slice =
            std::min(std::max((depth[x] - map.near) * per_depth, 0.0f), float(CloudMap::slices));
        const CloudCell before = between<false>(map.grid, at_x, at_y, slice);
        red[x] = red[x] * before.thin + before.red;
        green[x] = green[x] * before.thin + before.green;
        blue[x] = blue[x] * before.thin + before.blue;
    }
}

void shine(const CloudGrid& light, CloudGrid& cells, int y, int z) {
    CloudCell* row = cells.cells.data() + cells.at(0, y, z);
    for (int x = 0; x < cells.x; ++x) {
        CloudCell& cell = row[x];
        if (cell.thin > 0) {
            const CloudCell arrives =
                between<true>(light, (float(x) + 0.5f) * 0.5f - 0.5f, (float(y) + 0.5f) * 0.5f - 0.5f,
                              (float(z) + 0.5f) * 0.5f - 0.5f);
            cell.red += arrives.red * cell.thin;
            cell.green += arrives.green * cell.thin;
            cell.blue += arrives.blue * cell.thin;
        }
    }
}

} // namespace

extern const CloudKernels cloud_set;
const CloudKernels cloud_set = {march, blend, shine};

} // namespace ember::EMBER_ISA
