#include "core/effect/effect_file.h"

#include "core/base/file.h"
#include "core/effect/drive.h"
#include "core/effect/located_json.h"
#include "core/effect/older_versions.h"
#include "core/effect/track.h"
#include "core/effect/value_json.h"

#include <algorithm>
#include <cmath>
#include <initializer_list>
#include <limits>
#include <numeric>
#include <set>
#include <utility>

namespace ember {

namespace {

constexpr uint64_t most_file_bytes = 64u << 20;

using KeyList = std::initializer_list<std::string_view>;

class Reader {
  public:
    Reader(const LocatedJson& document, Problems& problems, Problems& notes)
        : document_(document), problems_(problems), notes_(notes) {}

    std::optional<Effect> read() {
        const Json& root = document_.root;
        if (!root.is_object() || !root.contains("format") || root["format"] != effect_format_name) {
            report("/format",
                   root.is_object() && root.contains("format") ? excerpt(root["format"]) : "nothing",
                   "\"" + std::string(effect_format_name) + "\"");
            return std::nullopt;
        }
        const int version = checked_version(root);

        Effect effect;
        effect.elements.clear();
        read_text(root, "", "name", effect.name);
        if (const auto seed = whole(root, "", "seed", 4294967295.0)) {
            effect.seed = uint32_t(*seed);
        }
        if (root.contains("textures")) {
            each(
                root, "textures",
                [&](const Json& json, const std::string& place) { read_texture(json, place, effect); },
                most_textures);
        }
        each(root, "looks",
             [&](const Json& json, const std::string& place) { read_look(json, place, effect); });
        each(root, "elements",
             [&](const Json& json, const std::string& place) { read_element(json, place, effect); });
        if (const Json* stage = object(root, "", "stage")) {
            effect.stage.unknown = read_parameters(*stage, "/stage", &effect.stage, stage_parameters());
        }
        if (const Json* budget = object(root, "", "budget")) {
            effect.budget.unknown = read_parameters(*budget, "/budget", &effect.budget, budget_parameters());
        }
        effect.unknown = unknown_members(root, {"format", "version", "name", "seed", "textures", "looks",
                                                "elements", "drives", "tracks", "notes", "stage", "budget"});
        bring_up_to_date(effect, version);
        check_whole(effect);
        if (root.contains("drives")) {
            each(
                root, "drives",
                [&](const Json& json, const std::string& place) { read_drive(json, place, effect); },
                most_drives);
        }
        if (root.contains("tracks")) {
            each(
                root, "tracks",
                [&](const Json& json, const std::string& place) { read_track(json, place, effect); },
                most_tracks);
        }
        if (root.contains("notes")) {
            each(
                root, "notes",
                [&](const Json& json, const std::string& place) { read_note(json, place, effect); },
                most_notes);
        }
        return effect;
    }

  private:
    void report(const std::string& place, std::string found, std::string expected) {
        problems_.push_back(document_.problem_at(place, std::move(found), std::move(expected)));
    }

    static std::string unknown_members(const Json& json, KeyList known) {
        Json unknown = Json::object();
        for (const auto& [key, value] : json.items()) {
            if (std::find(known.begin(), known.end(), key) == known.end()) {
                unknown[key] = value;
            }
        }
        return unknown.empty() ? "" : unknown.dump(-1, ' ', false, Json::error_handler_t::replace);
    }

    // That of today if it is none that can be read.
    int checked_version(const Json& root) {
        const auto version = whole(root, "", "version", 1e9);
        if (!version && !root.contains("version")) {
            report("/version", "nothing",
                   "the version of the format, 1 to " + std::to_string(effect_format_version));
        } else if (version && *version < 1) {
            report("/version", "version 0",
                   "the version of the format, 1 to " + std::to_string(effect_format_version));
        } else if (version && *version > effect_format_version) {
            report("/version",
                   "version " + std::to_string(int64_t(*version)) + ", written by a newer program",
                   "at most version " + std::to_string(effect_format_version) +
                       "; open it with a newer Crisp Ember, or open what this one understands");
        } else {
            return int(version.value_or(effect_format_version));
        }
        return effect_format_version;
    }

    void read_text(const Json& json, const std::string& place, const char* key, std::string& text) {
        if (!json.contains(key)) {
            return;
        }
        const Json& value = json[key];
        if (value.is_string() && value.get_ref<const std::string&>().size() <= longest_text) {
            text = value.get<std::string>();
        } else {
            report(child_place(place, key), excerpt(value),
                   "a text of at most " + std::to_string(longest_text) + " bytes");
        }
    }

    void read_switch(const Json& json, const std::string& place, const char* key, bool& on) {
        if (!json.contains(key)) {
            return;
        }
        if (json[key].is_boolean()) {
            on = json[key].get<bool>();
        } else {
            report(child_place(place, key), excerpt(json[key]), "true or false");
        }
    }

    std::optional<double> whole(const Json& json, const std::string& place, const char* key, double most) {
        if (!json.contains(key)) {
            return std::nullopt;
        }
        const double number = json[key].is_number() ? json[key].get<double>() : -1;
        if (number < 0 || number > most || number != std::floor(number)) {
            report(child_place(place, key), excerpt(json[key]),
                   "a whole number from 0 to " + std::to_string(int64_t(most)));
            return std::nullopt;
        }
        return number;
    }

    const Json* object(const Json& json, const std::string& place, const char* key) {
        if (!json.contains(key)) {
            return nullptr;
        }
        if (!json[key].is_object()) {
            report(child_place(place, key), excerpt(json[key]), "an object");
            return nullptr;
        }
        return &json[key];
    }

    // Each object of the list under `key`.
    void each(const Json& root, const char* key, const auto& read, size_t most = most_elements) {
        const std::string place = child_place("", key);
        if (!root.contains(key)) {
            report(place, "nothing", "a list");
            return;
        }
        const Json& list = root[key];
        if (!list.is_array() || list.size() > most) {
            report(place, list.is_array() ? std::to_string(list.size()) + " of them" : excerpt(list),
                   "a list of at most " + std::to_string(most));
            return;
        }
        for (size_t i = 0; i < list.size(); ++i) {
            if (list[i].is_object()) {
                read(list[i], child_place(place, i));
            } else {
                report(child_place(place, i), excerpt(list[i]), "an object");
            }
        }
    }

    // The key that takes the fewest changes of letters to get to (V. Levenshtein, 1966).
    static std::string_view nearest_key(std::string_view key, std::span<const Parameter> parameters) {
        const auto changes = [&](std::string_view other) {
            std::vector<size_t> row(other.size() + 1);
            std::iota(row.begin(), row.end(), size_t(0));
            for (size_t i = 1; i <= key.size(); ++i) {
                size_t before = std::exchange(row[0], i);
                for (size_t j = 1; j <= other.size(); ++j) {
                    const size_t swap = before + (key[i - 1] == other[j - 1] ? 0 : 1);
                    before = row[j];
                    row[j] = std::min({row[j] + 1, row[j - 1] + 1, swap});
                }
            }
            return row.back();
        };
        key = key.substr(0, 60);
        return std::min_element(
                   parameters.begin(), parameters.end(),
                   [&](const Parameter& a, const Parameter& b) { return changes(a.key) < changes(b.key); })
            ->key;
    }

    // Reads what the table knows into `holder`; returns the rest.
    std::string read_parameters(const Json& json, const std::string& place, void* holder,
                                std::span<const Parameter> parameters) {
        Json unknown = Json::object();
        for (const auto& [key, item] : json.items()) {
            const auto parameter = std::find_if(parameters.begin(), parameters.end(),
                                                [&key = key](const Parameter& p) { return p.key == key; });
            if (parameter == parameters.end()) {
                unknown[key] = item;
                notes_.push_back(document_.problem_at(child_place(place, key),
                                                      "an unknown parameter, kept and ignored",
                                                      "\"" + std::string(nearest_key(key, parameters)) +
                                                          "\", or another that \"describe\" lists"));
                continue;
            }
            const auto value = value_from(*parameter, item);
            if (!value || refusal_of(*parameter, *value)) {
                report(child_place(place, key), excerpt(item), expectation_of(*parameter));
            } else {
                parameter->set(holder, *value);
            }
        }
        return unknown.empty() ? "" : unknown.dump(-1, ' ', false, Json::error_handler_t::replace);
    }

    // True if the object has an id that is free; `kind` names what should have it.
    bool read_id(const Json& json, const std::string& place, const Effect& effect, const char* kind,
                 std::string& id) {
        read_text(json, place, "id", id);
        if (id.empty()) {
            report(child_place(place, "id"), json.contains("id") ? excerpt(json["id"]) : "nothing",
                   std::string("the id of the ") + kind);
            return false;
        }
        if (id == stage_id || id == budget_id) {
            report(child_place(place, "id"), "\"" + id + "\", a reserved word", "an id of its own");
            return false;
        }
        if (const auto holder = find_holder(effect, id)) {
            const std::string who = find_look(effect, id) != nullptr      ? "the look"
                                    : find_texture(effect, id) != nullptr ? "the texture"
                                                                          : "the element";
            report(child_place(place, "id"),
                   "\"" + id + "\" a second time: " + who + " \"" + holder->name + "\" and this " + kind,
                   "an id of its own for each of the two");
            return false;
        }
        return true;
    }

    // A look or a texture.
    template <class T>
    bool read_holder(const Json& json, const std::string& place, const Effect& effect, const char* kind,
                     std::span<const Parameter> table, T& holder) {
        if (!read_id(json, place, effect, kind, holder.id)) {
            return false;
        }
        holder.name = holder.id;
        read_text(json, place, "name", holder.name);
        if (const Json* parameters = object(json, place, "parameters")) {
            holder.unknown_parameters =
                read_parameters(*parameters, child_place(place, "parameters"), &holder, table);
        }
        holder.unknown = unknown_members(json, {"id", "name", "parameters"});
        return true;
    }

    void read_texture(const Json& json, const std::string& place, Effect& effect) {
        Texture texture;
        if (read_holder(json, place, effect, "texture", texture_parameters(), texture)) {
            effect.textures.push_back(std::move(texture));
        }
    }

    void read_look(const Json& json, const std::string& place, Effect& effect) {
        Look look;
        if (!read_holder(json, place, effect, "look", look_parameters(), look)) {
            return;
        }
        for (const Parameter& parameter : look_parameters()) {
            const Value value = parameter.get(&look);
            if (parameter.kind != ParameterKind::texture || std::get<std::string>(value).empty() ||
                find_texture(effect, std::get<std::string>(value)) != nullptr) {
                continue;
            }
            report(child_place(child_place(place, "parameters"), std::string(parameter.key)),
                   "\"" + std::get<std::string>(value) + "\"", expectation_of(parameter));
            parameter.set(&look, std::string());
        }
        effect.looks.push_back(std::move(look));
    }

    void read_element(const Json& json, const std::string& place, Effect& effect) {
        Element element;
        if (!read_id(json, place, effect, "element", element.id)) {
            return;
        }
        std::string type_key;
        read_text(json, place, "type", type_key);
        const ElementType* type = find_type(type_key);
        if (type == nullptr) {
            std::string expected = "one of";
            for (const ElementType& known : element_types()) {
                expected += " " + std::string(known.key);
            }
            report(child_place(place, "type"), json.contains("type") ? excerpt(json["type"]) : "nothing",
                   expected);
            return;
        }
        element.body = type->prototype;
        element.name = element.id;
        read_text(json, place, "name", element.name);
        read_switch(json, place, "muted", element.muted);
        read_switch(json, place, "solo", element.solo);
        read_text(json, place, "group", element.group);
        if (const Json* parameters = object(json, place, "parameters")) {
            void* body = std::visit([](auto& b) -> void* { return &b; }, element.body);
            element.unknown_parameters =
                read_parameters(*parameters, child_place(place, "parameters"), body, type->parameters);
        }
        if (reach_of(element.body) == nullptr) {
            element.unknown =
                unknown_members(json, {"id", "type", "name", "muted", "solo", "group", "parameters"});
        } else {
            read_links(json, place, element);
            element.unknown = unknown_members(
                json, {"id", "type", "name", "muted", "solo", "group", "links", "parameters"});
        }
        effect.elements.push_back(std::move(element));
        places_.push_back(place);
    }

    void read_drive(const Json& json, const std::string& place, Effect& effect) {
        Drive drive;
        read_text(json, place, "of", drive.holder);
        read_text(json, place, "parameter", drive.parameter);
        read_text(json, place, "by", drive.modulator);
        const auto holder = find_holder(effect, drive.holder);
        const Parameter* parameter = holder ? holder->find(drive.parameter) : nullptr;
        if (parameter != nullptr && json.contains("part")) {
            drive.part = -1;
            for (int part = 0; part < driven_parts(*parameter); ++part) {
                drive.part = json["part"] == part_name(*parameter, part) ? part : drive.part;
            }
        }
        const Json range = json.value("range", Json());
        const bool is_range =
            range.is_array() && range.size() == 2 && range[0].is_number() && range[1].is_number();
        drive.low = is_range ? range[0].get<float>() : std::numeric_limits<float>::quiet_NaN();
        drive.high = is_range ? range[1].get<float>() : drive.low;
        drive.unknown = unknown_members(json, {"of", "parameter", "part", "by", "range"});
        if (const auto refusal = refusal_of(effect, drive)) {
            report(place, excerpt(json), *refusal);
        } else if (find_drive(effect, drive.holder, drive.parameter, drive.part) != nullptr) {
            report(place, excerpt(json), "at most one drive for each number");
        } else {
            effect.drives.push_back(drive);
        }
    }

    void read_track(const Json& json, const std::string& place, Effect& effect) {
        Track track;
        read_text(json, place, "of", track.holder);
        read_text(json, place, "parameter", track.parameter);
        const auto holder = find_holder(effect, track.holder);
        const Parameter* parameter = holder ? holder->find(track.parameter) : nullptr;
        track.unknown = unknown_members(json, {"of", "parameter", "curves", "keys"});
        if (parameter != nullptr) {
            track.curves = curves_from(*parameter, json);
        }
        if (const auto refusal = refusal_of(effect, track)) {
            report(place, excerpt(json), *refusal);
        } else if (find_track(effect, track.holder, track.parameter) != nullptr) {
            report(place, excerpt(json), "at most one track for each parameter");
        } else {
            effect.tracks.push_back(std::move(track));
        }
    }

    void read_note(const Json& json, const std::string& place, Effect& effect) {
        Note note;
        read_text(json, place, "of", note.holder);
        read_text(json, place, "parameter", note.parameter);
        read_text(json, place, "text", note.text);
        note.unknown = unknown_members(json, {"of", "parameter", "text"});
        const auto holder = find_holder(effect, note.holder);
        if (!holder || holder->find(note.parameter) == nullptr) {
            report(place, excerpt(json),
                   "the id of an element, look, the stage or the budget and a parameter of it");
        } else if (note.text.empty()) {
            report(child_place(place, "text"), "nothing", "what is to be remembered");
        } else if (find_note(effect, note.holder, note.parameter) != nullptr) {
            report(place, excerpt(json), "at most one note for each parameter");
        } else {
            effect.notes.push_back(std::move(note));
        }
    }

    void read_links(const Json& json, const std::string& place, Element& element) {
        const Json* links = object(json, place, "links");
        if (links == nullptr) {
            return;
        }
        for (const auto& [source, weight] : links->items()) {
            const float value = weight.is_number() ? weight.get<float>() : -1;
            if (value >= 0 && value <= 1) {
                element.links.push_back({source, value});
            } else {
                report(child_place(child_place(place, "links"), source), excerpt(weight),
                       "a weight from 0 to 1");
            }
        }
    }

    // What can only be judged with everything read: links and looks that lead somewhere, and the size of the
    // whole.
    void check_whole(Effect& effect) {
        for (size_t i = 0; i < effect.elements.size(); ++i) {
            Element& element = effect.elements[i];
            const std::string& place = places_[i];
            std::erase_if(element.links, [&](const Link& link) {
                const Element* source = find_element(effect, link.source);
                const bool dangling = source == nullptr || !takes_links(source->body);
                if (dangling) {
                    report(child_place(child_place(place, "links"), link.source), "\"" + link.source + "\"",
                           "the id of a source or a volume of smoke of this effect");
                }
                if (!dangling && std::holds_alternative<GridFlow>(element.body) &&
                    !can_link(element, *source)) {
                    return true; // it had another grid when it was linked
                }
                if (!dangling && !can_link(element, *source)) {
                    report(child_place(child_place(place, "links"), link.source), "\"" + link.source + "\"",
                           "a source that it can act on: breaking on breakables, particles on particles");
                    return true;
                }
                return dangling;
            });
            if (auto* emitter = std::get_if<Emitter>(&element.body)) {
                check_look(effect, *emitter, place);
            }
            check_names(effect, element, place);
            note_what_does_nothing(element, place);
        }
        for (size_t i = 0; i < effect.elements.size(); ++i) {
            check_circle(effect, effect.elements[i], places_[i]);
        }
        if (const auto refusal = whole_refusal(effect)) {
            report("/elements", *refusal, "less of it");
            for (Element& element : effect.elements) {
                if (auto* emitter = std::get_if<Emitter>(&element.body)) {
                    emitter->capacity =
                        std::min(emitter->capacity, int(most_particles / int64_t(most_elements)));
                } else if (auto* breakable = std::get_if<Breakable>(&element.body)) {
                    breakable->capacity = std::min(breakable->capacity, most_pieces / int(most_elements));
                    breakable->pattern = CutPattern::even;
                    breakable->pieces = std::min(breakable->pieces, most_pieces / int(most_elements));
                    breakable->again = 0;
                }
            }
        }
    }

    void note_what_does_nothing(const Element& element, const std::string& place) {
        if (const auto lack = lack_of(element)) {
            notes_.push_back(
                document_.problem_at(place, "\"" + element.id + "\", which does nothing", *lack));
        }
        const auto* emitter = std::get_if<Emitter>(&element.body);
        if (emitter != nullptr && emitter->loop_every > 0 && emitter->duration <= 0) {
            notes_.push_back(document_.problem_at(child_place(child_place(place, "parameters"), "loop_every"),
                                                  "a loop of what never ends, which does nothing",
                                                  "a duration above 0 beside it"));
        }
    }

    // Parameters that name an element or a texture: it must be there and be of the right kind.
    void check_names(const Effect& effect, Element& element, const std::string& place) {
        void* body = std::visit([](auto& b) -> void* { return &b; }, element.body);
        for (const Parameter& parameter : type_of(element.body).parameters) {
            const bool is_texture = parameter.kind == ParameterKind::texture;
            if (!is_texture && !names_element(parameter.kind)) {
                continue;
            }
            const auto id = std::get<std::string>(parameter.get(body));
            const Element* named = find_element(effect, id);
            const bool is_set =
                parameter.kind == ParameterKind::actor && can_do(effect, id, TriggerThen::set);
            const bool fits = is_texture ? find_texture(effect, id) != nullptr
                                         : is_set || (named != nullptr && may_name(parameter.kind, *named));
            if (!id.empty() && !fits) {
                report(child_place(child_place(place, "parameters"), std::string(parameter.key)),
                       "\"" + id + "\"", expectation_of(parameter));
                parameter.set(body, std::string());
            }
        }
    }

    // What rides on itself, or is born of itself, lets go.
    void check_circle(const Effect& effect, Element& element, const std::string& place) {
        while (const auto circle = circle_of(effect, element)) {
            auto* emitter = std::get_if<Emitter>(&element.body);
            const bool is_birth = emitter != nullptr && !emitter->parent.empty();
            report(child_place(child_place(place, "parameters"), is_birth ? "parent" : "rides_on"), *circle,
                   "elements that do not come back to themselves");
            if (is_birth) {
                emitter->parent.clear();
            } else {
                std::visit(
                    [](auto& body) {
                        if constexpr (std::is_base_of_v<Place, std::remove_cvref_t<decltype(body)>>) {
                            body.rides_on.clear();
                        }
                    },
                    element.body);
            }
        }
    }

    void check_look(Effect& effect, Emitter& emitter, const std::string& place) {
        if (find_look(effect, emitter.look) != nullptr) {
            return;
        }
        const bool is_named = !emitter.look.empty();
        if (is_named) {
            report(child_place(child_place(place, "parameters"), "look"), "\"" + emitter.look + "\"",
                   "the id of a look of this effect");
        }
        if (effect.looks.empty()) {
            effect.looks.push_back(starter_effect().looks.front());
        }
        emitter.look = effect.looks.front().id;
    }

    const LocatedJson& document_;
    Problems& problems_;
    Problems& notes_;
    std::vector<std::string> places_; // of the elements that were read
};

} // namespace

ReadResult parse_effect(std::string_view text, const std::string& file_name) {
    ReadResult result;
    if (const auto document = parse_located(text, file_name, result.problems)) {
        result.notes = document->notes;
        result.effect = Reader(*document, result.problems, result.notes).read();
    }
    return result;
}

ReadResult read_effect(const std::filesystem::path& path) {
    ReadResult result;
    if (const auto text = read_file(path, most_file_bytes, result.problems)) {
        return parse_effect(*text, path.string());
    }
    return result;
}

std::string value_text(const Parameter& parameter, const Value& value) {
    return json_of(parameter, value).dump(-1, ' ', false, Json::error_handler_t::replace);
}

std::optional<Value> parse_value(const Parameter& parameter, std::string_view text) {
    Json json = Json::parse(text, nullptr, false);
    const bool is_word = parameter.kind == ParameterKind::choice || is_text(parameter.kind);
    if (is_word && (json.is_discarded() || !json.is_string())) {
        json = std::string(text);
    }
    return json.is_discarded() ? std::nullopt : value_from(parameter, json);
}

} // namespace ember
