#include "core/bake/channel_files.h"

#include "core/base/file.h"

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfIO.h>
#include <ImfOutputFile.h>
#include <half.h>
#include <png.h>

#include <algorithm>
#include <csetjmp>
#include <exception>

namespace ember {

namespace {

constexpr float most_half = 65504; // that a half float holds

class Stream : public Imf::OStream {
  public:
    explicit Stream(std::ostream& stream) : OStream("stream"), stream_(stream) {}
    void write(const char* bytes, int count) override { stream_.write(bytes, count); }
    uint64_t tellp() override { return uint64_t(stream_.tellp()); }
    void seekp(uint64_t place) override { stream_.seekp(std::streamoff(place)); }

  private:
    std::ostream& stream_;
};

struct PngWriting {
    png_structp png = nullptr;
    png_infop info = nullptr;
    ~PngWriting() { png_destroy_write_struct(&png, &info); }
};

} // namespace

std::optional<Problem> write_channels(int width, int height, const std::vector<NamedChannel>& channels,
                                      const std::filesystem::path& path) {
    try {
        return write_file(path, [&](std::ostream& out) {
            Imf::Header header(width, height);
            header.compression() = Imf::ZIP_COMPRESSION;
            Imf::FrameBuffer buffer;
            std::vector<std::vector<half>> halves;
            for (const NamedChannel& channel : channels) {
                header.channels().insert(channel.name,
                                         Imf::Channel(channel.is_half ? Imf::HALF : Imf::FLOAT));
                const auto insert = [&](Imf::PixelType type, auto* values) {
                    constexpr size_t bytes = sizeof *values;
                    buffer.insert(channel.name, Imf::Slice(type, reinterpret_cast<char*>(values), bytes,
                                                           bytes * size_t(width)));
                };
                if (channel.is_half) {
                    std::vector<half>& held = halves.emplace_back(channel.values.size());
                    std::transform(
                        channel.values.begin(), channel.values.end(), held.begin(),
                        [](float value) { return half(std::clamp(value, -most_half, most_half)); });
                    insert(Imf::HALF, held.data());
                } else {
                    insert(Imf::FLOAT, const_cast<float*>(channel.values.data()));
                }
            }
            Stream stream(out);
            Imf::OutputFile file(stream, header);
            file.setFrameBuffer(buffer);
            file.writePixels(height);
        });
    } catch (const std::exception& error) {
        return Problem{path.string(), 0, "", error.what(), "a picture that OpenEXR can write"};
    }
}

std::optional<Problem> write_codes(int width, int height, int parts, const std::vector<uint16_t>& codes,
                                   const std::filesystem::path& path) {
    std::string bytes, error;
    std::vector<png_byte> row(size_t(width) * size_t(parts) * 2);
    PngWriting writing;
    writing.png = png_create_write_struct(
        PNG_LIBPNG_VER_STRING, &error,
        [](png_structp png, png_const_charp words) {
            *static_cast<std::string*>(png_get_error_ptr(png)) = words;
            png_longjmp(png, 1);
        },
        nullptr);
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
    png_set_IHDR(writing.png, writing.info, png_uint_32(width), png_uint_32(height), 16,
                 parts == 4 ? PNG_COLOR_TYPE_RGB_ALPHA : PNG_COLOR_TYPE_RGB, PNG_INTERLACE_NONE,
                 PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
    png_write_info(writing.png, writing.info);
    for (int y = 0; y < height; ++y) {
        const uint16_t* from = codes.data() + size_t(y) * size_t(width) * size_t(parts);
        for (size_t i = 0; i < size_t(width) * size_t(parts); ++i) { // the higher byte comes first
            row[2 * i] = png_byte(from[i] >> 8);
            row[2 * i + 1] = png_byte(from[i]);
        }
        png_write_row(writing.png, row.data());
    }
    png_write_end(writing.png, nullptr);
    return write_file(
        path, [&](std::ostream& stream) { stream.write(bytes.data(), std::streamsize(bytes.size())); });
}

} // namespace ember
