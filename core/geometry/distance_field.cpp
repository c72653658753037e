#include "core/geometry/distance_field.h"

#include <openvdb/openvdb.h>
#include <openvdb/tools/MeshToVolume.h>

#include <oneapi/tbb/parallel_for.h>

#include <atomic>
#include <cmath>

namespace ember {

namespace {

// Cells that distances are kept for, outside and inside of the surface.
constexpr float outer_band = 16;
constexpr float inner_band = 24;
constexpr int margin = 3;

// Asks now and then, from many threads, whether to go on.
class Interrupter : public openvdb::util::NullInterrupter {
  public:
    explicit Interrupter(const Progress& progress) : progress_(progress) {}
    bool wasInterrupted(int percent = -1) override {
        if (!cancelled_ &&
            !progress_.goes_on("Measuring distances", percent < 0 ? 0.5f : float(percent) / 100)) {
            cancelled_ = true;
        }
        return cancelled_;
    }

  private:
    const Progress& progress_;
    std::atomic<bool> cancelled_ = false;
};

// What OpenVDB's library brings compiled: any other combination takes minutes to build.
using Triangles = openvdb::tools::QuadAndTriangleDataAdapter<openvdb::Vec3s, openvdb::Vec3I>;

} // namespace

struct DistanceField::Sparse {
    openvdb::FloatGrid::Ptr grid;
};

std::optional<DistanceField> DistanceField::of(const Mesh& mesh, float cell, const Progress& progress) {
    openvdb::initialize();
    DistanceField field;
    field.cell_ = cell;
    field.is_shell_ = mesh.open_edges() > 0;
    const auto transform = openvdb::math::Transform::createLinearTransform(double(cell));
    std::vector<openvdb::Vec3s> places; // in cells
    std::vector<openvdb::Vec3I> triangles;
    places.reserve(mesh.corners.size());
    triangles.reserve(mesh.triangles.size());
    for (const Vec3& c : mesh.corners) {
        places.emplace_back(c.x / cell, c.y / cell, c.z / cell);
    }
    for (const auto& t : mesh.triangles) {
        triangles.emplace_back(t[0], t[1], t[2]);
    }
    const Triangles cells(places, triangles);
    Interrupter own(progress);
    openvdb::util::NullInterrupter& interrupter = own;
    const int flags = field.is_shell_ ? openvdb::tools::UNSIGNED_DISTANCE_FIELD : 0;
    auto sparse = std::make_shared<Sparse>();
    sparse->grid = openvdb::tools::meshToVolume<openvdb::FloatGrid>(interrupter, cells, *transform,
                                                                    outer_band, inner_band, flags);
    if (interrupter.wasInterrupted(100)) {
        return std::nullopt;
    }
    field.sparse_ = sparse;
    const auto cell_of = [cell](float place, int beyond) { return int(std::floor(place / cell)) + beyond; };
    const Vec3 low = mesh.low(), high = mesh.high();
    field.low_ = {cell_of(low.x, -margin), cell_of(low.y, -margin), cell_of(low.z, -margin)};
    field.high_ = {cell_of(high.x, margin + 1), cell_of(high.y, margin + 1), cell_of(high.z, margin + 1)};
    return field;
}

void DistanceField::fill(std::array<int, 3> low, std::array<int, 3> count, float* out) const {
    const float shell = is_shell_ ? 0.75f * cell_ : 0.0f;
    tbb::parallel_for(0, count[2], [&](int z) {
        auto values = sparse_->grid->getConstUnsafeAccessor();
        float* next = out + size_t(z) * size_t(count[0]) * size_t(count[1]);
        for (int y = 0; y < count[1]; ++y) {
            for (int x = 0; x < count[0]; ++x) {
                *next++ = values.getValue({low[0] + x, low[1] + y, low[2] + z}) - shell;
            }
        }
    });
}

} // namespace ember
