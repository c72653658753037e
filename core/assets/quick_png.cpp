#include "core/assets/png_rows.h"

#include <isa-l/crc.h>
#include <isa-l/igzip_lib.h>

#include <cstring>

namespace ember {

namespace {

constexpr uint8_t from_above = 2; // the filter that takes away the row before

// Byte by byte, eight at a time.
uint64_t less(uint64_t bytes, uint64_t by) {
    constexpr uint64_t high = 0x8080808080808080u;
    return ((bytes | high) - (by & ~high)) ^ ((bytes ^ ~by) & high);
}

void take_away(const uint8_t* row, const uint8_t* before, size_t bytes, uint8_t* out) {
    constexpr size_t wide = sizeof(uint64_t);
    size_t i = 0;
    for (; i + wide <= bytes; i += wide) {
        uint64_t a, b;
        std::memcpy(&a, row + i, wide);
        std::memcpy(&b, before + i, wide);
        a = less(a, b);
        std::memcpy(out + i, &a, wide);
    }
    for (; i < bytes; ++i) {
        out[i] = uint8_t(row[i] - before[i]);
    }
}

void add_number(std::string& bytes, uint32_t number) {
    for (const int shift : {24, 16, 8, 0}) {
        bytes += char(uint8_t(number >> shift));
    }
}

void add_chunk(std::string& bytes, const char (&type)[5], const std::string& data) {
    add_number(bytes, uint32_t(data.size()));
    const size_t first = bytes.size();
    bytes += type + data;
    add_number(bytes, crc32_gzip_refl(0, reinterpret_cast<const uint8_t*>(bytes.data()) + first,
                                      bytes.size() - first));
}

std::string packed(std::vector<uint8_t>& bytes) {
    std::string whole;
    std::vector<uint8_t> part(size_t(1) << 20);
    isal_zstream stream;
    isal_deflate_init(&stream);
    stream.level = 0; // the quickest
    stream.gzip_flag = IGZIP_ZLIB;
    stream.end_of_stream = 1;
    stream.next_in = bytes.data();
    stream.avail_in = uint32_t(bytes.size());
    do {
        stream.next_out = part.data();
        stream.avail_out = uint32_t(part.size());
        isal_deflate(&stream);
        whole.append(reinterpret_cast<const char*>(part.data()), part.size() - stream.avail_out);
    } while (stream.internal_state.state != ZSTATE_END);
    return whole;
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
        take_away(row.data(), before.data(), row_bytes, out);
        out += row_bytes;
    }

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
    add_chunk(bytes, "IDAT", packed(filtered));
    add_chunk(bytes, "IEND", "");
    return bytes;
}

} // namespace ember
