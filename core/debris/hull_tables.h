// The convex bodies round pieces, found once for each cut.
#pragma once

#include "core/debris/frame_debris.h"

#include <map>
#include <memory>
#include <span>
#include <vector>

namespace ember {

/// The planes of the pieces of cuts, found once for each cut.
class HullTables {
  public:
    /// Of each piece; empty for one that has no faces. Valid until the next `keep_only`.
    const std::vector<std::vector<float>>& of(const std::shared_ptr<const Cut>& cut);
    /// Forgets the cuts that none of these is of.
    void keep_only(std::span<const FrameDebris> shown);

  private:
    std::map<std::shared_ptr<const Cut>, std::vector<std::vector<float>>> of_cuts_;
};

} // namespace ember
