// Looks' surface layers, ready for the kernels: textures are made once, and again when they change.
#pragma once

#include "core/runtime/frame.h"
#include "render/render_kernels.h"

#include <memory>
#include <vector>

namespace ember {

/// A texture as kernels read it, with ever smaller copies.
struct ReadyTexture {
    Texture texture;
    std::shared_ptr<const Image> image;
    std::vector<std::vector<uint32_t>> levels;
    TexelLevels texels;
    float brightest = 1; // light of a full texel
};

/// The surfaces of one picture.
class Surfaces {
  public:
    /// For the looks of this effect. Textures that are no longer there are forgotten.
    void begin(const Effect& effect, const Frame& frame);

    /// The surface of a look; 0, which has no layers, if it has none.
    uint32_t add(const Look& look);
    const std::vector<DrawnSurface>& list() const { return list_; }
    size_t bytes() const;

  private:
    std::vector<std::unique_ptr<ReadyTexture>> textures_;
    std::vector<DrawnSurface> list_;
};

/// Layers of a look, with what does not depend on the particle worked out.
struct ReadyLayers {
    const Look* look = nullptr;
    std::vector<size_t> numbers; // of the layers that are shown
    std::vector<LifeTable<float>> strengths;
    std::vector<float> frames; // that a sheet has
    float time_s = 0;
    bool varies = false; // from particle to particle

    static ReadyLayers of(const Look& look, const Effect& effect, double time_s);
    /// A particle's own skin.
    Skin skin(uint32_t surface, uint32_t number, float age_share) const;
};

} // namespace ember
