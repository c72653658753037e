#include "render/png.h"

#include "core/base/file.h"

#include <png.h>

#include <csetjmp>

namespace ember {

namespace {

struct Writing {
    png_structp png = nullptr;
    png_infop info = nullptr;
    ~Writing() { png_destroy_write_struct(&png, &info); }
};

void keep_error(png_structp png, png_const_charp words) {
    *static_cast<std::string*>(png_get_error_ptr(png)) = words;
    png_longjmp(png, 1);
}

} // namespace

// Pictures are written by the hundred: quick compression, which finds nearly as much in them as the slow one.
std::optional<Problem> write_png(const Picture& picture, const std::filesystem::path& path) {
    constexpr int quick = 2;
    std::string bytes, error;
    std::vector<png_byte> row(size_t(picture.width) * 3);
    Writing writing;
    writing.png = png_create_write_struct(PNG_LIBPNG_VER_STRING, &error, keep_error, nullptr);
    writing.info = png_create_info_struct(writing.png);
    // libpng leaves by longjmp: nothing with a destructor may be made after this.
    if (setjmp(png_jmpbuf(writing.png))) {
        return Problem{path.string(), 0, "", error, "a picture that libpng can write"};
    }
    png_set_write_fn(
        writing.png, &bytes,
        [](png_structp png, png_bytep from, size_t count) {
            static_cast<std::string*>(png_get_io_ptr(png))
                ->append(reinterpret_cast<const char*>(from), count);
        },
        nullptr);
    png_set_compression_level(writing.png, quick);
    png_set_filter(writing.png, 0, PNG_FILTER_SUB);
    png_set_IHDR(writing.png, writing.info, png_uint_32(picture.width), png_uint_32(picture.height), 8,
                 PNG_COLOR_TYPE_RGB, PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT,
                 PNG_FILTER_TYPE_DEFAULT);
    png_set_sRGB_gAMA_and_cHRM(writing.png, writing.info, PNG_sRGB_INTENT_PERCEPTUAL);
    png_write_info(writing.png, writing.info);
    for (int y = 0; y < picture.height; ++y) {
        const uint32_t* pixels = picture.pixels.data() + size_t(y) * size_t(picture.width);
        for (int x = 0; x < picture.width; ++x) {
            png_byte* out = row.data() + size_t(x) * 3;
            out[0] = png_byte(pixels[x] >> 16);
            out[1] = png_byte(pixels[x] >> 8);
            out[2] = png_byte(pixels[x]);
        }
        png_write_row(writing.png, row.data());
    }
    png_write_end(writing.png, nullptr);
    return write_file(
        path, [&](std::ostream& stream) { stream.write(bytes.data(), std::streamsize(bytes.size())); });
}

} // namespace ember
