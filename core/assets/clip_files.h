// The files that a clip is kept in: one for each frame.
#pragma once

#include <cstdint>
#include <filesystem>
#include <vector>

namespace ember {

/// The most files of a clip: an hour of steps.
constexpr uint32_t most_clip_files = 216'000;

/// `first`, and those whose names follow on it by the number at their end; only it if it has none.
std::vector<std::filesystem::path> clip_files(const std::filesystem::path& first);

/// As the bake.json beside it or in the folder above says.
double clip_frames_per_s(const std::filesystem::path& first, double otherwise = 30);

} // namespace ember
