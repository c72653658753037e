// Small files that effects read: images of heights, and keys of movers.
#pragma once

#include "core/base/problem.h"
#include "kernels/vec3.h"

#include <filesystem>
#include <optional>
#include <vector>

namespace ember {

/// Brightness 0..1, row by row from the top.
struct HeightImage {
    int width = 0, height = 0;
    std::vector<float> values;
};

/// Reads a PNG of 8 or 16 bits, at least 2x2 and at most 4096x4096 pixels; colours become their brightness.
std::optional<HeightImage> read_heights(const std::filesystem::path& path, Problems& problems);

struct Key {
    float time = 0; // s
    Vec3 position;  // m
    Vec3 turn;      // degrees
};

/// Keys in order of time; at least one.
struct KeyTrack {
    std::vector<Key> keys;

    /// Between keys position and turn run straight; outside they stay. `loops`: time begins again after the
    /// last.
    Key at(double time_s, bool loops) const;
};

/// Lines of "seconds, x, y, z" or "seconds, x, y, z, turn x, turn y, turn z"; empty lines, lines that begin
/// with # and a first line of names are skipped.
std::optional<KeyTrack> read_keys(const std::filesystem::path& path, Problems& problems);

} // namespace ember
