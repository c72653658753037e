// One picture of a frame, as smooth as it gets, as a file.
#pragma once

#include "core/assets/image.h"
#include "core/base/problem.h"
#include "render/renderer.h"

#include <filesystem>
#include <optional>

namespace ember {

struct StillOptions {
    int width = 1280, height = 800;
    bool is_alone = false;        // without the stage, on nothing: the stage only hides what is behind it
    std::optional<uint64_t> room; // bytes that may be taken; nothing: nearly all that is free
};

/// Into how many parts, one below the other, a still has to be drawn to find room; nothing: into none that
/// are small enough. What it looks like does not depend on it.
std::optional<int> parts_of_still(const Frame& frame, const Effect& effect, const StillOptions& options,
                                  bool is_exr);

/// As smooth as it gets, in memory, in one part.
void draw_still(const Frame& frame, const Effect& effect, const Camera& camera, int width, int height,
                Picture& picture);

/// What a still is to be: finished as on the screen, or linear light with exposure, before the tone curve,
/// and opacity. What adds light has no opacity as light; finished it has as much as it is bright, since such
/// pictures cannot glow. What is deep is finished without steps of 8 bits.
enum class StillKind { finished, deep, light };

/// Drawn, to be written when there is time.
struct Still {
    StillKind kind = StillKind::finished;
    Picture picture; // finished on the stage; else empty
    Image image;     // all others; light is multiplied by opacity, what is finished is not
};

/// Draws one still after the other: a stage that stands still is drawn once for all.
class StillPainter {
  public:
    StillPainter();
    Still draw(const Frame& frame, const Effect& effect, const Camera& camera, const StillOptions& options,
               StillKind kind, int parts = 1);

    /// How far along the camera's axis what is seen at a pixel of the last still lies (m); nothing for the
    /// sky. Of a still that was drawn in one part.
    std::optional<float> depth_at(int x, int y) const {
        return (is_alone_ ? on_black_ : on_stage_).depth_at(x, y);
    }

  private:
    Renderer on_stage_, on_white_, on_black_; // the last two of what is alone
    bool is_alone_ = false;                   // the last still
    Finishing finishing_;
};

/// Light as .exr, anything else as PNG. Whole or not at all.
std::optional<Problem> write_still(const Still& still, PngDepth depth, const std::filesystem::path& path);

/// In parts where there is no room for the whole at once; refused if there is none for those. The ending says
/// which kind: .exr holds light, anything else is a PNG of 8 bits.
std::optional<Problem> save_still(const Frame& frame, const Effect& effect, const Camera& camera,
                                  const StillOptions& options, const std::filesystem::path& path);

} // namespace ember
