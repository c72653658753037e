#include "core/assets/decoding.h"

#include "core/assets/png_rows.h"
#include "core/base/file.h"
#include "core/base/octave_table.h"

#include <png.h>

#include <OpenEXR/ImfArray.h>
#include <OpenEXR/ImfIO.h>
#include <OpenEXR/ImfRgbaFile.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <csetjmp>
#include <cstring>
#include <fstream>

namespace ember {

namespace {

constexpr uint64_t most_image_bytes = uint64_t(1) << 30;
// Rows of an interlaced PNG come in several passes: such an image has to be held whole.
constexpr int64_t most_interlaced = int64_t(1) << 24; // pixels

std::string size_text(int width, int height) {
    return std::to_string(width) + "x" + std::to_string(height) + " pixels";
}

bool is_size_fine(int width, int height) {
    return width >= 1 && height >= 1 && width <= most_image_side && height <= most_image_side;
}

// Takes rows as they come and keeps the mean of squares of them.
class Shrinker {
  public:
    Shrinker(int width, int height)
        : width_(width), rows_(height),
          factor_((std::max(width, height) + most_kept_side - 1) / most_kept_side) {
        image_.width = (width + factor_ - 1) / factor_;
        image_.height = (height + factor_ - 1) / factor_;
        image_.pixels.assign(size_t(image_.width) * size_t(image_.height), {0, 0, 0, 0});
        counts_.assign(size_t(image_.width), 0);
    }

    void add_row(int y, const Colour* row) {
        Colour* out = image_.pixels.data() + size_t(y / factor_) * size_t(image_.width);
        if (y % factor_ == 0) {
            std::fill(counts_.begin(), counts_.end(), 0);
        }
        for (int x = 0; x < width_; ++x) {
            // Weighted by opacity, so that what is unseen has no colour.
            Colour& sum = out[x / factor_];
            const Colour& c = row[x];
            sum = {sum.red + c.red * c.alpha, sum.green + c.green * c.alpha, sum.blue + c.blue * c.alpha,
                   sum.alpha + c.alpha};
            ++counts_[size_t(x / factor_)];
        }
        finish_row(y);
    }

    Image take() { return std::move(image_); }
    bool is_smaller() const { return factor_ > 1; }

  private:
    void finish_row(int y) {
        const bool is_last = y % factor_ == factor_ - 1 || y == rows_ - 1;
        if (!is_last) {
            return;
        }
        Colour* out = image_.pixels.data() + size_t(y / factor_) * size_t(image_.width);
        for (int x = 0; x < image_.width; ++x) {
            Colour& c = out[x];
            const float opacity = std::max(c.alpha, 1e-6f);
            c = {c.red / opacity, c.green / opacity, c.blue / opacity, c.alpha / float(counts_[size_t(x)])};
        }
    }

    int width_, rows_, factor_;
    std::vector<int> counts_;
    Image image_;
};

struct PngBytes {
    const std::string* bytes;
    size_t at;
};

void read_bytes(png_structp png, png_bytep out, size_t count) {
    auto& from = *static_cast<PngBytes*>(png_get_io_ptr(png));
    if (from.bytes->size() - from.at < count) {
        png_error(png, "the file ends too early");
    }
    std::memcpy(out, from.bytes->data() + from.at, count);
    from.at += count;
}

[[noreturn]] void keep_error(png_structp png, png_const_charp text) {
    *static_cast<std::string*>(png_get_error_ptr(png)) = text;
    longjmp(png_jmpbuf(png), 1);
}

void no_warning(png_structp, png_const_charp) {}

const std::array<float, 65536>& light_table() {
    static const auto table = [] {
        std::array<float, 65536> lights;
        for (size_t i = 0; i < lights.size(); ++i) {
            lights[i] = light_of(float(i) / 65535);
        }
        return lights;
    }();
    return table;
}

struct PngReader {
    png_structp png = nullptr;
    png_infop info = nullptr;
    ~PngReader() { png_destroy_read_struct(&png, &info, nullptr); }
};

struct PngWriter {
    png_structp png = nullptr;
    png_infop info = nullptr;
    ~PngWriter() { png_destroy_write_struct(&png, &info); }
};

void append_bytes(png_structp png, png_bytep from, size_t count) {
    static_cast<std::string*>(png_get_io_ptr(png))->append(reinterpret_cast<const char*>(from), count);
}

// libpng leaves by longjmp: nothing with a destructor may be made between setjmp and that.
std::optional<Image> read_png(const std::string& bytes, std::string& found, std::string& expected,
                              bool& is_smaller) {
    std::string error;
    PngBytes from{&bytes, 0};
    PngReader reader;
    reader.png = png_create_read_struct(PNG_LIBPNG_VER_STRING, &error, keep_error, no_warning);
    reader.info = png_create_info_struct(reader.png);
    png_set_user_limits(reader.png, 1 << 20, 1 << 20);
    png_set_chunk_malloc_max(reader.png, png_alloc_size_t(64) << 20); // whatever length a chunk claims
    std::vector<uint16_t> row;
    std::vector<Colour> colours;
    std::vector<uint8_t> whole;
    std::vector<png_bytep> whole_rows;
    std::optional<Shrinker> shrinker;
    if (setjmp(png_jmpbuf(reader.png))) {
        found = "unreadable: " + error;
        expected = "a whole PNG image";
        return std::nullopt;
    }
    png_set_read_fn(reader.png, &from, read_bytes);
    png_read_info(reader.png, reader.info);
    const int width = int(png_get_image_width(reader.png, reader.info));
    const int height = int(png_get_image_height(reader.png, reader.info));
    const bool is_interlaced = png_get_interlace_type(reader.png, reader.info) != PNG_INTERLACE_NONE;
    if (!is_size_fine(width, height)) {
        found = size_text(width, height);
        expected = "at most " + size_text(most_image_side, most_image_side);
        return std::nullopt;
    }
    if (is_interlaced && int64_t(width) * height > most_interlaced) {
        found = size_text(width, height) + ", interlaced";
        expected = "the image saved without interlacing";
        return std::nullopt;
    }
    // Some files of 16 bits hold linear light.
    double gamma = 0;
    const bool is_linear = png_get_gAMA(reader.png, reader.info, &gamma) != 0 && gamma > 0.9;
    png_set_expand_16(reader.png);
    png_set_gray_to_rgb(reader.png);
    png_set_add_alpha(reader.png, 0xffff, PNG_FILLER_AFTER);
    png_set_swap(reader.png);
    png_set_interlace_handling(reader.png);
    png_read_update_info(reader.png, reader.info);
    const size_t row_bytes = size_t(width) * 8;
    row.resize(size_t(width) * 4);
    colours.resize(size_t(width));
    shrinker.emplace(width, height);
    if (is_interlaced) {
        whole.resize(row_bytes * size_t(height));
        for (int y = 0; y < height; ++y) {
            whole_rows.push_back(whole.data() + row_bytes * size_t(y));
        }
        png_read_image(reader.png, whole_rows.data());
    }
    for (int y = 0; y < height; ++y) {
        if (is_interlaced) {
            std::memcpy(row.data(), whole_rows[size_t(y)], row_bytes);
        } else {
            png_read_row(reader.png, reinterpret_cast<png_bytep>(row.data()), nullptr);
        }
        const auto& lights = light_table();
        for (size_t x = 0; x < size_t(width); ++x) {
            const auto light = [&](size_t part) {
                const uint16_t value = row[4 * x + part];
                return is_linear ? float(value) / 65535 : lights[value];
            };
            colours[x] = {light(0), light(1), light(2), float(row[4 * x + 3]) / 65535};
        }
        shrinker->add_row(y, colours.data());
    }
    is_smaller = shrinker->is_smaller();
    return shrinker->take();
}

// A tenth larger than the usual, in two thirds of its time.
constexpr int quick_zip = 1;

// What is brighter than this is held to it.
constexpr float brightest_light = 1000;

std::optional<Image> read_exr(const std::filesystem::path& path, std::string& found, std::string& expected,
                              bool& is_smaller, bool& is_held) {
    expected = "a whole OpenEXR image with colours";
    try {
        Imf::RgbaInputFile file(path.c_str());
        const auto window = file.dataWindow();
        const int64_t wide = int64_t(window.max.x) - window.min.x + 1;
        const int64_t high = int64_t(window.max.y) - window.min.y + 1;
        if (wide < 1 || high < 1 || wide > most_image_side || high > most_image_side) {
            found = std::to_string(wide) + "x" + std::to_string(high) + " pixels";
            expected = "at most " + size_text(most_image_side, most_image_side);
            return std::nullopt;
        }
        const int width = int(wide), height = int(high);
        if ((file.channels() & Imf::WRITE_RGB) == 0 && (file.channels() & Imf::WRITE_Y) == 0) {
            found = "no colours";
            return std::nullopt;
        }
        const bool has_alpha = (file.channels() & Imf::WRITE_A) != 0;
        Imf::Array<Imf::Rgba> row(width);
        std::vector<Colour> colours(static_cast<size_t>(width));
        Shrinker shrinker(width, height);
        for (int y = 0; y < height; ++y) {
            file.setFrameBuffer(&row[0] - window.min.x - int64_t(window.min.y + y) * width, 1, size_t(width));
            file.readPixels(window.min.y + y);
            for (int x = 0; x < width; ++x) {
                const Imf::Rgba& p = row[x];
                // Light beyond what a half float holds is read as endless.
                const auto fine = [&](float v) {
                    is_held = is_held || v > brightest_light;
                    return std::isnan(v) ? 0.0f : std::clamp(v, 0.0f, brightest_light);
                };
                const float alpha = has_alpha ? std::clamp(fine(p.a), 0.0f, 1.0f) : 1.0f;
                const float by = 1 / std::max(alpha, 1e-4f); // EXR keeps light already multiplied
                colours[size_t(x)] = {fine(p.r) * by, fine(p.g) * by, fine(p.b) * by, alpha};
            }
            shrinker.add_row(y, colours.data());
        }
        is_smaller = shrinker.is_smaller();
        return shrinker.take();
    } catch (const std::exception& error) {
        found = std::string("unreadable: ") + error.what();
        return std::nullopt;
    }
}

// OpenEXR writes into a stream of ours, so that a file is whole or not there.
class ExrStream : public Imf::OStream {
  public:
    explicit ExrStream(std::ostream& out) : Imf::OStream("picture"), out_(out) {}
    void write(const char bytes[], int count) override { out_.write(bytes, count); }
    uint64_t tellp() override { return uint64_t(std::streamoff(out_.tellp())); }
    void seekp(uint64_t place) override { out_.seekp(std::streamoff(place)); }

  private:
    std::ostream& out_;
};

} // namespace

float srgb_of(float light) {
    return light <= 0.0031308f ? 12.92f * light : 1.055f * std::pow(light, 1 / 2.4f) - 0.055f;
}

float light_of(float srgb) {
    return srgb <= 0.04045f ? srgb / 12.92f : std::pow((srgb + 0.055f) / 1.055f, 2.4f);
}

// Both are straight lines through 0 below where these begin.
const OctaveTable& quick_srgb() {
    static const OctaveTable table(0x1p-9f, 1, srgb_of);
    return table;
}

const OctaveTable& quick_light() {
    static const OctaveTable table(0x1p-5f, 1, light_of);
    return table;
}

std::optional<Image> decode_image(const std::filesystem::path& path, Problems& problems) {
    std::string found, expected;
    bool is_smaller = false, is_held = false;
    std::optional<Image> image;
    if (path.extension() == ".exr") {
        if (!std::filesystem::is_regular_file(path)) {
            problems.push_back({path.string(), 0, "", "no such file", "an OpenEXR image"});
            return std::nullopt;
        }
        image = read_exr(path, found, expected, is_smaller, is_held);
    } else if (const auto bytes = read_file(path, most_image_bytes, problems)) {
        image = read_png(*bytes, found, expected, is_smaller);
    } else {
        return std::nullopt;
    }
    if (!image) {
        problems.push_back({path.string(), 0, "", found, expected});
    } else if (is_smaller) {
        problems.push_back({path.string(), 0, "",
                            "more than " + std::to_string(most_kept_side) + " pixels on a side",
                            "a smaller image; it is used at " + size_text(image->width, image->height)});
    }
    if (image && is_held) {
        problems.push_back({path.string(), 0, "", "light above " + std::to_string(int(brightest_light)),
                            "less; what is brighter is used at that"});
    }
    return image;
}

std::optional<Problem> write_png_rows(const PngRows& rows, const std::filesystem::path& path) {
    const size_t part_bytes = rows.depth == PngDepth::bits16 ? 2 : 1;
    const size_t row_bytes = size_t(rows.width) * size_t(rows.parts) * part_bytes;
    constexpr size_t most_at_once = size_t(256) << 20;
    if (rows.is_quick && row_bytes * size_t(rows.height) <= most_at_once) {
        return write_file(path, [&](std::ostream& stream) { stream << quick_png(rows); });
    }
    constexpr int quick = 1;
    std::vector<uint8_t> row(row_bytes);
    std::string bytes, error;
    PngWriter writer;
    writer.png = png_create_write_struct(PNG_LIBPNG_VER_STRING, &error, keep_error, no_warning);
    writer.info = png_create_info_struct(writer.png);
    if (setjmp(png_jmpbuf(writer.png))) {
        return Problem{path.string(), 0, "", error, "a picture that libpng can write"};
    }
    png_set_write_fn(writer.png, &bytes, append_bytes, nullptr);
    if (rows.is_quick) {
        png_set_compression_level(writer.png, quick);
        png_set_filter(writer.png, 0, PNG_FILTER_SUB);
    }
    png_set_IHDR(writer.png, writer.info, png_uint_32(rows.width), png_uint_32(rows.height),
                 int(8 * part_bytes), rows.parts == 4 ? PNG_COLOR_TYPE_RGB_ALPHA : PNG_COLOR_TYPE_RGB,
                 PNG_INTERLACE_NONE, PNG_COMPRESSION_TYPE_DEFAULT, PNG_FILTER_TYPE_DEFAULT);
    if (rows.is_srgb) {
        png_set_sRGB_gAMA_and_cHRM(writer.png, writer.info, PNG_sRGB_INTENT_RELATIVE);
    }
    png_write_info(writer.png, writer.info);
    for (int y = 0; y < rows.height; ++y) {
        rows.fill(y, row.data());
        png_write_row(writer.png, row.data());
    }
    png_write_end(writer.png, nullptr);
    return write_file(
        path, [&](std::ostream& stream) { stream.write(bytes.data(), std::streamsize(bytes.size())); });
}

std::optional<Problem> write_png(const Image& image, PngDepth depth, const std::filesystem::path& path) {
    const OctaveTable& srgb = quick_srgb();
    PngRows rows{.width = image.width, .height = image.height, .depth = depth, .is_quick = true};
    rows.fill = [&](int y, uint8_t* out) {
        for (int x = 0; x < image.width; ++x) {
            const Colour& c = image.at(x, y);
            const auto fine = [](float part) { return part > 0 ? std::min(part, 1.0f) : 0.0f; }; // NaN is 0
            for (const float part :
                 {srgb.at(fine(c.red)), srgb.at(fine(c.green)), srgb.at(fine(c.blue)), fine(c.alpha)}) {
                if (depth == PngDepth::bits16) {
                    const auto code = uint32_t(part * 65535.0f + 0.5f);
                    *out++ = uint8_t(code >> 8);
                    *out++ = uint8_t(code);
                } else {
                    *out++ = uint8_t(part * 255.0f + 0.5f);
                }
            }
        }
    };
    return write_png_rows(rows, path);
}

std::optional<Problem> write_exr(const Image& image, const std::filesystem::path& path) {
    std::vector<Imf::Rgba> pixels(image.pixels.size());
    std::transform(image.pixels.begin(), image.pixels.end(), pixels.begin(), [](const Colour& c) {
        constexpr float most = 65504; // that a half float holds
        return Imf::Rgba(std::min(c.red, most), std::min(c.green, most), std::min(c.blue, most), c.alpha);
    });
    try {
        return write_file(path, [&](std::ostream& stream) {
            ExrStream out(stream);
            Imf::Header header(image.width, image.height);
            header.zipCompressionLevel() = quick_zip;
            Imf::RgbaOutputFile file(out, header, Imf::WRITE_RGBA);
            file.setFrameBuffer(pixels.data(), 1, size_t(image.width));
            file.writePixels(image.height);
        });
    } catch (const std::exception& error) {
        return Problem{path.string(), 0, "", error.what(), "a picture that OpenEXR can write"};
    }
}

} // namespace ember
