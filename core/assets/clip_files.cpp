#include "core/assets/clip_files.h"

#include "core/base/file.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <cmath>

namespace ember {

std::vector<std::filesystem::path> clip_files(const std::filesystem::path& first) {
    // The number at the end of the name, as wide as it is written.
    const std::string name = first.stem().string(), ending = first.extension().string();
    size_t digits = name.size();
    while (digits > 0 && name[digits - 1] >= '0' && name[digits - 1] <= '9' && name.size() - digits < 9) {
        --digits;
    }
    const size_t wide = name.size() - digits;
    const uint64_t from = wide > 0 ? std::stoull(name.substr(digits)) : 0;
    const auto path_of = [&](uint64_t number) {
        std::string text = std::to_string(number);
        text.insert(0, text.size() < wide ? wide - text.size() : 0, '0');
        return first.parent_path() / (name.substr(0, digits).append(text).append(ending));
    };
    std::vector<std::filesystem::path> paths = {first};
    std::error_code error;
    while (wide > 0 && paths.size() < most_clip_files) {
        std::filesystem::path next = path_of(from + paths.size());
        if (!std::filesystem::is_regular_file(next, error)) {
            break;
        }
        paths.push_back(std::move(next));
    }
    return paths;
}

double clip_frames_per_s(const std::filesystem::path& first, double otherwise) {
    std::error_code error;
    std::filesystem::path manifest = first.parent_path() / "bake.json";
    if (!std::filesystem::is_regular_file(manifest, error)) {
        manifest = first.parent_path().parent_path() / "bake.json";
    }
    if (!std::filesystem::is_regular_file(manifest, error)) {
        return otherwise;
    }
    Problems ignored;
    const auto text = read_file(manifest, 64 << 20, ignored);
    const auto json = text ? nlohmann::json::parse(*text, nullptr, false) : nlohmann::json();
    const auto rate = json.is_object() && json.contains("frames_per_s") && json["frames_per_s"].is_number()
                          ? json["frames_per_s"].get<double>()
                          : otherwise;
    return std::isfinite(rate) && rate > 0 ? std::clamp(rate, 0.1, 240.0) : otherwise;
}

} // namespace ember
