#include "core/runtime/take.h"

#include "core/base/file.h"
#include "core/effect/effect_file.h"
#include "core/effect/located_json.h"

#include <charconv>

namespace ember {

namespace {

constexpr std::string_view format_name = "crisp-ember takes";
constexpr int format_version = 1;
constexpr uint64_t most_file_bytes = uint64_t(512) << 20;
constexpr size_t most_takes = 1000;

std::string hex_of(std::string_view bytes) {
    constexpr std::string_view digits = "0123456789abcdef";
    std::string text;
    for (const char byte : bytes) {
        text += digits[uint8_t(byte) >> 4];
        text += digits[uint8_t(byte) & 15];
    }
    return text;
}

std::optional<std::string> bytes_of(std::string_view hex) {
    std::string bytes;
    for (size_t i = 0; i + 1 < hex.size(); i += 2) {
        uint8_t byte = 0;
        if (std::from_chars(&hex[i], &hex[i] + 2, byte, 16).ptr != &hex[i] + 2) {
            return std::nullopt;
        }
        bytes += char(byte);
    }
    return hex.size() % 2 == 0 ? std::optional(bytes) : std::nullopt;
}

Json json_of(const Take& take) {
    Json json = Json::object();
    json["name"] = take.name;
    json["note"] = take.note;
    json["marked"] = take.is_marked;
    json["kept_at"] = take.kept_at;
    json["worst_frame_ms"] = take.worst_frame_ms;
    json["most_particles"] = take.most_particles;
    json["picture"] = hex_of(take.picture);
    Json before;
    json["edits"] = Json::array();
    for (const auto& [step, effect] : take.effects) {
        Json now = Json::parse(effect_text(*effect));
        if (before.is_null()) {
            json["effect"] = now;
        } else {
            json["edits"].push_back({{"step", step}, {"change", Json::diff(before, now)}});
        }
        before = std::move(now);
    }
    json["inputs"] = hex_of(take.inputs.bytes());
    return json;
}

struct TakeReader {
    const LocatedJson& located;
    Problems& problems;

    void report(const std::string& place, std::string found, std::string expected) {
        problems.push_back(located.problem_at(place, std::move(found), std::move(expected)));
    }

    EffectPtr effect_from(const Json& json, const std::string& place) {
        ReadResult read = parse_effect(json.dump(), located.file);
        if (read.is_sound()) {
            return std::make_shared<const Effect>(std::move(*read.effect));
        }
        report(place, read.problems.empty() ? "no effect" : read.problems.front().text(), "an effect");
        return nullptr;
    }

    template <class T>
    T member(const Json& json, const char* key) {
        const auto found = json.find(key);
        const bool fits = found != json.end() && (std::is_same_v<T, std::string> ? found->is_string()
                                                  : std::is_same_v<T, bool>      ? found->is_boolean()
                                                  : std::is_same_v<T, uint64_t>  ? found->is_number_unsigned()
                                                                                 : found->is_number());
        return fits ? found->template get<T>() : T();
    }

    // Each effect is told by what is other than in the one before.
    bool read_effects(const Json& json, const std::string& place, Take& take) {
        Json now = json.value("effect", Json());
        EffectPtr effect = effect_from(now, child_place(place, "effect"));
        if (!effect) {
            return false;
        }
        take.effects[0] = effect;
        const Json edits = json.value("edits", Json::array());
        uint64_t last = 0;
        for (size_t i = 0; i < (edits.is_array() ? edits.size() : 0); ++i) {
            const std::string here = child_place(child_place(place, "edits"), i);
            const auto step = edits[i].is_object() ? member<uint64_t>(edits[i], "step") : 0;
            try {
                now = now.patch(edits[i].at("change"));
            } catch (const Json::exception&) {
                report(here, excerpt(edits[i]), "a step and a change (RFC 6902) of the effect before it");
                return false;
            }
            effect = effect_from(now, here);
            if (!effect || step <= last) {
                report(child_place(here, "step"), std::to_string(step), "a step behind the one before");
                return false;
            }
            take.effects[step] = effect;
            last = step;
        }
        return true;
    }

    std::optional<Take> read_take(const Json& json, const std::string& place) {
        if (!json.is_object()) {
            report(place, excerpt(json), "a take");
            return std::nullopt;
        }
        Take take;
        take.name = member<std::string>(json, "name");
        take.note = member<std::string>(json, "note");
        take.is_marked = member<bool>(json, "marked");
        take.kept_at = member<std::string>(json, "kept_at");
        take.worst_frame_ms = member<double>(json, "worst_frame_ms");
        take.most_particles = member<uint64_t>(json, "most_particles");
        take.picture = bytes_of(member<std::string>(json, "picture")).value_or(std::string());
        const auto inputs = bytes_of(member<std::string>(json, "inputs"));
        if (!inputs) {
            report(child_place(place, "inputs"), "something else",
                   "the bytes of a log of inputs, in hexadecimal");
            return std::nullopt;
        }
        const size_t before = problems.size();
        const auto log = InputLog::read(*inputs, located.file, problems);
        if (!log || !read_effects(json, place, take)) {
            for (size_t i = before; i < problems.size(); ++i) {
                problems[i].place =
                    problems[i].place.empty() ? child_place(place, "inputs") : problems[i].place;
            }
            return std::nullopt;
        }
        take.inputs = *log;
        return take;
    }
};

} // namespace

StepInputs inputs_of_step(const Take& take, Simulation& simulation) {
    const uint64_t step = simulation.steps();
    if (const EffectPtr& effect = take.effect_at(step); effect != simulation.effect()) {
        simulation.set_effect(effect, simulation.assets());
    }
    return take.inputs.at(step);
}

std::string takes_text(const std::vector<Take>& takes) {
    Json root = Json::object();
    root["format"] = format_name;
    root["version"] = format_version;
    root["takes"] = Json::array();
    for (const Take& take : takes) {
        root["takes"].push_back(json_of(take));
    }
    return pretty(root);
}

std::optional<Problem> save_takes(const std::vector<Take>& takes, const std::filesystem::path& path) {
    return write_file(path, [&](std::ostream& stream) { stream << takes_text(takes); });
}

ReadTakes parse_takes(std::string_view text, const std::string& file_name) {
    ReadTakes result;
    const auto located = parse_located(text, file_name, result.problems);
    if (!located) {
        return result;
    }
    TakeReader reader{*located, result.problems};
    const Json& root = located->root;
    if (!root.is_object() || root.value("format", Json()) != format_name) {
        reader.report("", excerpt(root),
                      "a file of takes: \"format\" is \"" + std::string(format_name) + "\"");
        return result;
    }
    const Json version = root.value("version", Json());
    if (!version.is_number_integer() || version.get<int64_t>() < 1 ||
        version.get<int64_t>() > format_version) {
        reader.report("/version", excerpt(version),
                      version.is_number_integer() && version.get<int64_t>() > format_version
                          ? "1: it was written by a newer Crisp Ember"
                          : "a version from 1");
        return result;
    }
    const Json list = root.value("takes", Json());
    if (!list.is_array() || list.size() > most_takes) {
        reader.report("/takes", excerpt(list), "a list of at most " + std::to_string(most_takes) + " takes");
        return result;
    }
    for (size_t i = 0; i < list.size(); ++i) {
        if (auto take = reader.read_take(list[i], child_place("/takes", i))) {
            result.takes.push_back(std::move(*take));
        }
    }
    return result;
}

ReadTakes read_takes(const std::filesystem::path& path) {
    ReadTakes result;
    const auto text = read_file(path, most_file_bytes, result.problems);
    return text ? parse_takes(*text, path.string()) : result;
}

} // namespace ember
