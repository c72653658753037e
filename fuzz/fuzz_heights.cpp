// Images of heights, read in a process of their own.
#include "fuzz/file_of_bytes.h"

#include "core/assets/files.h"

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    static const fuzz::FileOfBytes file(".png");
    Problems problems;
    const auto heights = read_heights(file.holding(bytes, size), problems);
    fuzz::must_say_why(heights.has_value(), problems);
    if (heights) {
        fuzz::must(heights->values.size() == size_t(heights->width) * size_t(heights->height),
                   "all heights are there");
        for (const float height : heights->values) {
            fuzz::must(height >= 0 && height <= 1, "heights are between 0 and 1");
        }
    }
    return 0;
}
