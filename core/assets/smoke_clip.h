// Smoke that was baked, read again: an OpenVDB file for each frame.
#pragma once

#include "core/base/problem.h"
#include "core/base/progress.h"
#include "kernels/vec3.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <vector>

namespace ember {

/// The box of all voxels that hold something, x fastest, then y; half floats.
struct SmokeClipFrame {
    int x = 0, y = 0, z = 0;             // voxels; 0: there is nothing
    float cell = 0.1f;                   // m
    Vec3 low;                            // m, the middle of the first
    bool tells_middle = false;           // of the bound that it was baked in:
    Vec3 middle;                         // m
    std::vector<uint16_t> density, heat; // no unit, K
    size_t voxels() const { return size_t(x) * size_t(y) * size_t(z); }
};

struct SmokeClip {
    double frames_per_s = 30;
    std::vector<SmokeClipFrame> frames;
    Vec3 middle; // m, of the bound, or of all that any frame holds
    double length_s() const { return double(frames.size()) / frames_per_s; }
};

/// The most voxels that the frames of a clip may have, in all.
constexpr size_t most_smoke_clip_voxels = 250'000'000;

/// `first`: one of a row of files whose names differ in a number at their end; it and those that follow on it
/// are read. `volume`: the first, second ... of the grids whose names are "density" or end in " density"; its
/// heat is named likewise, or "temperature". Grids must be no more than moved and scaled evenly. Nothing, and
/// why, if a file is damaged or has no such grid.
std::optional<SmokeClip> read_smoke_clip(const std::filesystem::path& first, int volume, Problems& problems,
                                         const Progress& progress = {});

} // namespace ember
