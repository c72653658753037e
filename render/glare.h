// Rays round bright places.
#pragma once

#include "core/effect/effect.h"
#include "render/render_kernels.h"

namespace ember {

/// Rays that go out from what is brighter than the bloom's threshold.
class Glare {
  public:
    void gather(const LightPlanes& light, const Stage& stage, const RenderKernels& kernels);

    bool is_on() const { return is_on_; }
    /// Half the picture's size.
    const LightPlanes& light() const { return half_; }
    size_t bytes() const;

  private:
    bool is_on_ = false;
    LightPlanes half_, bright_, ray_, next_, sum_; // the last four a quarter of the picture's size
};

} // namespace ember
