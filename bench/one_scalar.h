// The pair of computations that OpenVDB is timed with, done by this program's kernels: one scalar carried
// through a flow (MacCormack with a limiter), and one Poisson problem solved from nothing to the same
// residual.
#pragma once

#include "core/smoke/pressure.h"

namespace ember::bench {

/// A grid whose only carried field is a scalar.
struct ScalarTrace {
    const SmokeSize& size;
    SmokePlanes flow;              // cells a step, in the middles of cells
    const float *values, *carried; // `carried`: of carry_row(), for correct_row()
    float* out;
};

/// As many cells as VdbSmoke has, and what they hold.
class OneScalar {
  public:
    explicit OneScalar(int cells);
    /// Forgets the pressures of the last time.
    void begin_anew();
    void carry_and_solve();

    /// Root mean square of what the pressures leave, over that of the problem's right-hand side.
    double left() const { return left_; }

  private:
    SmokeSize size_;
    FloatCells flow_[3], faces_[3], open_[3];
    FloatCells values_, carried_, next_;
    PressureSolver pressure_;
    double scale_ = 1; // from shares of the right-hand side to what solve() measures by
    double left_ = 0;
};

} // namespace ember::bench
