#include "core/bake/vdb.h"

#include <openvdb/io/Stream.h>
#include <openvdb/openvdb.h>

#include <cstdio>
#include <sstream>

namespace ember {

namespace {

// A number that OpenVDB makes up for every file stands here, as text: ours follows from the bytes, so that
// the same smoke makes the same file.
constexpr size_t uuid_at = 8 + 4 + 4 + 4 + 1, uuid_length = 36;

void name_by_content(std::string& bytes) {
    uint64_t a = 14695981039346656037u, b = a ^ 0x9e3779b97f4a7c15u;
    for (size_t i = uuid_at + uuid_length; i < bytes.size(); ++i) {
        a = (a ^ uint8_t(bytes[i])) * 1099511628211u;
        b = (b ^ uint8_t(bytes[i])) * 1099511628211u;
    }
    char text[uuid_length + 1];
    std::snprintf(text, sizeof text, "%08x-%04x-%04x-%04x-%012llx", unsigned(a >> 32),
                  unsigned(a >> 16 & 0xffff), unsigned(a & 0xffff), unsigned(b >> 48),
                  static_cast<unsigned long long>(b & 0xffffffffffff));
    bytes.replace(uuid_at, uuid_length, text, uuid_length);
}

// Made by the library, so that its trees are not compiled anew here.
template <class Grid>
typename Grid::Ptr new_grid() {
    return openvdb::gridPtrCast<Grid>(openvdb::GridBase::createGrid(Grid::gridType()));
}

template <class Grid>
typename Grid::Ptr grid_of(const std::string& name, const SmokeSize& size, const BakedSmoke& smoke,
                           double time_s) {
    auto grid = new_grid<Grid>();
    grid->setName(name);
    auto transform = openvdb::math::Transform::createLinearTransform(double(size.cell));
    const Vec3 first = size.middle(0, 0, 0);
    transform->postTranslate({double(first.x), double(first.y), double(first.z)});
    grid->setTransform(transform);
    grid->setGridClass(openvdb::GRID_FOG_VOLUME);
    grid->setSaveFloatAsHalf(true);
    const Colour& colour = smoke.look->colour;
    grid->insertMeta("colour", openvdb::Vec3SMetadata({colour.red, colour.green, colour.blue}));
    const Vec3& middle = smoke.look->position;
    grid->insertMeta("bound_middle", openvdb::Vec3SMetadata({middle.x, middle.y, middle.z}));
    grid->insertMeta("time_s", openvdb::DoubleMetadata(time_s));
    return grid;
}

std::string bytes_of(const openvdb::GridPtrVec& grids) {
    std::ostringstream out(std::ios::binary);
    openvdb::io::Stream(out).write(grids);
    std::string bytes = out.str();
    name_by_content(bytes);
    return bytes;
}

} // namespace

std::string smoke_bytes(const std::vector<BakedSmoke>& volumes, double time_s) {
    openvdb::initialize();
    openvdb::GridPtrVec grids;
    for (const BakedSmoke& smoke : volumes) {
        const SmokeVolume& volume = *smoke.volume;
        const SmokeSize& size = volume.size();
        const std::string prefix = grids.empty() ? std::string() : smoke.id + " ";
        auto density = grid_of<openvdb::FloatGrid>(prefix + "density", size, smoke, time_s);
        auto heat = grid_of<openvdb::FloatGrid>(prefix + "heat", size, smoke, time_s);
        auto velocity = grid_of<openvdb::Vec3SGrid>(prefix + "velocity", size, smoke, time_s);
        velocity->setVectorType(openvdb::VEC_CONTRAVARIANT_RELATIVE);
        auto densities = density->getAccessor(), heats = heat->getAccessor();
        auto velocities = velocity->getAccessor();
        for (int z = 0; z < size.z; ++z) {
            for (int y = 0; y < size.y; ++y) {
                for (int x = 0; x < size.x; ++x) {
                    if (volume.active_blocks()[size_t(size.block_of(x, y, z))] == 0) {
                        continue;
                    }
                    if (volume.is_solid(x, y, z)) {
                        continue;
                    }
                    const auto& gas = volume.cells()[size.packed(x, y, z)];
                    const openvdb::Coord at(x, y, z);
                    if (gas.density > 0) {
                        densities.setValue(at, gas.density);
                    }
                    if (gas.heat > 0) {
                        heats.setValue(at, gas.heat);
                    }
                    if (gas.density > 0 || gas.heat > 0) {
                        const Vec3 flow = volume.flow(x, y, z);
                        velocities.setValue(at, {flow.x, flow.y, flow.z});
                    }
                }
            }
        }
        grids.insert(grids.end(), {density, heat, velocity});
    }
    return bytes_of(grids);
}

std::string field_bytes(const FieldBox& box, const std::vector<BakedField>& fields, double time_s) {
    openvdb::initialize();
    openvdb::GridPtrVec grids;
    const auto count = box.count();
    for (const BakedField& field : fields) {
        auto grid = new_grid<openvdb::Vec3SGrid>();
        grid->setName(field.name);
        const auto transform = openvdb::math::Transform::createLinearTransform(double(box.cell()));
        transform->postTranslate({double(box.low.x), double(box.low.y), double(box.low.z)});
        grid->setTransform(transform);
        grid->setVectorType(openvdb::VEC_CONTRAVARIANT_RELATIVE);
        grid->setSaveFloatAsHalf(true);
        grid->insertMeta("time_s", openvdb::DoubleMetadata(time_s));
        auto values = grid->getAccessor();
        size_t at = 0;
        for (int z = 0; z < count[2]; ++z) {
            for (int y = 0; y < count[1]; ++y) {
                for (int x = 0; x < count[0]; ++x, ++at) {
                    const Vec3& push = field.vectors[at];
                    values.setValue({x, y, z}, {push.x, push.y, push.z});
                }
            }
        }
        grids.push_back(grid);
    }
    return bytes_of(grids);
}

} // namespace ember
