// Particles that were baked, read again: a file for each frame.
#pragma once

#include "core/base/curve.h"
#include "core/base/problem.h"
#include "core/base/progress.h"
#include "kernels/vec3.h"

#include <cstdint>
#include <filesystem>
#include <optional>
#include <string_view>
#include <vector>

namespace ember {

struct ClipParticle {
    uint32_t source = 0, number = 0; // the same from frame to frame
    Vec3 place;                      // m
    float age = 0, lifetime = 1;     // s
    float size = 0.02f;              // m, at birth
    Colour tint = {1, 1, 1, 1};      // 0..1, and opacity
};

struct Clip {
    double frames_per_s = 30;
    std::vector<std::vector<ClipParticle>> frames; // each by source, then number
    uint32_t sources = 1;                          // how many there are
    double length_s() const { return double(frames.size()) / frames_per_s; }
};

/// The most particles that the frames of a clip may have, in all.
constexpr size_t most_clip_particles = 20'000'000;

/// One frame: a PLY file, text or binary, with vertices that have x, y, z. Of what else they may have id,
/// source, age, lifetime, born_size or size, tint_* or red, green, blue and alpha are read; what has no id is
/// counted. Nothing, and why, if it is damaged.
std::optional<std::vector<ClipParticle>> parse_clip_frame(std::string_view bytes, const std::string& file,
                                                          Problems& problems);

/// `first`: one of a row of files whose names differ in a number at their end; it and those that follow on it
/// are read. A bake.json in the folder above says how many there are in a second; else 30. Ages and lifetimes
/// that files do not tell are found by when a particle is there.
std::optional<Clip> read_clip(const std::filesystem::path& first, Problems& problems,
                              const Progress& progress = {});

} // namespace ember
