#include "bench/one_scalar.h"

#include "bench/vdb_smoke.h"

#include "core/smoke/rows.h"
#include "core/smoke/smoke_kernels.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ember::avx2 {
void carry_row(const bench::ScalarTrace& trace, int y, int z);
void correct_row(const bench::ScalarTrace& trace, int y, int z);
} // namespace ember::avx2

namespace ember::bench {

namespace {

constexpr float step_s = 1.0f / 60;
constexpr int most_rounds = 30;

} // namespace

// The same scalar and flow as VdbSmoke has; the problem's right-hand side is that scalar, too.
OneScalar::OneScalar(int cells)
    : size_{cells, cells, cells, 1, {}}, pressure_(*smoke_kernels(Isa::avx2).pressure) {
    for (FloatCells* plane : {&flow_[0], &flow_[1], &flow_[2], &faces_[0], &faces_[1], &faces_[2], &open_[0],
                              &open_[1], &open_[2], &values_, &carried_, &next_}) {
        plane->assign(size_.plane_size(), 0.0f);
    }
    double squares = 0, sum = 0;
    for (int z = 0; z < cells; ++z) {
        for (int y = 0; y < cells; ++y) {
            for (int x = 0; x < cells; ++x) {
                const size_t at = size_.at(x, y, z);
                const float dx = float(x) - float(cells) / 2, dy = float(y) - float(cells) / 2;
                values_[at] = std::exp(-(dx * dx + dy * dy) / 100);
                flow_[0][at] = -dy * 0.5f * step_s;
                flow_[1][at] = dx * 0.5f * step_s;
                flow_[2][at] = std::sin(float(x) * 0.3f) * step_s;
                squares += double(values_[at]) * double(values_[at]);
                sum += double(values_[at]);
            }
        }
    }
    for (int z = 0; z <= cells; ++z) {
        for (int y = 0; y <= cells; ++y) {
            for (int x = 0; x <= cells; ++x) {
                for (FloatCells& plane : open_) {
                    plane[size_.at(x, y, z)] = 1;
                }
            }
        }
    }
    // solve() measures what remains by the mean difference of velocity along the three axes.
    const auto count = double(size_.cells());
    scale_ = std::sqrt(squares / count) / (sum / count / 3);
    begin_anew();
}

void OneScalar::begin_anew() {
    pressure_ = PressureSolver(*smoke_kernels(Isa::avx2).pressure);
    pressure_.set_open(size_, open_, CellBox::whole(size_));
    for (int z = 0; z < size_.z; ++z) {
        for (int y = 0; y < size_.y; ++y) {
            float* row = faces_[0].data() + size_.at(0, y, z);
            std::partial_sum(&values_[size_.at(0, y, z)], &values_[size_.at(size_.x, y, z)], row + 1);
        }
    }
    for (const int axis : {1, 2}) {
        std::fill(faces_[axis].begin(), faces_[axis].end(), 0.0f);
    }
}

void OneScalar::carry_and_solve() {
    const auto planes = [](FloatCells(&of)[3]) {
        return SmokePlanes{of[0].data(), of[1].data(), of[2].data()};
    };
    const ScalarTrace there = {size_, planes(flow_), values_.data(), nullptr, carried_.data()};
    const ScalarTrace back = {size_, planes(flow_), values_.data(), carried_.data(), next_.data()};
    each_row(size_, [&](int y, int z) { avx2::carry_row(there, y, z); });
    each_row(size_, [&](int y, int z) { avx2::correct_row(back, y, z); });
    left_ = pressure_.solve(planes(faces_), relative_error * scale_, most_rounds).remains / scale_;
    each_slice(size_.cells(), size_.z, [&](int z) { pressure_.settle_slice(z); });
}

} // namespace ember::bench
