// Grids of vectors, read in a process of their own.
#include "fuzz/file_of_bytes.h"

#include "core/assets/vector_grid.h"

#include <cmath>

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    static const fuzz::FileOfBytes file(".vdb");
    constexpr int most_cells = 64;
    Problems problems;
    const auto grid = read_vectors(file.holding(bytes, size), most_cells, problems);
    fuzz::must_say_why(grid.has_value(), problems);
    if (grid) {
        const auto [x, y, z] = grid->count;
        fuzz::must(grid->values.size() == size_t(x) * size_t(y) * size_t(z) * 3, "all vectors are there");
        for (const float value : grid->values) {
            fuzz::must(std::isfinite(value), "vectors are finite");
        }
    }
    return 0;
}
