// Effects as the text of their files; reading is in effect_file.cpp.
#include "core/base/file.h"
#include "core/effect/drive.h"
#include "core/effect/effect_file.h"
#include "core/effect/track.h"
#include "core/effect/value_json.h"

namespace ember {

namespace {

void append_unknown(Json& object, const std::string& unknown) {
    if (unknown.empty()) {
        return;
    }
    const Json members = Json::parse(unknown);
    for (const auto& [key, value] : members.items()) {
        object[key] = value;
    }
}

Json json_of(const Holder& holder, const std::string& unknown) {
    Json json = Json::object();
    for (const Parameter& parameter : holder.parameters) {
        const Value value = parameter.get(holder.object);
        if (value != default_of(holder, parameter)) {
            json[std::string(parameter.key)] = json_of(parameter, value);
        }
    }
    append_unknown(json, unknown);
    return json;
}

Json json_of(const Element& element) {
    Json json = Json::object();
    json["id"] = element.id;
    json["type"] = type_of(element.body).key;
    json["name"] = element.name;
    if (element.muted) {
        json["muted"] = true;
    }
    if (element.solo) {
        json["solo"] = true;
    }
    if (!element.group.empty()) {
        json["group"] = element.group;
    }
    if (reach_of(element.body) != nullptr) {
        Json links = Json::object();
        for (const Link& link : element.links) {
            links[link.source] = json_number(link.weight);
        }
        json["links"] = std::move(links);
    }
    json["parameters"] = json_of(holder_of(element), element.unknown_parameters);
    append_unknown(json, element.unknown);
    return json;
}

// A look or a texture.
Json json_of(const auto& held) {
    Json json = Json::object();
    json["id"] = held.id;
    json["name"] = held.name;
    json["parameters"] = json_of(holder_of(held), held.unknown_parameters);
    append_unknown(json, held.unknown);
    return json;
}

Json json_of(const Drive& drive, const Effect& effect) {
    Json json = Json::object();
    json["of"] = drive.holder;
    json["parameter"] = drive.parameter;
    const Parameter& parameter = *find_holder(effect, drive.holder)->find(drive.parameter);
    if (const std::string_view part = part_name(parameter, drive.part); !part.empty()) {
        json["part"] = part;
    }
    json["by"] = drive.modulator;
    json["range"] = {json_number(drive.low), json_number(drive.high)};
    append_unknown(json, drive.unknown);
    return json;
}

Json json_of(const Track& track, const Effect& effect) {
    Json json = Json::object();
    json["of"] = track.holder;
    json["parameter"] = track.parameter;
    const Parameter& parameter = *find_holder(effect, track.holder)->find(track.parameter);
    if (switches(parameter)) {
        json["keys"] = Json::array();
        for (const Curve::Point& key : track.curves[0].points) {
            json["keys"].push_back(
                {json_number(key.time), json_of(parameter, value_at(track, parameter, double(key.time)))});
        }
    } else {
        json["curves"] = Json::array();
        for (const Curve& curve : track.curves) {
            json["curves"].push_back(json_of(parameter, Value(curve)));
        }
    }
    append_unknown(json, track.unknown);
    return json;
}

Json json_of(const Note& note) {
    Json json = Json::object();
    json["of"] = note.holder;
    json["parameter"] = note.parameter;
    json["text"] = note.text;
    append_unknown(json, note.unknown);
    return json;
}

} // namespace

std::string effect_text(const Effect& effect) {
    Json root = Json::object();
    root["format"] = effect_format_name;
    root["version"] = effect_format_version;
    root["name"] = effect.name;
    root["seed"] = effect.seed;
    root["elements"] = Json::array();
    for (const Element& element : effect.elements) {
        root["elements"].push_back(json_of(element));
    }
    if (!effect.textures.empty()) {
        root["textures"] = Json::array();
        for (const Texture& texture : effect.textures) {
            root["textures"].push_back(json_of(texture));
        }
    }
    root["looks"] = Json::array();
    for (const Look& look : effect.looks) {
        root["looks"].push_back(json_of(look));
    }
    if (!effect.drives.empty()) {
        root["drives"] = Json::array();
        for (const Drive& drive : effect.drives) {
            root["drives"].push_back(json_of(drive, effect));
        }
    }
    if (!effect.tracks.empty()) {
        root["tracks"] = Json::array();
        for (const Track& track : effect.tracks) {
            root["tracks"].push_back(json_of(track, effect));
        }
    }
    if (!effect.notes.empty()) {
        root["notes"] = Json::array();
        for (const Note& note : effect.notes) {
            root["notes"].push_back(json_of(note));
        }
    }
    root["stage"] = json_of(*find_holder(effect, stage_id), effect.stage.unknown);
    root["budget"] = json_of(*find_holder(effect, budget_id), effect.budget.unknown);
    append_unknown(root, effect.unknown);
    return pretty(root);
}

std::optional<Problem> save_effect(const Effect& effect, const std::filesystem::path& path) {
    return write_file(path, [&](std::ostream& stream) { stream << effect_text(effect); });
}

} // namespace ember
