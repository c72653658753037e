#include "core/assets/decoding.h"

#include <openvdb/io/File.h>
#include <openvdb/openvdb.h>
#include <openvdb/tools/Interpolation.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int64_t most_grid_bytes = int64_t(1) << 30;

// A number that a grid's file tells of it; 0 if it does not.
int64_t told_of(const openvdb::GridBase& grid, const char* what) {
    const auto told = grid.getMetadata<openvdb::Int64Metadata>(what);
    return told ? std::max<int64_t>(told->value(), 0) : 0;
}

} // namespace

std::optional<VectorGrid> decode_vectors(const std::filesystem::path& path, int most_cells,
                                         Problems& problems) {
    openvdb::initialize();
    const auto refuse = [&](std::string found, std::string expected) -> std::optional<VectorGrid> {
        problems.push_back({path.string(), 0, "", std::move(found), std::move(expected)});
        return std::nullopt;
    };
    openvdb::Vec3SGrid::Ptr grid;
    std::string others;
    try {
        openvdb::io::File file(path.string());
        file.open(false);
        for (auto name = file.beginName(); name != file.endName(); ++name) {
            const auto each = file.readGridMetadata(name.gridName());
            if (each->isType<openvdb::Vec3SGrid>()) {
                // What the file says of itself, before anything is allocated; what it does not say the limits
                // of the reading process hold.
                if (const auto told = told_of(*each, openvdb::GridBase::META_FILE_MEM_BYTES);
                    told > most_grid_bytes) {
                    return refuse("a grid that would take " + std::to_string(told >> 20) + " MB",
                                  "one that takes at most " + std::to_string(most_grid_bytes >> 20) + " MB");
                }
                grid = openvdb::gridPtrCast<openvdb::Vec3SGrid>(file.readGrid(name.gridName()));
                break;
            }
            others += (others.empty() ? "" : ", ") + name.gridName() + " (" + each->valueType() + ")";
        }
    } catch (const std::bad_alloc&) {
        return refuse("a file whose reading takes too much memory", "a whole OpenVDB file");
    } catch (const std::exception& error) {
        return refuse(std::string("unreadable: ") + error.what(), "an OpenVDB file");
    }
    if (!grid) {
        return refuse(others.empty() ? "no grids" : "only " + others, "a grid of vectors (vec3s)");
    }
    const openvdb::CoordBBox box = grid->evalActiveVoxelBoundingBox();
    if (box.empty()) {
        return refuse("a grid of vectors that holds none", "at least one vector");
    }
    // The grid's own axes in the world: what it is turned, mirrored and stretched by.
    const openvdb::Vec3d zero = grid->indexToWorld(openvdb::Vec3d(0, 0, 0));
    openvdb::Vec3d axes[3];
    double voxel[3];
    for (int i = 0; i < 3; ++i) {
        openvdb::Vec3d one(0, 0, 0);
        one[i] = 1;
        axes[i] = grid->indexToWorld(one) - zero;
        voxel[i] = axes[i].length();
        if (!(voxel[i] > 1e-9 && voxel[i] < 1e9)) {
            return refuse("a grid without extent along one of its axes", "voxels of a size");
        }
        axes[i] /= voxel[i];
    }
    for (int i = 0; i < 3; ++i) {
        if (std::fabs(axes[i].dot(axes[(i + 1) % 3])) > 1e-3) {
            return refuse("a grid that is sheared",
                          "a grid that is at most moved, turned, mirrored and stretched");
        }
    }
    VectorGrid result;
    const openvdb::Coord size = box.dim();
    double length[3], longest = 0;
    for (int i = 0; i < 3; ++i) {
        length[i] = double(size[i] - 1) * voxel[i];
        longest = std::max(longest, length[i]);
    }
    // As fine as its finest voxels, as far as that many cells go.
    const double finest = std::min({voxel[0], voxel[1], voxel[2]});
    const double cells =
        std::clamp(std::ceil(longest / finest - 1e-6), 1.0, double(std::max(most_cells - 1, 1)));
    const bool is_coarser = longest / finest > cells + 1e-3;
    // Coarser by a whole number or as it is.
    const double cell = is_coarser ? finest * std::ceil(longest / finest / cells - 1e-9) : finest;
    result.cell = float(cell);
    for (int i = 0; i < 3; ++i) {
        result.count[size_t(i)] = std::max(2, int(std::floor(length[i] / cell + 1e-6)) + 1);
    }
    // The axes x, y and z of what is kept are the grid's own; one that is mirrored begins at its other end.
    const bool mirrors = axes[0].cross(axes[1]).dot(axes[2]) < 0;
    openvdb::Vec3d low = grid->indexToWorld(box.min());
    if (mirrors) {
        low += axes[2] * (double(result.count[2] - 1) * cell);
        axes[2] = -axes[2];
    }
    const auto ours = [](const openvdb::Vec3d& v) { return Vec3{float(v.x()), float(v.y()), float(v.z())}; };
    result.turn = {ours(axes[0]), ours(axes[1]), ours(axes[2])};
    result.low = {float(low.dot(axes[0])), float(low.dot(axes[1])), float(low.dot(axes[2]))};
    result.values.resize(size_t(result.count[0]) * size_t(result.count[1]) * size_t(result.count[2]) * 3);
    const openvdb::tools::GridSampler<openvdb::Vec3SGrid, openvdb::tools::BoxSampler> sampler(*grid);
    float* next = result.values.data();
    for (int z = 0; z < result.count[2]; ++z) {
        for (int y = 0; y < result.count[1]; ++y) {
            for (int x = 0; x < result.count[0]; ++x) {
                const openvdb::Vec3d place =
                    low + axes[0] * (x * cell) + axes[1] * (y * cell) + axes[2] * (z * cell);
                const openvdb::Vec3d value(sampler.wsSample(place));
                for (int i = 0; i < 3; ++i) {
                    const auto part = float(value.dot(axes[i]));
                    if (!std::isfinite(part)) {
                        return refuse("a vector that is not finite at " + std::to_string(x) + ", " +
                                          std::to_string(y) + ", " + std::to_string(z),
                                      "finite vectors");
                    }
                    *next++ = part;
                }
            }
        }
    }
    return result;
}

} // namespace ember
