// One picture of a frame, as smooth as it gets, as a file.
#pragma once

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

/// In parts where there is no room for the whole at once; refused if there is none for those. The ending says
/// how: .exr holds linear light with exposure, before the tone curve, and opacity; anything else is a PNG of
/// 8 bits, finished as on the screen. What adds light has no opacity in an EXR; in a PNG it has as much as it
/// is bright, since such files cannot glow.
std::optional<Problem> save_still(const Frame& frame, const Effect& effect, const Camera& camera,
                                  const StillOptions& options, const std::filesystem::path& path);

} // namespace ember
