// The places at which a bake writes what forces do.
#pragma once

#include "kernels/vec3.h"

#include <array>
#include <vector>

namespace ember {

struct Stage;

/// Where force fields are written: even places in a box.
struct FieldBox {
    Vec3 low, high;     // m
    int cells = 32;     // along the longest side
    float cell() const; // m
    std::array<int, 3> count() const;
    std::vector<Vec3> places() const; // x fastest, then y
};
constexpr int most_field_cells = 256;
/// Round what the camera looks at, as wide as it is far away.
FieldBox box_in_view(const Stage& stage);

} // namespace ember
