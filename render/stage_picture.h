// The stage as a picture: sky, ground and colliders in light and shadow, without any particles.
//
// What stands still is drawn once for each camera, with eight samples for each pixel one picture after the
// other. Where something moves, only the tiles are drawn anew that it, its shadow or its closeness can be
// seen in, with one sample for four pixels, until it rests; then, a few in each picture, as finely again. Of
// such a tile only that is shown which is another than when it was drawn finely: edges beside it stay sharp.
#pragma once

#include "core/runtime/frame.h"
#include "render/camera.h"
#include "render/lighting.h"
#include "render/render_kernels.h"

#include <array>
#include <memory>
#include <optional>
#include <vector>

namespace ember {

class StagePicture {
  public:
    explicit StagePicture(const RenderKernels& kernels) : kernels_(kernels) {}

    /// True if it is another picture than before.
    bool draw(const Frame& frame, const Stage& stage, const Camera& camera, int width, int height);

    /// What lights everything from above, as it was drawn last.
    const SkyLight& sky() const { return sky_; }
    /// True once further pictures of the same frame would not change.
    bool is_settled() const;

    /// What it was drawn from last.
    StageScene scene() const { return scene_of(shown_.light.width, shown_.light.height, 0); }

    const LightPlanes& light() const { return shown_.light; }
    /// Distance of the surface along the camera's axis (m), for each pixel like the light.
    const FloatPlane& depth() const { return shown_.depth; }
    /// How much of what flies above each pixel is mirrored in it, 0..1.
    const FloatPlane& mirror() const { return shown_.mirror; }
    bool is_mirror(int tile) const { return tiles_[size_t(tile)].is_mirror; }
    /// The least depth in a tile, and the largest.
    float nearest(int tile) const { return tiles_[size_t(tile)].nearest; }
    float farthest(int tile) const { return tiles_[size_t(tile)].farthest; }
    /// Whether the last picture changed a tile.
    bool has_changed(int tile) const { return tiles_[size_t(tile)].next != Next::nothing; }
    /// What a tile took in the last picture, in milliseconds of one thread.
    float tile_ms(int tile) const { return tiles_[size_t(tile)].ms; }
    /// Adds what it took to draw anew, for the sake of lamps alone, what they shine on: the share of `ms`,
    /// the time of the whole last picture, to the lamps' elements. Returns the sum.
    double share_out(double ms, std::vector<double>& element_ms) const;
    size_t bytes() const { return 2 * (shown_.bytes() + half_.bytes()) + change_.size() * sizeof(float); }

    static constexpr int most_samples = 8;

  private:
    enum class Next : uint8_t { nothing, rough, finer };
    struct TileState {
        Next next = Next::nothing; // what is done in this picture
        int samples = 0;
        bool is_rough = false;    // shows something else than so many samples of how it is now
        bool has_still = false;   // it has been drawn finely, as kept in `still_`
        bool is_still = false;    // that is what it shows
        bool was_touched = false; // by what moves, in the last picture
        bool is_mirror = false;
        float nearest = 0; // m
        float farthest = 0;
        float ms = 0;       // that it took in the last picture
        uint64_t lamps = 0; // for whose sake alone it was drawn in it, a bit for each in turn
    };
    // A ball that holds something that has moved, or all that a lamp shines on.
    struct Moved {
        Vec3 middle;
        float radius;
        std::optional<size_t> lamp = {}; // which is not seen itself
    };

    // What is seen in each pixel.
    struct Layer {
        LightPlanes light;
        FloatPlane depth{3}, mirror{4};

        void resize(int width, int height);
        size_t bytes() const { return light.bytes() + 2 * depth.size() * sizeof(float); }
    };

    StageScene scene_of(int width, int height, int sample) const;
    bool find_moved(const Frame& now, std::vector<Moved>& moved) const;
    void read_background(const Frame& frame);
    // How a tile may change by what has moved: not, softly since that is somewhere beside it, or plainly.
    enum class Touch : uint8_t { none, soft, plain };
    struct Touched {
        Touch by_bodies = Touch::none;
        uint64_t lamps = 0;
        Touch most() const { return lamps != 0 ? Touch::plain : by_bodies; }
    };
    Touched touch_of(int tile, const std::vector<Moved>& moved) const;
    void choose(const std::vector<Moved>& moved);
    void refine(int tile, const StageScene& half_scene);
    Tile draw_half(int tile, const StageScene& half_scene, Layer& half);
    bool find_change(const Tile& half_area);
    void draw_roughly(int tile, const StageScene& half_scene);
    void measure(int tile, const Layer& layer, const Tile& area);

    const RenderKernels& kernels_;
    Layer shown_, half_;       // half: of half as many pixels each way
    Layer still_, half_still_; // as tiles were when they were drawn finely last
    FloatPlane change_{5};     // how far the half picture is another than that, 0..1
    std::vector<TileState> tiles_;
    int turn_ = 0; // of the tiles that change softly

    // What it was drawn from.
    Stage stage_;
    Camera camera_;
    std::vector<FrameCollider> colliders_;
    std::vector<StagePlane> planes_;
    std::vector<StageBox> boxes_;
    std::vector<StageShape> shapes_;
    std::vector<FrameLight> frame_lights_;
    std::vector<StageLight> lights_;
    SkyLight sky_;
    std::array<LifeTable<float>, 3> ramp_;
    std::shared_ptr<const Image> image_;
    std::array<std::vector<float>, 3> panorama_;
    SkyLight panorama_sky_;
};

} // namespace ember
