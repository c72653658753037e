// What a lens does to a picture as a whole: what is out of focus, and rays round bright places.
#pragma once

#include "render/camera.h"
#include "render/stage_picture.h"

#include <vector>

namespace ember {

/// `to` += `gain` times row y of light of half the size, smoothly enlarged.
void add_enlarged(const RenderKernels& kernels, const LightPlanes& from, float gain, int y,
                  const LightRow& to);

/// The light of half the size: of each 2x2 pixels what exceeds a threshold.
void halve(const RenderKernels& kernels, const LightPlanes& from, float threshold, LightPlanes& half);

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
