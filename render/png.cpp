#include "render/png.h"

#include "core/assets/png_rows.h"

#include <array>
#include <cstring>

namespace ember {

std::optional<Problem> write_png(const Picture& picture, const std::filesystem::path& path) {
    PngRows rows{.width = picture.width, .height = picture.height, .parts = 3, .is_quick = true};
    rows.fill = [&](int y, uint8_t* out) {
        const uint32_t* pixels = picture.pixels.data() + size_t(y) * size_t(picture.width);
        const auto codes = [&](int x) {
            const uint32_t p = pixels[x];
            return std::array{uint8_t(p >> 16), uint8_t(p >> 8), uint8_t(p), uint8_t(0)};
        };
        // Four bytes at once; the next pixel writes over the last.
        for (int x = 0; x + 1 < picture.width; ++x, out += 3) {
            std::memcpy(out, codes(x).data(), 4);
        }
        std::memcpy(out, codes(picture.width - 1).data(), 3);
    };
    return write_png_rows(rows, path);
}

} // namespace ember
