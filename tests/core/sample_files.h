// Small files that tests read: meshes, grids, images, keys.
#pragma once

#include <cmath>
#include <fstream>
#include <numbers>
#include <string>

namespace ember::sample {

/// A closed box of 12 triangles, 2 x 1 x 1 m, with its middle at zero.
inline void write_box_mesh(const std::string& path, bool is_open = false) {
    std::ofstream file(path);
    for (int i = 0; i < 8; ++i) {
        file << "v " << ((i & 1) != 0 ? 1 : -1) << " " << ((i & 2) != 0 ? 0.5 : -0.5) << " "
             << ((i & 4) != 0 ? 0.5 : -0.5) << "\n";
    }
    // Corners are numbered by bits x, y, z from 1; anticlockwise from outside.
    file << "f 1 3 4\nf 1 4 2\n"; // -z
    file << "f 5 6 8\nf 5 8 7\n"; // +z
    file << "f 1 5 7\nf 1 7 3\n"; // -x
    file << "f 2 4 8\nf 2 8 6\n"; // +x
    file << "f 1 2 6\nf 1 6 5\n"; // -y
    if (!is_open) {
        file << "f 3 7 8\nf 3 8 4\n"; // +y
    }
}

/// A ball of radius 1 as a grid of latitudes and longitudes.
inline void write_ball_mesh(const std::string& path, int rings = 48) {
    std::ofstream file(path);
    const int around = 2 * rings;
    for (int i = 0; i <= rings; ++i) {
        const double polar = std::numbers::pi * i / rings;
        for (int j = 0; j < around; ++j) {
            const double turn = 2 * std::numbers::pi * j / around;
            // All corners of a pole at one place, to the digit.
            const double ring = i == 0 || i == rings ? 0 : std::sin(polar);
            file << "v " << ring * std::cos(turn) << " " << std::cos(polar) << " " << ring * std::sin(turn)
                 << "\n";
        }
    }
    const auto corner = [&](int i, int j) { return 1 + i * around + j % around; };
    for (int i = 0; i < rings; ++i) {
        for (int j = 0; j < around; ++j) {
            if (i > 0) {
                file << "f " << corner(i, j) << " " << corner(i, j + 1) << " " << corner(i + 1, j) << "\n";
            }
            if (i + 1 < rings) {
                file << "f " << corner(i, j + 1) << " " << corner(i + 1, j + 1) << " " << corner(i + 1, j)
                     << "\n";
            }
        }
    }
}

/// A glTF scene whose only node stands 5 m up. `corners`: nine floats as base64.
inline std::string gltf_of_one_triangle(const std::string& corners) {
    return R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],
"nodes":[{"mesh":0,"translation":[0,5,0]}],"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],
"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3","min":[0,0,0],"max":[1,1,0]}],
"bufferViews":[{"buffer":0,"byteLength":36}],
"buffers":[{"byteLength":36,"uri":"data:application/octet-stream;base64,)" +
           corners + "\"}]}";
}

inline void write_text(const std::string& path, const std::string& text) {
    std::ofstream(path) << text;
}

} // namespace ember::sample
