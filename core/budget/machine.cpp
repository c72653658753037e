#include "core/budget/machine.h"

#include "core/base/file.h"

#include <nlohmann/json.hpp>

#include <cmath>

namespace ember {

namespace {

using Json = nlohmann::ordered_json;

constexpr const char* profile_format = "crisp-ember machine profile";
constexpr int profile_version = 1;
constexpr double least_ms = 1e-5, most_ms = 1e6;

} // namespace

std::string_view name_of(Work work) {
    constexpr std::array<std::string_view, kinds_of_work> names = {
        "births", "forces", "collision", "smoke", "pieces",
        "stage",  "things", "clouds",    "focus", "finishing"};
    return names[size_t(work)];
}

std::string text_of(const MachineProfile& profile) {
    Json ms;
    for (size_t i = 0; i < kinds_of_work; ++i) {
        ms[std::string(name_of(Work(i)))] = std::round(profile.ms[i] * 1e5) / 1e5;
    }
    const Json root = {{"format", profile_format}, {"version", profile_version}, {"name", profile.name},
                       {"about", profile.about},   {"threads", profile.threads}, {"ms", ms}};
    return root.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::optional<MachineProfile> read_profile(const std::filesystem::path& path, Problems& problems) {
    constexpr uint64_t most_bytes = 1 << 20;
    const auto text = read_file(path, most_bytes, problems);
    if (!text) {
        return std::nullopt;
    }
    const auto refused = [&](const std::string& place, const std::string& found,
                             const std::string& expected) {
        problems.push_back({path.string(), 0, place, found, expected});
        return std::nullopt;
    };
    const Json root = Json::parse(*text, nullptr, false);
    if (!root.is_object() || !root.contains("format") || root["format"] != profile_format) {
        return refused("", "another kind of file", "a machine profile, as \"measure\" writes it");
    }
    if (!root.contains("version") || root["version"] != profile_version) {
        return refused("/version", root.value("version", Json()).dump(), "version 1");
    }
    MachineProfile profile;
    const auto text_at = [&](const char* key) {
        const auto found = root.find(key);
        return found != root.end() && found->is_string() ? found->get<std::string>() : std::string();
    };
    profile.name = text_at("name");
    profile.about = text_at("about");
    if (profile.name.empty()) {
        return refused("/name", "no name", "the machine's name");
    }
    const auto threads = root.find("threads");
    if (threads == root.end() || !threads->is_number_integer() || *threads < 1 || *threads > 4096) {
        return refused("/threads", threads == root.end() ? "none" : threads->dump(), "1 to 4096");
    }
    profile.threads = threads->get<int>();
    const auto ms = root.find("ms");
    for (size_t i = 0; i < kinds_of_work; ++i) {
        const std::string name(name_of(Work(i)));
        const bool is_there = ms != root.end() && ms->is_object() && ms->contains(name);
        const Json value = is_there ? (*ms)[name] : Json();
        if (!value.is_number() || !(value.get<double>() >= least_ms && value.get<double>() <= most_ms)) {
            return refused("/ms/" + name, is_there ? value.dump() : "none",
                           "milliseconds from 0.00001 to 1000000");
        }
        profile.ms[i] = value.get<double>();
    }
    return profile;
}

WorkRatio ratio_of(const MachineProfile& there, const MachineProfile& here) {
    WorkRatio ratio;
    for (size_t i = 0; i < kinds_of_work; ++i) {
        ratio[i] = there.ms[i] / std::max(here.ms[i], least_ms);
    }
    return ratio;
}

Meters predicted(const Meters& here, const std::vector<Work>& kinds, const WorkRatio& ratio) {
    Meters there = here;
    double* const parts[] = {&there.births_ms, &there.forces_ms, &there.collision_ms, &there.smoke_ms,
                             &there.debris_ms};
    double known = 0, scaled = 0;
    for (size_t i = 0; i < kinds_of_step; ++i) {
        known += *parts[i];
        *parts[i] *= ratio[i];
        scaled += *parts[i];
    }
    // What is not told apart is taken as what is.
    there.step_ms = known > 0 ? here.step_ms * scaled / known : here.step_ms * ratio[size_t(Work::forces)];
    for (size_t i = 0; i < there.elements.size() && i < kinds.size(); ++i) {
        there.elements[i].ms *= ratio[size_t(kinds[i])];
        there.elements[i].blocks_ms *= ratio[size_t(Work::forces)];
    }
    return there;
}

} // namespace ember
