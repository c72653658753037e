#include "render/png.h"

#include "core/assets/png_rows.h"

namespace ember {

std::optional<Problem> write_png(const Picture& picture, const std::filesystem::path& path) {
    PngRows rows{.width = picture.width, .height = picture.height, .parts = 3, .is_quick = true};
    rows.fill = [&](int y, uint8_t* out) {
        const uint32_t* pixels = picture.pixels.data() + size_t(y) * size_t(picture.width);
        for (int x = 0; x < picture.width; ++x) {
            *out++ = uint8_t(pixels[x] >> 16);
            *out++ = uint8_t(pixels[x] >> 8);
            *out++ = uint8_t(pixels[x]);
        }
    };
    return write_png_rows(rows, path);
}

} // namespace ember
