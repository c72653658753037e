// From light to pixels: what the lens spreads (bloom, glare), exposure, tone curve, grade, vignette, grain.
#pragma once

#include "core/assets/image.h"
#include "core/effect/effect.h"
#include "render/glare.h"

#include <array>
#include <cstdint>
#include <vector>

namespace ember {

/// Pixels 0xffRRGGBB, row by row, sRGB.
struct Picture {
    int width = 0, height = 0;
    std::vector<uint32_t> pixels;
};

class Finishing {
  public:
    /// Of the last picture, in milliseconds of wall-clock time.
    struct Meters {
        double bloom_ms = 0, glare_ms = 0;
        double tone_ms = 0; // exposure, tone curve, grade, vignette, grain
    };

    explicit Finishing(const RenderKernels& kernels) : kernels_(kernels) {}

    /// `number`: of the picture, for its grain.
    void finish(const LightPlanes& light, const Stage& stage, uint32_t number, Picture& picture);

    /// The same without steps of 8 bits, for what is written with 16. Takes the time of many others.
    Image finish_deep(const LightPlanes& light, const Stage& stage, uint32_t number);

    /// The light of the last picture as the lens spreads it, before exposure and tone curve.
    LightPlanes spread(const LightPlanes& light) const;

    const Meters& meters() const { return meters_; }
    size_t bytes() const;

  private:
    void gather_bloom(const LightPlanes& light, const Stage& stage);
    void read_tones(const Stage& stage);
    void spread_row(const LightPlanes& light, int y, const LightRow& out) const;

    const RenderKernels& kernels_;
    std::vector<LightPlanes> bloom_levels_; // half, quarter, ... of the picture's size
    float bloom_threshold_ = 0, bloom_share_ = 0, bloom_gain_ = 0;
    Glare glare_;
    float glare_gain_ = 0;
    std::array<std::vector<int32_t>, 3> tones_; // red, green, blue
    std::array<Curve, 3> grades_;
    float tone_contrast_ = 0;
    Meters meters_;
};

} // namespace ember
