#include "core/assets/blended_surface.h"

#include <openvdb/openvdb.h>
#include <openvdb/tools/LevelSetFilter.h>
#include <openvdb/tools/ParticlesToLevelSet.h>
#include <openvdb/tools/VolumeToMesh.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// What OpenVDB asks of a list of particles.
struct Balls {
    using PosType = openvdb::Vec3R;
    std::span<const BlendedBall> list;
    float least_radius;

    size_t size() const { return list.size(); }
    void getPos(size_t i, openvdb::Vec3R& place) const {
        place = openvdb::Vec3R(list[i].place.x, list[i].place.y, list[i].place.z);
    }
    void getPosRad(size_t i, openvdb::Vec3R& place, openvdb::Real& radius) const {
        getPos(i, place);
        radius = std::max(list[i].radius, least_radius);
    }
};

float fitting_cell(std::span<const BlendedBall> balls, float cell) {
    Vec3 low = balls.front().place, high = low;
    float widest = 0;
    for (const BlendedBall& ball : balls) {
        low = {std::min(low.x, ball.place.x), std::min(low.y, ball.place.y), std::min(low.z, ball.place.z)};
        high = {std::max(high.x, ball.place.x), std::max(high.y, ball.place.y), std::max(high.z, ball.place.z)};
        widest = std::max(widest, ball.radius);
    }
    const Vec3 size = high - low + Vec3{2, 2, 2} * (widest + cell * 3);
    const double cells = double(size.x) * double(size.y) * double(size.z) / std::pow(double(cell), 3);
    return cell * float(std::max(std::cbrt(cells / most_blended_cells), 1.0));
}

} // namespace

Mesh blended_surface(std::span<const BlendedBall> balls, float cell, int smoothing) {
    Mesh mesh;
    if (balls.empty()) {
        return mesh;
    }
    openvdb::initialize();
    cell = fitting_cell(balls, cell);
    const auto grid = openvdb::createLevelSet<openvdb::FloatGrid>(double(cell), 3.0);
    openvdb::tools::ParticlesToLevelSet<openvdb::FloatGrid> raster(*grid);
    raster.setRmin(1.0);
    raster.rasterizeSpheres(Balls{balls, cell * 1.5f});
    raster.finalize(true);
    if (smoothing > 0) {
        openvdb::tools::LevelSetFilter<openvdb::FloatGrid> filter(*grid);
        // Out, smooth, and back in: what nearly touches joins.
        filter.offset(-0.5f * cell * float(std::min(smoothing, 4)));
        for (int pass = 0; pass < smoothing; ++pass) {
            filter.meanCurvature();
        }
        filter.offset(0.5f * cell * float(std::min(smoothing, 4)));
    }
    std::vector<openvdb::Vec3s> points;
    std::vector<openvdb::Vec3I> triangles;
    std::vector<openvdb::Vec4I> quads;
    openvdb::tools::volumeToMesh(*grid, points, triangles, quads, 0.0, 0.0);
    mesh.corners.reserve(points.size());
    for (const openvdb::Vec3s& p : points) {
        mesh.corners.push_back({p.x(), p.y(), p.z()});
    }
    // OpenVDB turns faces clockwise seen from outside.
    for (const openvdb::Vec3I& t : triangles) {
        mesh.triangles.push_back({t[0], t[2], t[1]});
    }
    for (const openvdb::Vec4I& q : quads) {
        mesh.triangles.push_back({q[0], q[2], q[1]});
        mesh.triangles.push_back({q[0], q[3], q[2]});
    }
    mesh.find_normals();
    return mesh;
}

} // namespace ember
