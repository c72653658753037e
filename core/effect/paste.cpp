#include "core/effect/paste.h"

#include "core/effect/drive.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/located_json.h"
#include "core/effect/track.h"

#include <algorithm>
#include <iterator>
#include <map>

namespace ember {

namespace {

constexpr const char* copied_key = "copied";

// Ids that elements have now, by those that they had.
using NewIds = std::map<std::string, std::string, std::less<>>;

// What an element is called in the effect: as it was copied, or by its old id if that is there too; nullptr
// if it is a stranger.
const Element* known(const Effect& effect, const NewIds& now, const std::string& id) {
    const auto copied = now.find(id);
    return find_element(effect, copied != now.end() ? copied->second : id);
}

// Other elements that an element names, under their new ids; strangers are let go.
void rename_named(Element& element, const Effect& effect, const NewIds& now) {
    void* body = std::visit([](auto& b) -> void* { return &b; }, element.body);
    for (const Parameter& parameter : type_of(element.body).parameters) {
        if (names_element(parameter.kind)) {
            const auto id = std::get<std::string>(parameter.get(body));
            const Element* named = known(effect, now, id);
            const bool is_set =
                parameter.kind == ParameterKind::actor && can_do(effect, id, TriggerThen::set);
            parameter.set(body, named != nullptr ? named->id : is_set ? id : std::string());
        }
    }
}

// The texture or look of this id in one list, under its own id if the same is there already, else added.
template <class T>
std::string added_to(std::vector<T>& list, const T& thing, const Effect& effect) {
    if (std::find(list.begin(), list.end(), thing) != list.end()) {
        return thing.id;
    }
    T copy = thing;
    copy.id = find_holder(effect, thing.id) ? free_id(effect, thing.name) : thing.id;
    list.push_back(copy);
    return copy.id;
}

// With the textures that it uses.
std::string look_in(Effect& effect, Look look, const Effect& part) {
    for (Layer& layer : look.layers) {
        const Texture* texture = find_texture(part, layer.texture);
        layer.texture = texture != nullptr ? added_to(effect.textures, *texture, effect) : "";
    }
    return added_to(effect.looks, look, effect);
}

// Lets an element use the textures that it names in another effect, so that they come along.
void bring_textures(Element& element, const Effect& from, Effect& to) {
    void* body = std::visit([](auto& b) -> void* { return &b; }, element.body);
    for (const Parameter& parameter : type_of(element.body).parameters) {
        const Texture* texture = parameter.kind == ParameterKind::texture
                                     ? find_texture(from, std::get<std::string>(parameter.get(body)))
                                     : nullptr;
        if (texture != nullptr) {
            parameter.set(body, added_to(to.textures, *texture, to));
        }
    }
}

} // namespace

std::string copied_text(const Effect& effect, const std::vector<std::string>& element_ids) {
    const auto is_copied = [&](const std::string& id) {
        return std::find(element_ids.begin(), element_ids.end(), id) != element_ids.end();
    };
    const auto goes_along = [&](const Element& other) {
        const bool is_linked = std::any_of(element_ids.begin(), element_ids.end(), [&](const auto& id) {
            return find_link(other, id) != nullptr ||
                   find_link(*find_element(effect, id), other.id) != nullptr;
        });
        const bool drives = std::any_of(effect.drives.begin(), effect.drives.end(), [&](const Drive& drive) {
            return is_copied(drive.holder) && drive.modulator == other.id;
        });
        return is_copied(other.id) || is_linked || drives;
    };
    Effect part;
    part.name = find_element(effect, element_ids.front())->name;
    std::copy_if(effect.elements.begin(), effect.elements.end(), std::back_inserter(part.elements),
                 goes_along);
    const Effect whole = part;
    for (Element& element : part.elements) {
        rename_named(element, whole, {});
        std::erase_if(element.links,
                      [&](const Link& link) { return find_element(whole, link.source) == nullptr; });
        bring_textures(element, effect, part);
        if (const auto* emitter = std::get_if<Emitter>(&element.body)) {
            if (find_look(part, emitter->look) == nullptr) {
                look_in(part, *find_look(effect, emitter->look), effect);
            }
        }
    }
    std::copy_if(effect.drives.begin(), effect.drives.end(), std::back_inserter(part.drives),
                 [&](const Drive& drive) { return is_copied(drive.holder); });
    std::copy_if(effect.tracks.begin(), effect.tracks.end(), std::back_inserter(part.tracks),
                 [&](const Track& track) { return is_copied(track.holder); });
    std::copy_if(effect.notes.begin(), effect.notes.end(), std::back_inserter(part.notes),
                 [&](const Note& note) { return is_copied(note.holder); });
    part.unknown = Json{{copied_key, element_ids}}.dump();
    return effect_text(part);
}

std::vector<std::string> copied_ids(const Effect& part) {
    std::vector<std::string> ids;
    const Json json = Json::parse(part.unknown, nullptr, false);
    const Json list = json.is_object() && json.contains(copied_key) ? json[copied_key] : Json();
    for (const Json& id : list.is_array() ? list : Json::array()) {
        if (id.is_string() && find_element(part, id.get<std::string>()) != nullptr) {
            ids.push_back(id.get<std::string>());
        }
    }
    return ids;
}

namespace {

// Adds an element under a new id, without links.
void add_copy(Element element, const Effect& part, Effect& effect, NewIds& now) {
    const std::string copied = element.id;
    element.name = free_name(effect, element.name);
    element.links.clear();
    if (auto* emitter = std::get_if<Emitter>(&element.body)) {
        emitter->look = look_in(effect, *find_look(part, emitter->look), part);
    }
    bring_textures(element, part, effect);
    element.id = now[copied] = free_id(effect, element.name); // that the look has not taken
    effect = with_element(effect, element);
}

} // namespace

std::optional<Effect> with_pasted(const Effect& effect, std::string_view text,
                                  std::vector<std::string>& ids) {
    ids.clear();
    const auto part = parse_effect(text, "what was copied").effect;
    const std::vector<std::string> copied = part ? copied_ids(*part) : ids;
    if (copied.empty() || effect.elements.size() + copied.size() > most_elements) {
        return std::nullopt;
    }
    Effect result = effect;
    NewIds now;
    for (const std::string& id : copied) {
        if (!now.contains(id)) {
            add_copy(*find_element(*part, id), *part, result, now);
        }
    }
    // What drives them comes along where it is not there.
    for (const Drive& drive : part->drives) {
        const Element* modulator = known(result, now, drive.modulator);
        const bool is_here = modulator != nullptr && family_of(modulator->body) == Family::modulator;
        if (now.contains(drive.holder) && !is_here) {
            add_copy(*find_element(*part, drive.modulator), *part, result, now);
        }
    }
    const Effect named = result;
    for (Element& element : result.elements) {
        const bool is_new = find_element(effect, element.id) == nullptr;
        if (is_new) {
            rename_named(element, named, now);
        }
    }
    for (const Element& influence : part->elements) {
        for (const Link& link : influence.links) {
            const Element* here = known(result, now, influence.id);
            const Element* source = known(result, now, link.source);
            const bool is_new = now.contains(influence.id) || now.contains(link.source);
            if (is_new && here != nullptr && reach_of(here->body) != nullptr && source != nullptr &&
                takes_links(source->body)) {
                result = with_link(result, here->id, source->id, link.weight);
            }
        }
    }
    for (const Drive& drive : part->drives) {
        if (now.contains(drive.holder)) {
            Drive own = drive;
            own.holder = now[drive.holder];
            own.modulator = known(result, now, drive.modulator)->id;
            result = with_drive(result, own);
        }
    }
    for (const Track& track : part->tracks) {
        if (now.contains(track.holder)) {
            Track own = track;
            own.holder = now[track.holder];
            result = with_track(result, own);
        }
    }
    for (const Note& note : part->notes) {
        if (now.contains(note.holder)) {
            result = with_note(result, now[note.holder], note.parameter, note.text);
        }
    }
    for (const std::string& id : copied) {
        ids.push_back(now[id]);
    }
    return result;
}

std::optional<Effect> with_sources_of(const Effect& effect, const Effect& sample,
                                      std::vector<std::string>& ids) {
    std::vector<std::string> sources;
    for (const Element& element : sample.elements) {
        if (family_of(element.body) == Family::source) {
            sources.push_back(element.id);
        }
    }
    if (sources.empty()) {
        return std::nullopt;
    }
    auto result = with_pasted(effect, copied_text(sample, sources), ids);
    for (const Element& influence : effect.elements) {
        for (const std::string& id : ids) {
            if (result && reach_of(influence.body) != nullptr) {
                result = with_link(*result, influence.id, id, 1);
            }
        }
    }
    return result;
}

} // namespace ember
