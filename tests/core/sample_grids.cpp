#include "sample_grids.h"

#include <openvdb/openvdb.h>

namespace ember::sample {

void write_vector_grid(const std::string& path, int count, float cell_m,
                       const std::function<Vec3(Vec3)>& field) {
    openvdb::initialize();
    const auto grid = openvdb::Vec3SGrid::create();
    grid->setName("flow");
    grid->setTransform(openvdb::math::Transform::createLinearTransform(double(cell_m)));
    auto values = grid->getAccessor();
    const int half = count / 2;
    for (int x = -half; x < count - half; ++x) {
        for (int y = -half; y < count - half; ++y) {
            for (int z = -half; z < count - half; ++z) {
                const Vec3 v = field(Vec3{float(x), float(y), float(z)} * cell_m);
                values.setValue({x, y, z}, {v.x, v.y, v.z});
            }
        }
    }
    openvdb::io::File(path).write({grid});
}

void write_turned_grid(const std::string& path, int count, float cell_m, const std::array<Vec3, 3>& axes,
                       Vec3 flow) {
    openvdb::initialize();
    const auto grid = openvdb::Vec3SGrid::create();
    openvdb::Mat4d turn = openvdb::Mat4d::identity();
    for (int i = 0; i < 3; ++i) {
        const Vec3 axis = axes[size_t(i)] * cell_m;
        turn.setRow(i, openvdb::Vec4d(double(axis.x), double(axis.y), double(axis.z), 0));
    }
    grid->setTransform(openvdb::math::Transform::createLinearTransform(turn));
    auto values = grid->getAccessor();
    for (int z = -count / 2; z <= count / 2; ++z) {
        for (int y = -count / 2; y <= count / 2; ++y) {
            for (int x = -count / 2; x <= count / 2; ++x) {
                values.setValue({x, y, z}, openvdb::Vec3s(flow.x, flow.y, flow.z));
            }
        }
    }
    openvdb::io::File(path).write({grid});
}

void write_grid_that_says(const std::string& path, int64_t bytes) {
    openvdb::initialize();
    const auto grid = openvdb::Vec3SGrid::create();
    grid->getAccessor().setValue({0, 0, 0}, {1, 0, 0});
    grid->insertMeta(openvdb::GridBase::META_FILE_MEM_BYTES, openvdb::Int64Metadata(bytes));
    openvdb::io::File file(path);
    file.setGridStatsMetadataEnabled(false);
    file.write({grid});
}

void write_density_grid(const std::string& path) {
    openvdb::initialize();
    const auto grid = openvdb::FloatGrid::create();
    grid->setName("density");
    grid->getAccessor().setValue({0, 0, 0}, 1);
    openvdb::io::File(path).write({grid});
}

} // namespace ember::sample
