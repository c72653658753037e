// Pictures as PNG files.
#pragma once

#include "core/base/problem.h"
#include "render/renderer.h"

#include <filesystem>
#include <optional>

namespace ember {

/// 8 bits per channel, sRGB. Whole or not at all.
std::optional<Problem> write_png(const Picture& picture, const std::filesystem::path& path);

} // namespace ember
