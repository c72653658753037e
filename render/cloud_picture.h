// Smoke as a picture: rays through its volumes, in a coarse picture of their own, with light that has come
// through the smoke itself.
//
// What a ray has met is kept at several depths, so that everything else in the picture (the stage, bodies,
// particles) has just the smoke before it that is before it.
#pragma once

#include "core/runtime/frame.h"
#include "render/cloud_kernels.h"
#include "render/lighting.h"
#include "render/projection.h"
#include "render/stage_picture.h"

namespace ember {

class CloudPicture {
  public:
    CloudPicture(const RenderKernels& stage_kernels, Isa isa)
        : kernels_(cloud_kernels(isa)), stage_kernels_(stage_kernels) {}

    /// `stage`: as it is drawn already; what stands on it hides smoke, and keeps light from it.
    void draw(const Frame& frame, const Effect& effect, const Lighting& lighting, const Projection& to,
              const StagePicture& stage);

    bool is_on() const { return is_on_; }
    /// What is left of the light that starts at a pixel, so deep in the picture (m).
    float kept(float x, float y, float depth) const;
    /// Whether there may be smoke before a tile of the picture.
    bool is_in(const Tile& tile) const;
    /// Puts the smoke before what a row of pixels shows.
    void blend_row(int y, int left, int right, const float* depth, float* red, float* green,
                   float* blue) const;
    /// Adds what smoke cost in the picture to the lamps, as long as their light was on its way through it,
    /// and the rest to its volumes, by their cells.
    void share_out(double ms, std::span<const FrameLight> lamps, std::vector<double>& element_ms) const;
    size_t bytes() const;

  private:
    struct Light; // of the stage, as volumes need it
    struct Area {
        float left, top, right, bottom; // pixels
    };
    Area seen() const;
    void fill(const FrameSmoke& smoke, const Smoke& look, const Light& light, CloudVolume& volume);
    void shade(const FrameSmoke& smoke, const Smoke& look, const Light& light, const CloudVolume& volume);
    bool frame_map(const Projection& to, float detail);

    const CloudKernels& kernels_;
    const RenderKernels& stage_kernels_;
    // What a volume was filled from.
    struct Filled {
        uint64_t step = 0, moves = 0;
        SmokeSize size;
        Smoke look;
        size_t element = 0; // in the frame's effect
    };

    std::vector<std::unique_ptr<CloudVolume>> volumes_;
    std::vector<Filled> filled_;  // of each
    CloudGrid light_;             // that arrives in cells twice as wide as the volume's
    std::vector<float> coarse_;   // how much a metre takes in them
    std::vector<double> lamp_ms_; // what the light of each took in the last picture
    CloudMap map_;                // of the whole picture, of which only some rows may be drawn:
    int above_ = 0;               // that many are not, above the first
    bool is_on_ = false;
};

} // namespace ember
