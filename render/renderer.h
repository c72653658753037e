// Pictures from frames, on the processor.
//
// The picture is made in three passes: the stage (rays against ground and boxes, kept while nothing of it
// changes), the particles (projected, binned to tiles of 64x32 pixels, drawn into floating-point light:
// bodies and what is cut out first, then what is blended), and the finishing (bloom, glare, exposure, tone
// curve, grade).
//
//     Renderer renderer;
//     renderer.draw(frame, *frame.now, camera_of(effect.stage), 900, 560, picture);
#pragma once

#include "core/runtime/frame.h"
#include "render/camera.h"
#include "render/cloud_picture.h"
#include "render/finishing.h"
#include "render/focus_picture.h"
#include "render/render_kernels.h"
#include "render/stage_picture.h"
#include "render/things.h"

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace ember {

/// What the last picture cost, in milliseconds of wall-clock time.
struct DrawMeters {
    double stage_ms = 0;
    double lamps_ms = 0; // within it: what was drawn anew for the sake of lamps alone
    double dots_ms = 0;
    double smoke_ms = 0;
    double focus_ms = 0;     // of the stage out of focus
    double finishing_ms = 0; // of which:
    Finishing::Meters finishing;
    double total_ms = 0;
    size_t dots = 0; // drawn, of those in the frame
    size_t triangles = 0;
    double surface_ms = 0; // of skins round particles, within the dots
    /// What each element of the frame's effect had of it: all that was not the stage, its focus and the
    /// finishing. Of the stage lamps have `lamps_ms`.
    std::vector<double> element_ms;
    /// Within it: what made its things ready, which goes by their number; the rest goes by their pixels.
    std::vector<double> element_readied_ms;
};

/// Where on the picture the milliseconds of a frame went, tile by tile: drawing, and the steps of the
/// particles that are seen there.
struct HeatMap {
    int across = 0, down = 0;            // tiles
    int tile_width = 0, tile_height = 0; // pixels
    std::vector<float> ms;               // row by row
};

class Renderer {
  public:
    explicit Renderer(Isa isa = best_isa());

    /// Draws a frame with the looks and the stage of `effect`, as a rule Frame::now. Width and height are at
    /// least 1 and at most 16384. The stage gets smoother edges over the first eight pictures from the same
    /// camera.
    void draw(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height,
              Picture& picture);

    /// The same without the finishing: light before the lens spreads it. Smooth: as it is once settled.
    const LightPlanes& draw_light(const Frame& frame, const Effect& effect, const Camera& camera, int width,
                                  int height, bool is_smooth = false);

    /// Pictures from now on have only as many copies as the stage shows while one works.
    void set_preview(bool on) { is_preview_ = on; }

    /// Pictures from now on have this light in place of the stage, which only hides what is behind it.
    void set_backdrop(std::optional<float> light) { backdrop_ = light; }

    /// Of the pictures from now on.
    void set_tint(DotTint tint) { tint_ = tint; }

    /// Pictures from now on show breakables as they are cut, each piece in a tint of its own and so far from
    /// where it belongs, in shares of its way from the middle; nothing: as they are.
    void set_cut_apart(std::optional<float> apart) { cut_apart_ = apart; }

    /// How far along the camera's axis what is seen at a pixel of the last picture lies (m); nothing for the
    /// sky.
    std::optional<float> depth_at(int x, int y) const;

    /// Of the last picture, which was drawn from this frame.
    HeatMap heat(const Frame& frame) const;

    /// True once further pictures of the same frame would not change.
    bool is_settled() const { return stage_.is_settled(); }

    const DrawMeters& meters() const { return meters_; }
    size_t bytes() const;

    /// The light of the last picture with bloom, before exposure and tone curve. Made when asked for.
    LightPlanes light() const { return finishing_.spread(light_); }

    static constexpr int most_stage_samples = StagePicture::most_samples;

  private:
    void gather(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height);
    void draw_things();
    void draw_mirrored(int index, Tile tile, KindTimes& times);
    void share_out(const Frame& frame, double drawing_ms);

    const RenderKernels& kernels_;

    StagePicture stage_;
    FocusPicture focus_;
    CloudPicture clouds_;
    SunMap sun_map_;
    Camera camera_;
    Vec3 kept_in_shadow_;
    LightPlanes light_;       // before the finishing
    std::vector<char> plain_; // of each tile: it shows nothing but the stage
    Things things_, mirrored_;
    bool is_mirrored_ = false;
    LightPlanes mirror_light_;
    FloatPlane mirror_depth_{5};
    Surfaces surfaces_;
    BodyShelf shelf_;
    FloatPlane depth_{4}; // of the stage and of what hides it, in tiles in which something does
    // Of one thread.
    struct TileTimes {
        double whole_ms = 0;
        KindTimes own, mirrored;
    };
    std::vector<TileTimes> tile_times_;
    std::optional<float> backdrop_;
    DotTint tint_ = DotTint::look;
    std::optional<float> cut_apart_;
    std::vector<FrameDebris> cuts_; // what is drawn then
    bool is_preview_ = false;

    Finishing finishing_;
    DrawMeters meters_;
};

} // namespace ember
