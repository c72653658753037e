// Compiled once for each instruction set; EMBER_ISA names the namespace (see render/CMakeLists.txt).
#include "render/cloud_kernels.h"

#include "kernels/prelude_cpp.h"

#include <algorithm>
#include <cmath>

namespace ember::EMBER_ISA {

namespace {

// A cell between eight, with all of its four numbers at once: two neighbours along x fill a register of
// eight. The place must not be beyond the rim.
KERNEL CloudCell between(const CloudGrid& grid, float x, float y, float z) {
    const auto split = [](float place, float& share) {
        const int lower = int(place + 1.0f) - 1;
        share = place - float(lower);
        return lower;
    };
    float fx, fy, fz;
    const int i = split(x, fx), j = split(y, fy), k = split(z, fz);
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

// A ray through a volume: places in cells for each metre of depth, and the depths between which it is inside.
struct Passage {
    Vec3 from, way; // from: of the eye
    float enter = 0, leave = 0;

    Passage() = default;
    KERNEL Passage(const CloudVolume& volume, const Vec3& eye, const Vec3& through, float near, float far)
        : from((eye - volume.low) * (1 / volume.cell)), way(through * (1 / volume.cell)), enter(near),
          leave(far) {
        const float size[3] = {float(volume.grid.x), float(volume.grid.y), float(volume.grid.z)};
        const float start[3] = {from.x, from.y, from.z}, along[3] = {way.x, way.y, way.z};
        for (int axis = 0; axis < 3; ++axis) {
            const float by = std::fabs(along[axis]) > 1e-9f ? 1 / along[axis] : 1e9f;
            const float a = -start[axis] * by, b = (size[axis] - start[axis]) * by;
            enter = std::max(enter, std::min(a, b));
            leave = std::min(leave, std::max(a, b));
        }
    }
};

// (1 - exp(-a)) / a: of the light that a way sends, what is not taken on it again.
KERNEL float left_of(float a) {
    return a < 0.3f ? 1 - a * (0.5f - a * (1.0f / 6)) : (1 - std::exp(-a)) / a;
}

constexpr float cells_a_step = 2;

KERNEL void add_sample(const CloudVolume& volume, const Vec3& at, float metres, CloudCell& sum) {
    const CloudGrid& grid = volume.grid;
    const auto inside = [](float place, int count) {
        return std::min(uint32_t(std::max(place, 0.0f)), uint32_t(count - 1));
    };
    const uint32_t x = inside(at.x, grid.x), y = inside(at.y, grid.y), z = inside(at.z, grid.z);
    const uint32_t block = (z / 8 * uint32_t(volume.blocks_y) + y / 8) * uint32_t(volume.blocks_x) + x / 8;
    if (volume.full[block] == 0) {
        return;
    }
    const CloudCell cell = between(grid, at.x - 0.5f, at.y - 0.5f, at.z - 0.5f);
    const float dims = cell.thin * metres;
    const float sends = sum.thin * left_of(dims) * metres;
    sum.red += cell.red * sends;
    sum.green += cell.green * sends;
    sum.blue += cell.blue * sends;
    sum.thin -= cell.thin * sends;
}

void march(const std::vector<std::unique_ptr<CloudVolume>>& volumes, const CloudView& view, CloudMap& map,
           int row, int left, int right, const float* farthest) {
    std::vector<Passage> passages(volumes.size());
    for (int column = left; column < right; ++column) {
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
        for (size_t i = 0; i < volumes.size(); ++i) {
            passages[i] = Passage(*volumes[i], view.eye, way, map.near, farthest[column]);
            if (passages[i].enter < passages[i].leave) {
                begin = std::min(begin, passages[i].enter);
                end = std::max(end, passages[i].leave);
                step = std::min(step, cells_a_step * volumes[i]->cell / metres);
            }
        }
        // As many samples in each slice, counted from the first one on.
        const int parts = begin < end ? int(map.depth / step) + 1 : 1;
        const float part = map.depth / float(parts), per_part = 1 / part;
        const int stop = begin < end ? int((end - map.near) * per_part) + 1 : 0;
        int sample = begin < end ? int((begin - map.near) * per_part) : 0;
        CloudCell* out = map.grid.cells.data() + map.grid.at(column, row, 0);
        for (int slice = 1; slice <= CloudMap::slices; ++slice) {
            const int last = std::min(slice * parts, stop);
            for (; sample < last && sum.thin > 0.01f; ++sample) {
                const float depth = map.near + (float(sample) + jitter) * part;
                for (size_t k = 0; k < volumes.size(); ++k) {
                    const Passage& passage = passages[k];
                    if (depth >= passage.enter && depth < passage.leave) {
                        add_sample(*volumes[k], passage.from + passage.way * depth, part * metres, sum);
                    }
                }
            }
            out += map.grid.slice();
            *out = sum;
        }
    }
}

// The map between two of its rows, for the columns that some pixels lie between.
struct MapRow {
    static constexpr int pixels = 64; // at a time
    static constexpr int most_columns = pixels + 3;
    CloudCell cells[CloudMap::slices + 1][most_columns];
    int first = 0; // column

    /// False if nothing is before or behind these pixels.
    KERNEL bool read(const CloudMap& map, float at_y, int from, int to) {
        const CloudGrid& grid = map.grid;
        const float held = std::min(std::max(at_y, -1.0f), float(grid.y) - 0.001f);
        const int j = int(held + 1.0f) - 1;
        const float share = held - float(j);
        first = std::max(from, -1);
        const int last = std::min(to, grid.x);
        const auto read_slice = [&](int slice) {
            const auto* upper = reinterpret_cast<const float*>(&grid.cells[grid.at(first, j, slice)]);
            const auto* lower = reinterpret_cast<const float*>(&grid.cells[grid.at(first, j + 1, slice)]);
            auto* out = reinterpret_cast<float*>(cells[slice]);
            // Whole registers would read beyond the grid at its last row.
            const int count = 4 * (last - first + 1), whole = count / lanes * lanes;
            for (int i = 0; i < whole; i += lanes) {
                const real above = load_any(upper + i);
                store_any(out + i, above + (load_any(lower + i) - above) * real(share));
            }
            for (int i = whole; i < count; ++i) {
                out[i] = upper[i] + (lower[i] - upper[i]) * share;
            }
        };
        read_slice(CloudMap::slices);
        const CloudCell* behind = cells[CloudMap::slices];
        if (std::all_of(behind, behind + (last - first + 1),
                        [](const CloudCell& c) { return c.thin >= 1; })) {
            return false;
        }
        for (int slice = 0; slice < CloudMap::slices; ++slice) {
            read_slice(slice);
        }
        return true;
    }
};

void blend(const CloudMap& map, int y, int left, int right, const float* depth, float* red, float* green,
           float* blue) {
    const float at_y = (float(y) + 0.5f) / map.pixels - 0.5f - float(map.top);
    const float per_pixel = 1 / map.pixels, per_depth = 1 / map.depth;
    const auto column_at = [&](int x) { return (float(x) + 0.5f) * per_pixel - 0.5f - float(map.left); };
    const float last_column = float(map.grid.x) - 0.001f;
    MapRow row;
    for (int begin = left; begin < right; begin += MapRow::pixels) {
        const int end = std::min(begin + MapRow::pixels, right);
        if (!row.read(map, at_y, int(column_at(begin) + 1.0f) - 1, int(column_at(end - 1) + 1.0f))) {
            continue;
        }
        for (int x = begin; x < end; ++x) {
            const float at_x = std::min(std::max(column_at(x), -1.0f), last_column);
            const int i = int(at_x + 1.0f) - 1;
            const float far_x = at_x - float(i), near_x = 1 - far_x;
            const int column = i - row.first;
            const CloudCell* at_end = row.cells[CloudMap::slices] + column;
            if (at_end[0].thin >= 1 && at_end[1].thin >= 1) {
                continue; // nothing before or behind
            }
            const float slice =
                std::min(std::max((depth[x] - map.near) * per_depth, 0.0f), float(CloudMap::slices) - 0.001f);
            const int k = int(slice);
            const auto* near = reinterpret_cast<const float*>(row.cells[k] + column);
            const auto* far = reinterpret_cast<const float*>(row.cells[k + 1] + column);
            float cells[8];
            for (int part = 0; part < 8; part += lanes) {
                const real here = load_any(near + part);
                store_any(cells + part, here + (load_any(far + part) - here) * real(slice - float(k)));
            }
            const auto across = [&](int part) { return cells[part] * near_x + cells[4 + part] * far_x; };
            const float thin = across(3);
            red[x] = red[x] * thin + across(0);
            green[x] = green[x] * thin + across(1);
            blue[x] = blue[x] * thin + across(2);
        }
    }
}

void shine(const CloudGrid& light, CloudGrid& cells, int y, int z) {
    CloudCell* row = cells.cells.data() + cells.at(0, y, z);
    for (int x = 0; x < cells.x; ++x) {
        CloudCell& cell = row[x];
        if (cell.thin > 0) {
            const CloudCell arrives =
                between(light, (float(x) + 0.5f) * 0.5f - 0.5f, (float(y) + 0.5f) * 0.5f - 0.5f,
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
