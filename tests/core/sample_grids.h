// OpenVDB files for tests, apart so that only one test program sees the library.
#pragma once

#include "kernels/vec3.h"

#include <array>
#include <cstdint>
#include <functional>
#include <string>

namespace ember::sample {

/// `count` vectors along each side, `cell_m` apart, with the middle one at zero.
void write_vector_grid(const std::string& path, int count, float cell_m,
                       const std::function<Vec3(Vec3)>& field);

/// The same vector (m/s, in the world) everywhere, in a grid whose own axes lie as given in the world.
void write_turned_grid(const std::string& path, int count, float cell_m, const std::array<Vec3, 3>& axes,
                       Vec3 flow);

/// One vector, in a file which says that its grid takes so many bytes of memory.
void write_grid_that_says(const std::string& path, int64_t bytes);

/// A grid of numbers named "density".
void write_density_grid(const std::string& path);

} // namespace ember::sample
