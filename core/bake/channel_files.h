// Pictures whose numbers are no colours: channels by name as OpenEXR, codes of 16 bits as PNG.
#pragma once

#include "core/base/problem.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace ember {

struct NamedChannel {
    std::string name;          // "R", "depth.Z", "spray.R"
    std::vector<float> values; // row by row from the top
    bool is_half = false;      // half floats, else floats
};

/// Whole or not at all. All channels have width * height numbers.
std::optional<Problem> write_channels(int width, int height, const std::vector<NamedChannel>& channels,
                                      const std::filesystem::path& path);

/// `codes`: 3 or 4 for each pixel, as they are: no transfer function. Whole or not at all.
std::optional<Problem> write_codes(int width, int height, int parts, const std::vector<uint16_t>& codes,
                                   const std::filesystem::path& path);

} // namespace ember
