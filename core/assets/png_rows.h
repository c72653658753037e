// PNG files, written row by row.
#pragma once

#include "core/assets/image.h"

#include <functional>

namespace ember {

struct PngRows {
    int width = 0, height = 0;
    int parts = 4; // 3: no opacity
    PngDepth depth = PngDepth::bits8;
    bool is_srgb = true;   // else the numbers are no colours
    bool is_quick = false; // a fifth or a third larger, in a fraction of the time
    /// The codes of a row, part by part; of 16 bits the higher byte first.
    std::function<void(int y, uint8_t* row)> fill;
};

/// The file of rows that are quick to compress, in memory; all of them are held at once.
std::string quick_png(const PngRows& rows);

/// Whole or not at all.
std::optional<Problem> write_png_rows(const PngRows& rows, const std::filesystem::path& path);

} // namespace ember
