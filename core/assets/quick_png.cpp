#include "core/assets/png_rows.h"

#include <libdeflate.h>

#include <memory>
#include <new>

namespace ember {

namespace {

constexpr uint8_t from_above = 2; // the filter that takes away the row before

void add_number(std::string& bytes, uint32_t number) {
    for (const int shift : {24, 16, 8, 0}) {
        bytes += char(uint8_t(number >> shift));
    }
}

void add_chunk(std::string& bytes, const char (&type)[5], const std::string& data) {
    add_number(bytes, uint32_t(data.size()));
    const size_t first = bytes.size();
    bytes += type + data;
    add_number(bytes, libdeflate_crc32(0, bytes.data() + first, bytes.size() - first));
}

} // namespace

std::string quick_png(const PngRows& rows) {
    const size_t part_bytes = rows.depth == PngDepth::bits16 ? 2 : 1;
    const size_t row_bytes = size_t(rows.width) * size_t(rows.parts) * part_bytes;
    std::vector<uint8_t> before(row_bytes), row(row_bytes), filtered((row_bytes + 1) * size_t(rows.height));
    uint8_t* out = filtered.data();
    for (int y = 0; y < rows.height; ++y, row.swap(before)) {
        rows.fill(y, row.data());
        *out++ = from_above;
        for (size_t i = 0; i < row_bytes; ++i) {
            *out++ = uint8_t(row[i] - before[i]);
        }
    }
    constexpr int quickest = 1;
    const std::unique_ptr<libdeflate_compressor, void (*)(libdeflate_compressor*)> compressor(
        libdeflate_alloc_compressor(quickest), libdeflate_free_compressor);
    if (compressor == nullptr) {
        throw std::bad_alloc();
    }
    std::string packed(libdeflate_zlib_compress_bound(compressor.get(), filtered.size()), '\0');
    packed.resize(libdeflate_zlib_compress(compressor.get(), filtered.data(), filtered.size(), packed.data(),
                                           packed.size()));

    std::string header;
    add_number(header, uint32_t(rows.width));
    add_number(header, uint32_t(rows.height));
    constexpr char rgb = 2, rgb_and_opacity = 6;
    header += {char(8 * part_bytes), rows.parts == 4 ? rgb_and_opacity : rgb, 0, 0, 0};
    std::string bytes = "\x89PNG\r\n\x1a\n";
    add_chunk(bytes, "IHDR", header);
    if (rows.is_srgb) {
        add_chunk(bytes, "sRGB", std::string(1, '\1')); // relative colorimetric
    }
    add_chunk(bytes, "IDAT", packed);
    add_chunk(bytes, "IEND", "");
    return bytes;
}

} // namespace ember
