#include "core/assets/clip.h"

#include "core/assets/clip_files.h"
#include "core/base/file.h"

#include <algorithm>
#include <array>
#include <bit>
#include <charconv>
#include <cmath>
#include <cstring>
#include <map>
#include <sstream>
#include <tuple>

namespace ember {

namespace {

constexpr uint64_t most_clip_bytes = uint64_t(2) << 30;

enum class Kind { int8, uint8, int16, uint16, int32, uint32, float32, float64 };

std::optional<Kind> kind_named(std::string_view name) {
    static const std::map<std::string_view, Kind> kinds = {
        {"char", Kind::int8},      {"int8", Kind::int8},       {"uchar", Kind::uint8},
        {"uint8", Kind::uint8},    {"short", Kind::int16},     {"int16", Kind::int16},
        {"ushort", Kind::uint16},  {"uint16", Kind::uint16},   {"int", Kind::int32},
        {"int32", Kind::int32},    {"uint", Kind::uint32},     {"uint32", Kind::uint32},
        {"float", Kind::float32},  {"float32", Kind::float32}, {"double", Kind::float64},
        {"float64", Kind::float64}};
    const auto found = kinds.find(name);
    return found != kinds.end() ? std::optional(found->second) : std::nullopt;
}

size_t bytes_of(Kind kind) {
    constexpr size_t bytes[] = {1, 1, 2, 2, 4, 4, 4, 8};
    return bytes[int(kind)];
}

template <class T>
double number_at(const char* bytes, bool is_big) {
    std::array<char, sizeof(T)> held;
    std::memcpy(held.data(), bytes, sizeof(T));
    if (is_big) {
        std::reverse(held.begin(), held.end());
    }
    return double(std::bit_cast<T>(held));
}

double number_of(Kind kind, const char* bytes, bool is_big) {
    switch (kind) {
    case Kind::int8:
        return number_at<int8_t>(bytes, is_big);
    case Kind::uint8:
        return number_at<uint8_t>(bytes, is_big);
    case Kind::int16:
        return number_at<int16_t>(bytes, is_big);
    case Kind::uint16:
        return number_at<uint16_t>(bytes, is_big);
    case Kind::int32:
        return number_at<int32_t>(bytes, is_big);
    case Kind::uint32:
        return number_at<uint32_t>(bytes, is_big);
    case Kind::float32:
        return number_at<float>(bytes, is_big);
    case Kind::float64:
        return number_at<double>(bytes, is_big);
    }
    return 0;
}

struct Property {
    std::string name;
    Kind kind;
};

struct Header {
    bool is_text = false, is_big = false;
    size_t vertices = 0;
    std::vector<Property> properties;
    size_t body = 0; // where it begins
};

std::optional<Header> read_header(std::string_view bytes, std::string& found) {
    Header header;
    bool is_vertex = false, has_format = false, has_element = false;
    size_t at = 0;
    for (int line_number = 0; line_number < 1000; ++line_number) {
        const size_t end = bytes.find('\n', at);
        if (end == std::string_view::npos) {
            found = "a header without an end";
            return std::nullopt;
        }
        std::istringstream line{std::string(bytes.substr(at, end - at))};
        at = end + 1;
        std::string word;
        line >> word;
        if (line_number == 0) {
            if (word != "ply") {
                found = "no PLY file";
                return std::nullopt;
            }
        } else if (word == "format") {
            line >> word;
            header.is_text = word == "ascii";
            header.is_big = word == "binary_big_endian";
            has_format = header.is_text || header.is_big || word == "binary_little_endian";
        } else if (word == "element") {
            std::string name;
            line >> name;
            if (!has_element && name != "vertex") {
                found = "an element " + name + " before the vertices";
                return std::nullopt;
            }
            is_vertex = !has_element;
            if (is_vertex && !(line >> header.vertices)) {
                found = "vertices without a count";
                return std::nullopt;
            }
            has_element = true;
        } else if (word == "property" && is_vertex) {
            std::string type, name;
            line >> type >> name;
            const auto kind = kind_named(type);
            if (!kind) {
                found = "vertices with a property of the type " + type;
                return std::nullopt;
            }
            header.properties.push_back({name, *kind});
        } else if (word == "end_header") {
            header.body = at;
            if (!has_format || !has_element) {
                found = "a header without a format or vertices";
                return std::nullopt;
            }
            return header;
        }
    }
    found = "a header that is too long";
    return std::nullopt;
}

// Where each number that we read stands in a vertex; negative: nowhere.
struct Places {
    int x = -1, y = -1, z = -1, id = -1, source = -1, age = -1, lifetime = -1, size = -1;
    int tint[4] = {-1, -1, -1, -1};
    double tint_scale = 1;
};

Places places_in(const std::vector<Property>& properties) {
    const auto find = [&](std::string_view name) {
        const auto found = std::find_if(properties.begin(), properties.end(),
                                        [&](const Property& each) { return each.name == name; });
        return found != properties.end() ? int(found - properties.begin()) : -1;
    };
    Places places{find("x"),      find("y"),   find("z"),        find("id"),
                  find("source"), find("age"), find("lifetime"), find("born_size")};
    if (places.size < 0) {
        places.size = find("size");
    }
    const char* tints[] = {"tint_red", "tint_green", "tint_blue", "tint_alpha"};
    const char* colours[] = {"red", "green", "blue", "alpha"};
    const bool has_tint = find("tint_red") >= 0;
    for (int part = 0; part < 4; ++part) {
        places.tint[part] = find(has_tint ? tints[part] : colours[part]);
    }
    if (places.tint[0] >= 0) {
        const Kind kind = properties[size_t(places.tint[0])].kind;
        places.tint_scale = kind == Kind::uint8 ? 1 / 255.0 : kind == Kind::uint16 ? 1 / 65535.0 : 1;
    }
    return places;
}

uint32_t whole_of(double value) {
    return value >= 0 && value <= 4294967295.0 ? uint32_t(value) : 0;
}

auto order_of(const ClipParticle& particle) {
    return std::pair(particle.source, particle.number);
}

// Ages and lifetimes by when each is there.
void find_lives(Clip& clip) {
    std::map<std::pair<uint32_t, uint32_t>, std::pair<size_t, size_t>> lives;
    for (size_t f = 0; f < clip.frames.size(); ++f) {
        for (const ClipParticle& particle : clip.frames[f]) {
            lives.try_emplace(order_of(particle), f, f).first->second.second = f;
        }
    }
    for (size_t f = 0; f < clip.frames.size(); ++f) {
        for (ClipParticle& particle : clip.frames[f]) {
            const auto& [first, last] = lives.at(order_of(particle));
            particle.age = float(double(f - first) / clip.frames_per_s);
            particle.lifetime = float(double(last - first + 1) / clip.frames_per_s);
        }
    }
}

} // namespace

std::optional<std::vector<ClipParticle>> parse_clip_frame(std::string_view bytes, const std::string& file,
                                                          Problems& problems) {
    const auto refuse = [&](std::string found) {
        problems.push_back(
            {file, 0, "", std::move(found), "a PLY file of particles: vertices with x, y and z"});
        return std::nullopt;
    };
    std::string found;
    const auto header = read_header(bytes, found);
    if (!header) {
        return refuse(found);
    }
    const Places places = places_in(header->properties);
    if (places.x < 0 || places.y < 0 || places.z < 0) {
        return refuse("vertices without x, y or z");
    }
    std::vector<size_t> offsets;
    size_t record = 0;
    for (const Property& each : header->properties) {
        offsets.push_back(record);
        record += bytes_of(each.kind);
    }
    const size_t left = bytes.size() - header->body;
    if (header->vertices > left / (header->is_text ? 1 : std::max<size_t>(record, 1))) {
        return refuse(std::to_string(header->vertices) + " vertices, but the file ends before them");
    }
    std::vector<ClipParticle> particles(header->vertices);
    std::vector<double> row(header->properties.size());
    const char* at = bytes.data() + header->body;
    const char* const end = bytes.data() + bytes.size();
    for (size_t i = 0; i < particles.size(); ++i) {
        for (size_t p = 0; p < row.size(); ++p) {
            if (header->is_text) {
                while (at < end && (*at == ' ' || *at == '\n' || *at == '\r' || *at == '\t')) {
                    ++at;
                }
                const auto [next, error] = std::from_chars(at, end, row[p]);
                if (error != std::errc()) {
                    return refuse("vertex " + std::to_string(i) + " with something that is no number");
                }
                at = next;
            } else {
                row[p] = number_of(header->properties[p].kind, at + offsets[p], header->is_big);
            }
        }
        at += header->is_text ? 0 : record;
        const auto value = [&](int place, double other) {
            return place >= 0 && std::isfinite(row[size_t(place)]) ? row[size_t(place)] : other;
        };
        constexpr double farthest = 1e6; // m
        const auto coordinate = [&](int place) {
            return float(std::clamp(value(place, 0), -farthest, farthest));
        };
        ClipParticle& particle = particles[i];
        particle.source = whole_of(value(places.source, 0));
        particle.number = whole_of(value(places.id, double(i)));
        particle.place = {coordinate(places.x), coordinate(places.y), coordinate(places.z)};
        particle.lifetime = float(std::clamp(value(places.lifetime, 0), 0.0, 1e6));
        particle.age = float(std::clamp(value(places.age, 0), 0.0, 1e6));
        particle.size = float(std::clamp(value(places.size, 0.02), 0.0, 1000.0));
        const auto part = [&](int which) {
            const double given = value(places.tint[which], 1 / places.tint_scale) * places.tint_scale;
            return float(std::clamp(given, 0.0, 1.0));
        };
        particle.tint = {part(0), part(1), part(2), part(3)};
    }
    std::sort(particles.begin(), particles.end(),
              [](const ClipParticle& a, const ClipParticle& b) { return order_of(a) < order_of(b); });
    return particles;
}

std::optional<Clip> read_clip(const std::filesystem::path& first, Problems& problems,
                              const Progress& progress) {
    Clip clip;
    clip.frames_per_s = clip_frames_per_s(first);
    size_t count = 0;
    bool has_lives = true;
    const std::vector<std::filesystem::path> paths = clip_files(first);
    for (const std::filesystem::path& path : paths) {
        if (!progress.goes_on("Reading " + path.filename().string(),
                              float(clip.frames.size()) / float(paths.size()))) {
            return std::nullopt;
        }
        const auto bytes = read_file(path, most_clip_bytes, problems);
        auto frame = bytes ? parse_clip_frame(*bytes, path.string(), problems) : std::nullopt;
        if (!frame) {
            return std::nullopt;
        }
        count += frame->size();
        if (count > most_clip_particles) {
            problems.push_back(
                {path.string(), 0, "",
                 "more than " + std::to_string(most_clip_particles) + " particles in all frames",
                 "a shorter clip, fewer frames a second, or fewer particles"});
            return std::nullopt;
        }
        for (const ClipParticle& particle : *frame) {
            clip.sources = std::max(clip.sources, std::min(particle.source, 4096u) + 1);
            has_lives = has_lives && particle.lifetime > 0;
        }
        clip.frames.push_back(std::move(*frame));
    }
    if (!has_lives) {
        find_lives(clip);
    }
    return clip;
}

} // namespace ember
