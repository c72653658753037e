// Built as C++17: this OpenVDB's reductions do not satisfy the concepts that oneTBB asks of them in C++20.
#include "bench/vdb_smoke.h"

#include <openvdb/openvdb.h>
#include <openvdb/tools/PoissonSolver.h>
#include <openvdb/tools/VolumeAdvect.h>

#include <cmath>

namespace ember::bench {

struct VdbSmoke::Grids {
    openvdb::FloatGrid::Ptr density = openvdb::FloatGrid::create(0);
    openvdb::Vec3SGrid::Ptr flow = openvdb::Vec3SGrid::create();
};

VdbSmoke::VdbSmoke(int cells) {
    openvdb::initialize();
    grids_ = std::make_unique<Grids>();
    auto density = grids_->density->getAccessor();
    auto flow = grids_->flow->getAccessor();
    for (int z = 0; z < cells; ++z) {
        for (int y = 0; y < cells; ++y) {
            for (int x = 0; x < cells; ++x) {
                const openvdb::Coord at(x, y, z);
                const float dx = float(x) - float(cells) / 2, dy = float(y) - float(cells) / 2;
                density.setValue(at, std::exp(-(dx * dx + dy * dy) / 100));
                flow.setValue(at, openvdb::Vec3s(-dy * 0.5f, dx * 0.5f, std::sin(float(x) * 0.3f)));
            }
        }
    }
    grids_->density->setGridClass(openvdb::GRID_FOG_VOLUME);
}

VdbSmoke::~VdbSmoke() = default;

void VdbSmoke::carry_and_solve(int scalars) const {
    openvdb::tools::VolumeAdvection<openvdb::Vec3SGrid> advection(*grids_->flow);
    advection.setIntegrator(openvdb::tools::Scheme::MAC);
    advection.setLimiter(openvdb::tools::Scheme::CLAMP);
    for (int i = 0; i < scalars; ++i) {
        advection.advect<openvdb::FloatGrid, openvdb::tools::Sampler<1, false>>(*grids_->density, 1.0 / 60);
    }
    auto state = openvdb::math::pcg::terminationDefaults<float>();
    state.relativeError = relative_error;
    openvdb::tools::poisson::solve(grids_->density->tree(), state);
}

} // namespace ember::bench
