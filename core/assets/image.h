// Images as light: for textures and backgrounds.
#pragma once

#include "core/base/curve.h"
#include "core/base/problem.h"

#include <filesystem>
#include <optional>
#include <span>
#include <vector>

namespace ember {

/// Linear light with opacity, row by row from the top.
struct Image {
    int width = 0, height = 0;
    std::vector<Colour> pixels;

    const Colour& at(int x, int y) const { return pixels[size_t(y) * size_t(width) + size_t(x)]; }
};

/// Larger images are read, but kept at a size of at most this (pixels), each of theirs the mean of many.
constexpr int most_kept_side = 2048;
constexpr int most_image_side = 16384;

/// Reads a PNG (1 to 16 bits a channel, sRGB) or an OpenEXR file of at most 16384x16384 pixels. A note, with
/// an image, says that it was made smaller. Numbers that are not finite become black.
std::optional<Image> read_image(const std::filesystem::path& path, Problems& problems);

class OctaveTable;

/// How many bits a channel of a PNG has.
enum class PngDepth { bits8, bits16 };

/// Writes straight opacity and sRGB, whole or not at all. Light above 1 is cut off.
std::optional<Problem> write_png(const Image& image, PngDepth depth, const std::filesystem::path& path);

/// Writes linear light in OpenEXR's half floats; `pixels` hold light that is already multiplied by opacity.
std::optional<Problem> write_exr(const Image& image, const std::filesystem::path& path);

/// The sRGB transfer function (IEC 61966-2-1), both ways; numbers 0..1.
float srgb_of(float light);
float light_of(float srgb);
/// The same as tables, for whole pictures.
const OctaveTable& quick_srgb();
const OctaveTable& quick_light();

} // namespace ember
