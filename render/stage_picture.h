// The stage as a picture: sky, ground and colliders in light and shadow, without any particles.
//
// What stands still is drawn once for each camera, with eight samples for each pixel one picture after the
// other. Where something moves, only the tiles are drawn anew that it, its shadow or its closeness can be
// seen in, with one sample for four pixels, until it rests; then, a few in each picture, as finely again.
#pragma once

#include "core/runtime/frame.h"
#include "render/camera.h"
#include "render/render_kernels.h"

#include <array>
#include <memory>
#include <vector>

namespace ember {

class StagePicture {
  public:
    explicit StagePicture(const RenderKernels& kernels) : kernels_(kernels) {}

    /// True if it is another picture than before.
    bool draw(const Frame& frame, const Stage& stage, const Camera& camera, int width, int height);

    /// True once further pictures of the same frame would not change.
    bool is_settled() const;

    /// What it was drawn from last.
    StageScene scene() const { return scene_of(light_.width, light_.height, 0); }

    const LightPlanes& light() const { return light_; }
    /// Distance of the surface along the camera's axis (m), for each pixel like the light.
    const FloatPlane& depth() const { return depth_; }
    /// How much of what flies above each pixel is mirrored in it, 0..1.
    const FloatPlane& mirror() const { return mirror_; }
    bool is_mirror(int tile) const { return tiles_[size_t(tile)].is_mirror; }
    /// The least depth in a tile, and the largest.
    float nearest(int tile) const { return tiles_[size_t(tile)].nearest; }
    float farthest(int tile) const { return tiles_[size_t(tile)].farthest; }
    /// Whether the last picture changed a tile.
    bool has_changed(int tile) const { return tiles_[size_t(tile)].next != Next::nothing; }
    /// What a tile took in the last picture, in milliseconds of one thread.
    float tile_ms(int tile) const { return tiles_[size_t(tile)].ms; }
    size_t bytes() const { return light_.bytes() + half_light_.bytes() + 2 * depth_.size() * sizeof(float); }

    static constexpr int most_samples = 8;

  private:
    enum class Next : uint8_t { nothing, rough, finer };
    struct TileState {
        Next next = Next::nothing; // what is done in this picture
        int samples = 0;
        bool is_rough = false; // holds one sample for four pixels
        bool is_mirror = false;
        float nearest = 0; // m
        float farthest = 0;
        float ms = 0; // that it took in the last picture
    };
    // A ball that holds something that has moved, or all that a lamp shines on.
    struct Moved {
        Vec3 middle;
        float radius;
        bool is_lamp = false; // it is not seen itself
    };

    StageScene scene_of(int width, int height, int sample) const;
    bool find_moved(const Frame& now, std::vector<Moved>& moved) const;
    void read_background(const Frame& frame);
    bool is_touched(int tile, const std::vector<Moved>& moved) const;
    void choose(const std::vector<Moved>& moved);
    void refine(int tile);
    void draw_roughly(int tile, const StageScene& half_scene);
    void measure(int tile, int stride, const FloatPlane& depth, const FloatPlane& mirror, const Tile& area);

    const RenderKernels& kernels_;
    LightPlanes light_;
    FloatPlane depth_{3}, mirror_{4};
    LightPlanes half_light_;
    FloatPlane half_depth_{3}, half_mirror_{4};
    std::vector<TileState> tiles_;

    // What it was drawn from.
    Stage stage_;
    Camera camera_;
    std::vector<FrameCollider> colliders_;
    std::vector<StagePlane> planes_;
    std::vector<StageBox> boxes_;
    std::vector<StageShape> shapes_;
    std::vector<FrameLight> frame_lights_;
    std::vector<StageLight> lights_;
    std::array<LifeTable<float>, 3> ramp_;
    std::shared_ptr<const Image> image_;
    std::array<std::vector<float>, 3> panorama_;
};

} // namespace ember
