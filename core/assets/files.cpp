#include "core/assets/decoding.h"

#include "core/base/file.h"

#include <png.h>

#include <algorithm>
#include <charconv>
#include <cmath>

namespace ember {

std::optional<HeightImage> decode_heights(const std::filesystem::path& path, Problems& problems) {
    const auto bytes = read_file(path, uint64_t(256) << 20, problems);
    if (!bytes) {
        return std::nullopt;
    }
    const auto refuse = [&](std::string found, std::string expected) -> std::optional<HeightImage> {
        problems.push_back({path.string(), 0, "", std::move(found), std::move(expected)});
        return std::nullopt;
    };
    png_image image{};
    image.version = PNG_IMAGE_VERSION;
    if (png_image_begin_read_from_memory(&image, bytes->data(), bytes->size()) == 0) {
        return refuse(std::string("unreadable: ") + image.message, "a PNG image");
    }
    constexpr uint32_t most = 4096;
    if (image.width < 2 || image.height < 2 || image.width > most || image.height > most) {
        const std::string size = std::to_string(image.width) + "x" + std::to_string(image.height) + " pixels";
        png_image_free(&image);
        return refuse(size, "from 2x2 to 4096x4096 pixels");
    }
    const bool is_deep = (image.format & PNG_FORMAT_FLAG_LINEAR) != 0;
    const auto count = size_t(image.width) * image.height;
    HeightImage heights{int(image.width), int(image.height), std::vector<float>(count)};
    const auto read_as = [&](png_uint_32 format, auto& pixels, float most_value) {
        image.format = format;
        pixels.resize(count);
        if (png_image_finish_read(&image, nullptr, pixels.data(), 0, nullptr) == 0) {
            return false;
        }
        std::transform(pixels.begin(), pixels.end(), heights.values.begin(),
                       [&](auto v) { return float(v) / most_value; });
        return true;
    };
    std::vector<uint16_t> deep;
    std::vector<uint8_t> plain;
    if (!(is_deep ? read_as(PNG_FORMAT_LINEAR_Y, deep, 65535) : read_as(PNG_FORMAT_GRAY, plain, 255))) {
        return refuse(std::string("unreadable: ") + image.message, "a whole PNG image");
    }
    return heights;
}

Key KeyTrack::at(double time_s, bool loops) const {
    const double first = keys.front().time, length = keys.back().time - first;
    if (loops && length > 0) {
        time_s = first + std::fmod(std::fmod(time_s - first, length) + length, length);
    }
    const auto later = std::upper_bound(keys.begin(), keys.end(), time_s,
                                        [](double t, const Key& key) { return t < double(key.time); });
    if (later == keys.begin()) {
        return keys.front();
    }
    if (later == keys.end()) {
        return keys.back();
    }
    const Key& a = *(later - 1);
    const auto share = float((time_s - double(a.time)) / double(later->time - a.time));
    return {float(time_s), a.position + (later->position - a.position) * share,
            a.turn + (later->turn - a.turn) * share};
}

std::optional<KeyTrack> read_keys(const std::filesystem::path& path, Problems& problems) {
    const auto text = read_file(path, uint64_t(16) << 20, problems);
    if (!text) {
        return std::nullopt;
    }
    KeyTrack track;
    int line_number = 0;
    for (size_t from = 0; from < text->size();) {
        const size_t end = std::min(text->find('\n', from), text->size());
        std::string_view line(text->data() + from, end - from);
        from = end + 1;
        ++line_number;
        while (!line.empty() && (line.back() == '\r' || line.back() == ' ')) {
            line.remove_suffix(1);
        }
        if (line.empty() || line.front() == '#') {
            continue;
        }
        std::vector<float> numbers;
        bool fine = true;
        for (const char* at = line.data(); fine && at < line.data() + line.size();) {
            while (at < line.data() + line.size() && (*at == ' ' || *at == '\t')) {
                ++at;
            }
            float number = 0;
            const auto read = std::from_chars(at, line.data() + line.size(), number);
            fine = read.ec == std::errc() && std::isfinite(number) && std::fabs(number) <= 1e6f;
            numbers.push_back(number);
            at = read.ptr;
            while (at < line.data() + line.size() && (*at == ' ' || *at == '\t')) {
                ++at;
            }
            fine = fine && (at == line.data() + line.size() || *at == ',');
            ++at;
        }
        if (!fine && track.keys.empty() && line_number == 1) {
            continue; // names of the columns
        }
        const bool later =
            track.keys.empty() || (fine && !numbers.empty() && numbers[0] > track.keys.back().time);
        if (!fine || (numbers.size() != 4 && numbers.size() != 7) || !later) {
            problems.push_back({path.string(), line_number, "", std::string(line.substr(0, 80)),
                                "4 or 7 finite numbers: seconds (growing), x, y, z, and a turn"});
            return std::nullopt;
        }
        Key key{numbers[0], {numbers[1], numbers[2], numbers[3]}, {}};
        if (numbers.size() == 7) {
            key.turn = {numbers[4], numbers[5], numbers[6]};
        }
        track.keys.push_back(key);
    }
    if (track.keys.empty()) {
        problems.push_back({path.string(), 0, "", "no keys", "at least one line of numbers"});
        return std::nullopt;
    }
    return track;
}

} // namespace ember
