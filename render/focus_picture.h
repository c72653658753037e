// The stage out of focus.
#pragma once

#include "render/camera.h"
#include "render/stage_picture.h"

#include <vector>

namespace ember {

/// The stage as a lens of some aperture sees it. Dots are blurred one by one; the stage by mixing ever
/// smaller pictures of it, each as much as the blur at its depth asks for.
class FocusPicture {
  public:
    /// `changed`: the stage's picture is another than before.
    void draw(const StagePicture& stage, bool changed, const Stage& settings, const Camera& camera,
              const RenderKernels& kernels);

    bool is_on() const { return aperture_ > 0; }
    const LightPlanes& light() const { return levels_.front(); }
    size_t bytes() const;

  private:
    std::vector<LightPlanes> levels_; // whole, half, quarter, ... of the picture's size
    std::vector<LightPlanes> enlarged_;
    float aperture_ = 0; // mm
    Vec3 focus_;
};

} // namespace ember
