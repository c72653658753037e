// Light at half its size, and back.
#pragma once

#include "render/render_kernels.h"

namespace ember {

/// The planes of light, one after the other.
inline constexpr auto light_planes = {&LightPlanes::red, &LightPlanes::green, &LightPlanes::blue};

/// `to` += `gain` times row y of light of half the size, smoothly enlarged.
void add_enlarged(const RenderKernels& kernels, const LightPlanes& from, float gain, int y,
                  const LightRow& to);

/// The light of half the size: of each 2x2 pixels what exceeds a threshold.
void halve(const RenderKernels& kernels, const LightPlanes& from, float threshold, LightPlanes& half);

} // namespace ember
