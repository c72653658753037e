#include "core/bake/channel_files.h"

#include "core/assets/png_rows.h"
#include "core/base/file.h"

#include <ImfChannelList.h>
#include <ImfFrameBuffer.h>
#include <ImfHeader.h>
#include <ImfIO.h>
#include <ImfOutputFile.h>
#include <half.h>

#include <algorithm>
#include <exception>

namespace ember {

namespace {

constexpr float most_half = 65504; // that a half float holds
constexpr int quick_zip = 1;       // a tenth larger than the usual, in two thirds of its time

class Stream : public Imf::OStream {
  public:
    explicit Stream(std::ostream& stream) : OStream("stream"), stream_(stream) {}
    void write(const char* bytes, int count) override { stream_.write(bytes, count); }
    uint64_t tellp() override { return uint64_t(stream_.tellp()); }
    void seekp(uint64_t place) override { stream_.seekp(std::streamoff(place)); }

  private:
    std::ostream& stream_;
};

} // namespace

std::optional<Problem> write_channels(int width, int height, const std::vector<NamedChannel>& channels,
                                      const std::filesystem::path& path) {
    try {
        return write_file(path, [&](std::ostream& out) {
            Imf::Header header(width, height);
            header.compression() = Imf::ZIP_COMPRESSION;
            header.zipCompressionLevel() = quick_zip;
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
    PngRows rows{
        .width = width, .height = height, .parts = parts, .depth = PngDepth::bits16, .is_srgb = false};
    rows.fill = [&](int y, uint8_t* out) {
        const size_t count = size_t(width) * size_t(parts);
        for (size_t i = 0; i < count; ++i) {
            const uint16_t code = codes[size_t(y) * count + i];
            *out++ = uint8_t(code >> 8);
            *out++ = uint8_t(code);
        }
    };
    return write_png_rows(rows, path);
}

} // namespace ember
