#include "core/effect/edit.h"

#include <algorithm>
#include <cctype>
#include <iterator>

namespace ember {

namespace {

Element& element_in(Effect& effect, std::string_view id) {
    return *std::find_if(effect.elements.begin(), effect.elements.end(),
                         [id](const Element& element) { return element.id == id; });
}

// A place to write to for a holder of this effect, which is ours to change.
void* object_in(Effect& effect, std::string_view holder_id) {
    return const_cast<void*>(find_holder(effect, holder_id)->object);
}

bool is_source(const Element& element) {
    return family_of(element.body) == Family::source;
}

// Smoke has what makes it rise, sink and come to rest; it floats until one says otherwise.
bool links_at_first(const Element& influence, const Element& source) {
    const bool is_weight_or_rest =
        std::holds_alternative<Gravity>(influence.body) || std::holds_alternative<Drag>(influence.body);
    return can_link(influence, source) && !(is_weight_or_rest && std::holds_alternative<Smoke>(source.body));
}

bool is_taken(const Effect& effect, std::string_view id) {
    return find_holder(effect, id).has_value();
}

void set_link(Element& influence, std::string_view source_id, float weight) {
    for (Link& link : influence.links) {
        if (link.source == source_id) {
            link.weight = weight;
            return;
        }
    }
    influence.links.push_back({std::string(source_id), weight});
}

void insert_behind_family(Effect& effect, Element element) {
    const Family family = family_of(element.body);
    const auto last =
        std::find_if(effect.elements.rbegin(), effect.elements.rend(),
                     [family](const Element& other) { return family_of(other.body) <= family; });
    effect.elements.insert(last.base(), std::move(element));
}

// Clears what names an element or a texture that is no longer there.
void forget(Element& element, std::string_view id) {
    void* body = std::visit([](auto& b) -> void* { return &b; }, element.body);
    for (const Parameter& parameter : type_of(element.body).parameters) {
        const bool names = names_element(parameter.kind) || parameter.kind == ParameterKind::texture;
        if (names && std::get<std::string>(parameter.get(body)) == id) {
            parameter.set(body, std::string());
        }
    }
}

// Drives, tracks and notes of one holder, for its copy too.
void copy_what_belongs(const Effect& effect, std::string_view from, const std::string& to, Effect& edited) {
    for (const Drive& drive : effect.drives) {
        if (drive.holder == from) {
            edited.drives.push_back(drive);
            edited.drives.back().holder = to;
        }
    }
    for (const Track& track : effect.tracks) {
        if (track.holder == from) {
            edited.tracks.push_back(track);
            edited.tracks.back().holder = to;
        }
    }
    for (const Note& note : effect.notes) {
        if (note.holder == from) {
            edited.notes.push_back(note);
            edited.notes.back().holder = to;
        }
    }
}

bool is_used(const Effect& effect, std::string_view look_id) {
    return std::any_of(effect.elements.begin(), effect.elements.end(), [look_id](const Element& element) {
        const auto* emitter = std::get_if<Emitter>(&element.body);
        return emitter != nullptr && emitter->look == look_id;
    });
}

} // namespace

std::string free_id(const Effect& effect, std::string_view name) {
    std::string stem;
    for (const char c : name) {
        if (std::isalnum(static_cast<unsigned char>(c)) != 0) {
            stem += char(std::tolower(static_cast<unsigned char>(c)));
        } else if (!stem.empty() && stem.back() != '-') {
            stem += '-';
        }
    }
    while (!stem.empty() && stem.back() == '-') {
        stem.pop_back();
    }
    if (stem.empty()) {
        stem = "element";
    }
    std::string id = stem;
    for (int number = 2; is_taken(effect, id); ++number) {
        id = stem + "-" + std::to_string(number);
    }
    return id;
}

Effect with_value(const Effect& effect, std::string_view holder_id, const Parameter& parameter,
                  const Value& value) {
    Effect edited = effect;
    parameter.set(object_in(edited, holder_id), value);
    return edited;
}

std::string free_name(const Effect& effect, std::string_view wish) {
    const auto taken = [&](const std::string& name) {
        return std::any_of(effect.elements.begin(), effect.elements.end(),
                           [&](const Element& element) { return element.name == name; });
    };
    std::string name(wish);
    if (!taken(name)) {
        return name;
    }
    // "Wind 2" counts on to "Wind 3".
    const size_t digits = name.find_last_not_of("0123456789") + 1;
    const bool counts =
        digits < name.size() && digits > 1 && name[digits - 1] == ' ' && name.size() - digits < 7;
    const std::string base = counts ? name.substr(0, digits - 1) : name;
    for (int number = counts ? std::stoi(name.substr(digits)) + 1 : 2; taken(name); ++number) {
        name = base + " " + std::to_string(number);
    }
    return name;
}

Effect with_new_element(const Effect& effect, const ElementType& type, std::string& id) {
    Effect edited = effect;
    Element element;
    element.name = free_name(effect, type.label);
    element.id = id = free_id(effect, element.name);
    element.body = type.prototype;

    if (auto* emitter = std::get_if<Emitter>(&element.body)) {
        Look look = starter_effect().looks.front();
        look.name = element.name + " look";
        look.id = emitter->look = free_id(effect, look.name);
        edited.looks.push_back(std::move(look));
    }
    if (auto* dropper = std::get_if<Dropper>(&element.body)) {
        for (const Element& other : effect.elements) {
            const bool is_first = dropper->drops.empty() && std::holds_alternative<Breakable>(other.body);
            dropper->drops = is_first ? other.id : dropper->drops;
        }
    }
    if (auto* trigger = std::get_if<Trigger>(&element.body)) {
        for (const Element& other : effect.elements) {
            const bool is_first = trigger->of.empty() && is_source(other);
            trigger->of = is_first ? other.id : trigger->of;
            const bool can = trigger->what.empty() && can_do(other, trigger->then);
            trigger->what = can ? other.id : trigger->what;
        }
    }
    for (Element& other : edited.elements) {
        if (links_at_first(other, element)) {
            set_link(other, element.id, 1);
        } else if (links_at_first(element, other)) {
            set_link(element, other.id, 1);
        }
    }
    insert_behind_family(edited, std::move(element));
    return edited;
}

Effect with_element(const Effect& effect, Element element) {
    Effect edited = effect;
    insert_behind_family(edited, std::move(element));
    return edited;
}

Effect with_moved(const Effect& effect, std::string_view element_id, int by) {
    Effect edited = effect;
    const auto at = std::find_if(edited.elements.begin(), edited.elements.end(),
                                 [&](const Element& element) { return element.id == element_id; });
    const auto is_beside = [&](const Element& other) {
        return family_of(other.body) == family_of(at->body) && other.group == at->group;
    };
    if (by < 0) {
        const auto before = std::find_if(std::make_reverse_iterator(at), edited.elements.rend(), is_beside);
        if (before != edited.elements.rend()) {
            std::rotate(before.base() - 1, at, at + 1);
        }
    } else {
        const auto after = std::find_if(at + 1, edited.elements.end(), is_beside);
        if (after != edited.elements.end()) {
            std::rotate(at, at + 1, after + 1);
        }
    }
    return edited;
}

Effect with_placed(const Effect& effect, const std::vector<std::string>& element_ids,
                   std::string_view neighbour_id, bool behind) {
    const Element& neighbour = *find_element(effect, neighbour_id);
    const auto is_placed = [&](const Element& element) {
        return element.id != neighbour_id && family_of(element.body) == family_of(neighbour.body) &&
               std::find(element_ids.begin(), element_ids.end(), element.id) != element_ids.end();
    };
    Effect edited = effect;
    std::erase_if(edited.elements, is_placed);
    std::vector<Element> placed;
    for (const Element& element : effect.elements) {
        if (is_placed(element)) {
            placed.push_back(element);
            placed.back().group = neighbour.group;
        }
    }
    const auto at = std::find_if(edited.elements.begin(), edited.elements.end(),
                                 [&](const Element& element) { return element.id == neighbour_id; });
    edited.elements.insert(at + (behind ? 1 : 0), placed.begin(), placed.end());
    return edited;
}

Effect with_group(const Effect& effect, const std::vector<std::string>& element_ids,
                  const std::string& group) {
    Effect edited = effect;
    for (const std::string& id : element_ids) {
        element_in(edited, id).group = group;
    }
    return edited;
}

Effect with_duplicate(const Effect& effect, std::string_view element_id, std::string& id) {
    Effect edited = effect;
    const auto original = std::find_if(edited.elements.begin(), edited.elements.end(),
                                       [&](const Element& element) { return element.id == element_id; });
    Element copy = *original;
    copy.name = free_name(effect, original->name);
    copy.id = id = free_id(effect, copy.name);
    if (takes_links(copy.body)) {
        for (Element& influence : edited.elements) {
            if (const Link* link = find_link(influence, element_id)) {
                set_link(influence, copy.id, link->weight);
            }
        }
    }
    copy_what_belongs(effect, element_id, copy.id, edited);
    edited.elements.insert(original + 1, std::move(copy));
    return edited;
}

Effect with_own_look(const Effect& effect, std::string_view emitter_id) {
    Effect edited = effect;
    Element& element = element_in(edited, emitter_id);
    auto& emitter = std::get<Emitter>(element.body);
    Look look = *find_look(effect, emitter.look);
    look.name = element.name + " look";
    look.id = free_id(effect, look.name);
    copy_what_belongs(effect, emitter.look, look.id, edited);
    emitter.look = look.id;
    edited.looks.push_back(std::move(look));
    return edited;
}

Effect with_own_modulator(const Effect& effect, const Drive& drive, std::string& id) {
    Effect edited = with_duplicate(effect, drive.modulator, id);
    Drive own = drive;
    own.modulator = id;
    return with_drive(edited, own);
}

Effect with_new_texture(const Effect& effect, TextureKind kind, std::string& id) {
    Effect edited = effect;
    const Parameter& kinds = *Holder{nullptr, texture_parameters(), {}}.find("kind");
    Texture texture;
    texture.kind = kind;
    texture.name = std::string(kinds.choices[size_t(kind)]);
    texture.id = id = free_id(effect, texture.name);
    texture.name = id; // numbered like the id, since ids are hardly seen
    texture.name.front() = char(std::toupper(static_cast<unsigned char>(texture.name.front())));
    std::replace(texture.name.begin(), texture.name.end(), '-', ' ');
    edited.textures.push_back(std::move(texture));
    return edited;
}

Effect with_texture_name(const Effect& effect, std::string_view texture_id, std::string name) {
    Effect edited = effect;
    static_cast<Texture*>(object_in(edited, texture_id))->name = std::move(name);
    return edited;
}

Effect without_texture(const Effect& effect, std::string_view texture_id) {
    Effect edited = effect;
    for (Look& look : edited.looks) {
        for (Layer& layer : look.layers) {
            if (layer.texture == texture_id) {
                layer.texture.clear();
            }
        }
    }
    for (Element& element : edited.elements) {
        forget(element, texture_id);
    }
    std::erase_if(edited.textures, [&](const Texture& texture) { return texture.id == texture_id; });
    std::erase_if(edited.tracks, [&](const Track& track) { return !find_holder(edited, track.holder); });
    std::erase_if(edited.notes, [&](const Note& note) { return !find_holder(edited, note.holder); });
    return edited;
}

Effect without_element(const Effect& effect, std::string_view element_id) {
    Effect edited = effect;
    std::string look;
    if (const auto* emitter = std::get_if<Emitter>(&element_in(edited, element_id).body)) {
        look = emitter->look;
    }
    std::erase_if(edited.elements, [&](const Element& element) { return element.id == element_id; });
    for (Element& element : edited.elements) {
        std::erase_if(element.links, [&](const Link& link) { return link.source == element_id; });
        forget(element, element_id);
    }
    if (!look.empty() && !is_used(edited, look)) {
        std::erase_if(edited.looks, [&](const Look& other) { return other.id == look; });
        for (Element& element : edited.elements) {
            forget(element, look);
        }
    }
    std::erase_if(edited.drives, [&](const Drive& drive) {
        return drive.modulator == element_id || !find_holder(edited, drive.holder);
    });
    std::erase_if(edited.tracks, [&](const Track& track) { return !find_holder(edited, track.holder); });
    std::erase_if(edited.notes, [&](const Note& note) { return !find_holder(edited, note.holder); });
    return edited;
}

Effect with_name(const Effect& effect, std::string_view element_id, std::string name) {
    Effect edited = effect;
    element_in(edited, element_id).name = std::move(name);
    return edited;
}

Effect with_effect_name(const Effect& effect, std::string name) {
    Effect edited = effect;
    edited.name = std::move(name);
    return edited;
}

Effect with_seed(const Effect& effect, uint32_t seed) {
    Effect edited = effect;
    edited.seed = seed;
    return edited;
}

Effect with_muted(const Effect& effect, std::string_view element_id, bool muted) {
    Effect edited = effect;
    element_in(edited, element_id).muted = muted;
    return edited;
}

Effect with_solo(const Effect& effect, std::string_view element_id, bool solo) {
    Effect edited = effect;
    element_in(edited, element_id).solo = solo;
    return edited;
}

Effect with_drive(const Effect& effect, const Drive& drive) {
    Effect edited = without_drive(effect, drive.holder, drive.parameter, drive.part);
    edited.drives.push_back(drive);
    return edited;
}

Effect without_drive(const Effect& effect, std::string_view holder_id, std::string_view parameter, int part) {
    Effect edited = effect;
    std::erase_if(edited.drives, [&](const Drive& drive) {
        return drive.holder == holder_id && drive.parameter == parameter && drive.part == part;
    });
    return edited;
}

Effect with_note(const Effect& effect, std::string_view holder_id, std::string_view parameter,
                 std::string text) {
    Effect edited = effect;
    std::erase_if(edited.notes,
                  [&](const Note& note) { return note.holder == holder_id && note.parameter == parameter; });
    if (!text.empty()) {
        edited.notes.push_back({std::string(holder_id), std::string(parameter), std::move(text), {}});
    }
    return edited;
}

Effect with_link(const Effect& effect, std::string_view influence_id, std::string_view source_id,
                 std::optional<float> weight) {
    Effect edited = effect;
    Element& influence = element_in(edited, influence_id);
    const Element* source = find_element(effect, source_id);
    if (weight && source != nullptr && can_link(influence, *source)) {
        set_link(influence, source_id, *weight);
    } else if (!weight) {
        std::erase_if(influence.links, [&](const Link& link) { return link.source == source_id; });
    }
    return edited;
}

} // namespace ember
