#include "core/effect/paste.h"

#include "core/effect/drive.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/located_json.h"

#include <algorithm>
#include <iterator>

namespace ember {

namespace {

constexpr const char* copied_key = "copied";

// Lets go of names of elements that are not in the effect.
void forget_strangers(Element& element, const Effect& effect) {
    void* body = std::visit([](auto& b) -> void* { return &b; }, element.body);
    for (const Parameter& parameter : type_of(element.body).parameters) {
        const bool names_element =
            parameter.kind == ParameterKind::place || parameter.kind == ParameterKind::source;
        if (names_element && find_element(effect, std::get<std::string>(parameter.get(body))) == nullptr) {
            parameter.set(body, std::string());
        }
    }
}

// The look under its own id if it is there already, else added.
std::string look_in(Effect& effect, const Look& look) {
    if (const Look* same = find_look(effect, look.id); same != nullptr && *same == look) {
        return look.id;
    }
    Look copy = look;
    copy.id = free_id(effect, look.name);
    effect.looks.push_back(copy);
    return copy.id;
}

} // namespace

std::string copied_text(const Effect& effect, const std::string& element_id) {
    const Element& copied = *find_element(effect, element_id);
    Effect part;
    part.name = copied.name;
    const auto is_driving = [&](const Element& other) {
        return std::any_of(effect.drives.begin(), effect.drives.end(), [&](const Drive& drive) {
            return drive.holder == element_id && drive.modulator == other.id;
        });
    };
    for (const Element& other : effect.elements) {
        const bool goes_along = other.id == element_id || find_link(other, element_id) != nullptr ||
                                find_link(copied, other.id) != nullptr || is_driving(other);
        if (goes_along) {
            part.elements.push_back(other);
        }
    }
    for (Element& element : part.elements) {
        forget_strangers(element, effect);
        std::erase_if(element.links,
                      [&](const Link& link) { return find_element(part, link.source) == nullptr; });
        if (const auto* emitter = std::get_if<Emitter>(&element.body)) {
            if (find_look(part, emitter->look) == nullptr) {
                part.looks.push_back(*find_look(effect, emitter->look));
            }
        }
    }
    std::copy_if(effect.drives.begin(), effect.drives.end(), std::back_inserter(part.drives),
                 [&](const Drive& drive) { return drive.holder == element_id; });
    part.unknown = Json{{copied_key, element_id}}.dump();
    return effect_text(part);
}

std::optional<Effect> with_pasted(const Effect& effect, std::string_view text, std::string& id) {
    const Json json = Json::parse(text, nullptr, false);
    const std::string copied_id =
        json.is_object() && json.contains(copied_key) && json[copied_key].is_string() ? json[copied_key] : "";
    const auto part = parse_effect(text, "what was copied").effect;
    const Element* copied = part ? find_element(*part, copied_id) : nullptr;
    if (copied == nullptr || effect.elements.size() >= most_elements) {
        return std::nullopt;
    }
    Effect result = effect;
    Element element = *copied;
    element.name = free_name(effect, copied->name);
    element.id = id = free_id(effect, element.name);
    std::erase_if(element.links,
                  [&](const Link& link) { return find_element(effect, link.source) == nullptr; });
    forget_strangers(element, effect);
    if (auto* emitter = std::get_if<Emitter>(&element.body)) {
        emitter->look = look_in(result, *find_look(*part, emitter->look));
    }
    result = with_element(result, element);
    for (const Element& influence : part->elements) {
        const Link* link = find_link(influence, copied_id);
        if (link != nullptr && find_element(effect, influence.id) != nullptr) {
            result = with_link(result, influence.id, id, link->weight);
        }
    }
    for (const Drive& drive : part->drives) {
        Drive own = drive;
        own.holder = id;
        if (const Element* modulator = find_element(result, drive.modulator);
            modulator == nullptr || family_of(modulator->body) != Family::modulator) {
            Element stranger = *find_element(*part, drive.modulator);
            forget_strangers(stranger, result);
            stranger.id = own.modulator = free_id(result, stranger.name);
            result = with_element(result, stranger);
        }
        if (drive.holder == copied_id && !refusal_of(result, own)) {
            result = with_drive(result, own);
        }
    }
    return result;
}

} // namespace ember
