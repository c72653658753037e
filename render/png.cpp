#include "render/png.h"

#include "core/base/file.h"

#include <png.h>

namespace ember {

std::optional<Problem> write_png(const Picture& picture, const std::filesystem::path& path) {
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    image.width = png_uint_32(picture.width);
    image.height = png_uint_32(picture.height);
    image.format = PNG_FORMAT_BGRA; // 0xAARRGGBB in little-endian memory
    png_alloc_size_t size = PNG_IMAGE_PNG_SIZE_MAX(image);
    std::vector<char> bytes(size);
    if (png_image_write_to_memory(&image, bytes.data(), &size, 0, picture.pixels.data(), 0, nullptr) == 0) {
        return Problem{path.string(), 0, "", image.message, "a picture that libpng can write"};
    }
    return write_file(path, [&](std::ostream& stream) { stream.write(bytes.data(), std::streamsize(size)); });
}

} // namespace ember
