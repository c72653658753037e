// OpenVDB's part of the comparison with smoke.
#pragma once

#include <memory>

namespace ember::bench {

/// Both sides solve their problem down to this share of its right-hand side.
constexpr double relative_error = 1e-3;

/// As many cells in OpenVDB's grids, with an eddy for a flow.
class VdbSmoke {
  public:
    explicit VdbSmoke(int cells);
    ~VdbSmoke();

    /// Scalars carried for a 60th of a second (MacCormack, clamped), and one Poisson problem solved.
    void carry_and_solve(int scalars) const;

  private:
    struct Grids;
    std::unique_ptr<Grids> grids_;
};

} // namespace ember::bench
