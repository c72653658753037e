// Images, read in a process of their own: the first byte says by which ending.
#include "fuzz/file_of_bytes.h"

#include "core/assets/image.h"

#include <cmath>

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    static const fuzz::FileOfBytes png(".png"), exr(".exr");
    const bool is_exr = size > 0 && bytes[0] == 0x76; // as all of them begin
    Problems problems;
    const auto image = read_image((is_exr ? exr : png).holding(bytes, size), problems);
    fuzz::must_say_why(image.has_value(), problems);
    if (image) {
        fuzz::must(image->pixels.size() == size_t(image->width) * size_t(image->height),
                   "all pixels are there");
        for (const Colour& pixel : image->pixels) {
            fuzz::must(std::isfinite(pixel.red + pixel.green + pixel.blue + pixel.alpha), "light is finite");
        }
    }
    return 0;
}
