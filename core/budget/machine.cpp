#include "core/budget/machine.h"

#include "core/base/file.h"
#include "core/effect/parameter.h"

#include <nlohmann/json.hpp>

#include <cmath>

namespace ember {

namespace {

using Json = nlohmann::ordered_json;

constexpr const char* profile_format = "crisp-ember machine profile";
constexpr int profile_version = 1;
constexpr double least_ms = 1e-5, most_ms = 1e6;

Work kind_of(const ElementBody& body) {
    switch (family_of(body)) {
    case Family::collider:
        return Work::collision;
    case Family::smoke:
        return Work::smoke;
    case Family::breaking:
        return Work::pieces;
    case Family::source:
        return std::holds_alternative<Breakable>(body) ? Work::pieces : Work::births;
    default:
        return Work::forces;
    }
}

constexpr std::pair<const char*, NamedTimes MachineProfile::*> named_times[] = {
    {"elements", &MachineProfile::elements},
    {"looks", &MachineProfile::looks},
    {"readied", &MachineProfile::readied}};

double short_ms(double ms) {
    return std::round(ms * 1e5) / 1e5;
}

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
        ms[std::string(name_of(Work(i)))] = short_ms(profile.ms[i]);
    }
    Json root = {{"format", profile_format}, {"version", profile_version}, {"name", profile.name},
                 {"about", profile.about},   {"threads", profile.threads}, {"ms", ms}};
    for (const auto& [key, times] : named_times) {
        for (const auto& [name, named_ms] : profile.*times) {
            root[key][name] = short_ms(named_ms);
        }
    }
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
    const auto is_time = [](const Json& value) {
        return value.is_number() && value.get<double>() >= least_ms && value.get<double>() <= most_ms;
    };
    constexpr const char* a_time = "milliseconds from 0.00001 to 1000000";
    const auto ms = root.find("ms");
    for (size_t i = 0; i < kinds_of_work; ++i) {
        const std::string name(name_of(Work(i)));
        const bool is_there = ms != root.end() && ms->is_object() && ms->contains(name);
        const Json value = is_there ? (*ms)[name] : Json();
        if (!is_time(value)) {
            return refused("/ms/" + name, is_there ? value.dump() : "none", a_time);
        }
        profile.ms[i] = value.get<double>();
    }
    for (const auto& [key, times] : named_times) {
        const Json found = root.value(key, Json::object());
        if (!found.is_object()) {
            return refused(std::string("/") + key, found.dump(), "an object of milliseconds by names");
        }
        for (const auto& [name, value] : found.items()) {
            if (!is_time(value)) {
                return refused(std::string("/") + key + "/" + name, value.dump(), a_time);
            }
            (profile.*times)[name] = value.get<double>();
        }
    }
    for (const auto& [name, ms_of_number] : profile.readied) {
        const auto whole = profile.looks.find(name);
        if (whole == profile.looks.end() || whole->second <= ms_of_number) {
            return refused("/readied/" + name, text_of(float(ms_of_number)),
                           "less than the same of \"looks\"");
        }
    }
    return profile;
}

MachineRatio ratio_of(const MachineProfile& there, const MachineProfile& here) {
    const auto of = [](double there_ms, double here_ms) { return there_ms / std::max(here_ms, least_ms); };
    const auto of_named = [&](const NamedTimes& there_ms, const NamedTimes& here_ms) {
        NamedTimes ratios;
        for (const auto& [name, ms] : there_ms) {
            if (const auto known = here_ms.find(name); known != here_ms.end()) {
                ratios[name] = of(ms, known->second);
            }
        }
        return ratios;
    };
    MachineRatio ratio;
    for (size_t i = 0; i < kinds_of_work; ++i) {
        ratio.work[i] = of(there.ms[i], here.ms[i]);
    }
    ratio.elements = of_named(there.elements, here.elements);
    ratio.looks = ratio.readied = of_named(there.looks, here.looks);
    for (const auto& [name, number] : of_named(there.readied, here.readied)) {
        const auto pixels_ms = [&](const MachineProfile& profile) {
            return profile.looks.at(name) - profile.readied.at(name);
        };
        ratio.readied[name] = number;
        ratio.looks[name] = of(pixels_ms(there), pixels_ms(here));
    }
    return ratio;
}

std::vector<ElementRatio> ratios_of(const Effect& effect, const MachineRatio& ratio) {
    std::vector<ElementRatio> ratios;
    for (const Element& element : effect.elements) {
        const Work kind = kind_of(element.body);
        const auto known = ratio.elements.find(type_of(element.body).key);
        ratios.push_back({kind, known != ratio.elements.end() ? known->second : ratio[kind]});
    }
    return ratios;
}

DrawingRatio drawing_ratio_of(const Effect& effect, const Element& element, const MachineRatio& ratio) {
    const auto* emitter = std::get_if<Emitter>(&element.body);
    const Look* look = emitter != nullptr ? find_look(effect, emitter->look) : nullptr;
    if (look != nullptr) {
        const std::string_view drawn_as = drawing_names()[size_t(look->drawn_as)];
        if (const auto known = ratio.looks.find(drawn_as); known != ratio.looks.end()) {
            return {ratio.readied.find(drawn_as)->second, known->second};
        }
    }
    const double same = ratio[std::holds_alternative<Smoke>(element.body)   ? Work::clouds
                              : std::holds_alternative<Light>(element.body) ? Work::stage
                                                                            : Work::things];
    return {same, same};
}

Meters predicted(const Meters& here, const std::vector<ElementRatio>& elements, const MachineRatio& ratio) {
    Meters there = here;
    // What the elements of a kind take here and there.
    WorkTimes before{}, after{};
    for (size_t i = 0; i < there.elements.size() && i < elements.size(); ++i) {
        const auto& [kind, times] = elements[i];
        before[size_t(kind)] += there.elements[i].ms;
        after[size_t(kind)] += there.elements[i].ms * times;
        there.elements[i].ms *= times;
    }
    const auto of_kind = [&](size_t kind) {
        const bool is_known = kind != size_t(Work::births) && before[kind] > 0;
        return is_known ? after[kind] / before[kind] : ratio.work[kind];
    };
    for (ElementMeter& element : there.elements) {
        element.blocks_ms *= of_kind(size_t(Work::forces));
    }
    double* const parts[] = {&there.births_ms, &there.forces_ms, &there.collision_ms, &there.smoke_ms,
                             &there.debris_ms};
    double known = 0, scaled = 0;
    for (size_t i = 0; i < kinds_of_step; ++i) {
        known += *parts[i];
        *parts[i] *= of_kind(i);
        scaled += *parts[i];
    }
    // What is not told apart is taken as what is.
    there.step_ms = known > 0 ? here.step_ms * scaled / known : here.step_ms * ratio[Work::forces];
    return there;
}

double things_ratio_of(const Effect& effect, const std::vector<double>& element_ms,
                       const std::vector<double>& readied_ms, const MachineRatio& ratio) {
    double before = 0, after = 0;
    for (size_t i = 0; i < element_ms.size() && i < effect.elements.size(); ++i) {
        const Element& element = effect.elements[i];
        if (!std::holds_alternative<Smoke>(element.body) && !std::holds_alternative<Light>(element.body)) {
            before += element_ms[i];
            after += drawing_ratio_of(effect, element, ratio).of(element_ms[i], readied_ms[i]);
        }
    }
    return before > 0 ? after / before : ratio[Work::things];
}

} // namespace ember
