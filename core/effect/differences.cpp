#include "core/effect/differences.h"

#include "core/effect/drive.h"
#include "core/effect/effect_file.h"
#include "core/effect/track.h"

#include <algorithm>
#include <array>
#include <cstdio>
#include <set>

namespace ember {

namespace {

const std::string none = "\u2013";

std::string short_text(float number) {
    std::array<char, 32> text{};
    std::snprintf(text.data(), text.size(), "%.5g", double(number));
    return text.data();
}

std::string shown(const Parameter& parameter, const Value& value) {
    constexpr size_t longest = 28;
    switch (parameter.kind) {
    case ParameterKind::curve:
    case ParameterKind::ramp:
    case ParameterKind::points:
        return {}; // only that it is another
    default:
        break;
    }
    std::string text;
    if (const auto* number = std::get_if<float>(&value)) {
        text = short_text(*number);
    } else if (const auto* range = std::get_if<Range>(&value)) {
        text = short_text(range->low) + " to " + short_text(range->high);
    } else if (const auto* vector = std::get_if<Vec3>(&value)) {
        text = short_text(vector->x) + ", " + short_text(vector->y) + ", " + short_text(vector->z);
    } else {
        text = value_text(parameter, value);
    }
    std::erase(text, '"');
    if (text.size() > longest) {
        text.resize(longest);
        text += "\u2026";
    }
    if (!parameter.unit.empty() && !is_text(parameter.kind)) {
        text += ' ';
        text += parameter.unit;
    }
    return text;
}

std::string yes_or_no(bool is_so) {
    return is_so ? "yes" : "no";
}

// Of two effects, piece by piece.
class Comparison {
  public:
    Comparison(const Effect& a, const Effect& b) : a_(a), b_(b) {}

    std::vector<Difference> found() {
        if (a_.seed != b_.seed) {
            add("Effect", "Seed", std::to_string(a_.seed), std::to_string(b_.seed));
        }
        each_of(&Effect::elements);
        each_of(&Effect::looks);
        each_of(&Effect::textures);
        compare_holder(std::string(stage_id));
        compare_holder(std::string(budget_id));
        return std::move(found_);
    }

  private:
    void add(const std::string& where, const std::string& what, const std::string& a, const std::string& b) {
        found_.push_back({where, what, a, b});
    }

    template <class T>
    void each_of(std::vector<T> Effect::*list) {
        const auto find = [&](const Effect& in, const std::string& id) {
            return std::find_if((in.*list).begin(), (in.*list).end(),
                                [&](const T& each) { return each.id == id; });
        };
        for (const T& one : a_.*list) {
            const auto other = find(b_, one.id);
            if (other == (b_.*list).end()) {
                add(one.name, "", "there", none);
            } else {
                if constexpr (std::is_same_v<T, Element>) {
                    compare_elements(one, *other);
                }
                compare_holder(one.id);
            }
        }
        for (const T& one : b_.*list) {
            if (find(a_, one.id) == (a_.*list).end()) {
                add(one.name, "", none, "there");
            }
        }
    }

    void compare_elements(const Element& a, const Element& b) {
        if (a.name != b.name) {
            add(a.name, "Name", a.name, b.name);
        }
        if (a.muted != b.muted) {
            add(a.name, "Muted", yes_or_no(a.muted), yes_or_no(b.muted));
        }
        if (a.solo != b.solo) {
            add(a.name, "Solo", yes_or_no(a.solo), yes_or_no(b.solo));
        }
        std::set<std::string> sources;
        for (const Element* element : {&a, &b}) {
            for (const Link& link : element->links) {
                sources.insert(link.source);
            }
        }
        for (const std::string& id : sources) {
            const Link *one = find_link(a, id), *other = find_link(b, id);
            const auto weight = [](const Link* link) {
                return link != nullptr ? text_of(link->weight) : none;
            };
            if (weight(one) != weight(other)) {
                const auto source = find_holder(one != nullptr ? a_ : b_, id);
                add(a.name, "Link to " + (source ? source->name : id), weight(one), weight(other));
            }
        }
    }

    std::string driven(const Effect& effect, const std::string& holder, const Parameter& parameter) const {
        std::string words;
        for (int part = 0; part < driven_parts(parameter); ++part) {
            if (const Drive* drive = find_drive(effect, holder, parameter.key, part)) {
                const auto modulator = find_holder(effect, drive->modulator);
                words += (words.empty() ? "" : ", ") + (modulator ? modulator->name : drive->modulator) +
                         " " + text_of(drive->low) + " to " + text_of(drive->high);
            }
        }
        return words.empty() ? none : words;
    }

    std::string keyed(const Effect& effect, const std::string& holder, const Parameter& parameter) const {
        const Track* track = find_track(effect, holder, parameter.key);
        size_t keys = 0;
        for (size_t i = 0; track != nullptr && i < track->curves.size(); ++i) {
            keys = std::max(keys, track->curves[i].points.size());
        }
        return track == nullptr ? none : std::to_string(keys) + " keys";
    }

    void compare_holder(const std::string& id) {
        const auto one = find_holder(a_, id), other = find_holder(b_, id);
        if (one->parameters.data() != other->parameters.data()) {
            return add(one->name, "Kind", "one", "another");
        }
        for (const Parameter& parameter : one->parameters) {
            const Value a = parameter.get(one->object), b = parameter.get(other->object);
            const std::string label(parameter.label);
            if (a != b) {
                const std::string text_a = shown(parameter, a), text_b = shown(parameter, b);
                text_a != text_b ? add(one->name, label, text_a, text_b)
                                 : add(one->name, label, "one", "another");
            }
            const std::string driven_a = driven(a_, id, parameter), driven_b = driven(b_, id, parameter);
            if (driven_a != driven_b) {
                add(one->name, label + ", driven", driven_a, driven_b);
            }
            const Track *track_a = find_track(a_, id, parameter.key),
                        *track_b = find_track(b_, id, parameter.key);
            const bool same = (track_a == nullptr) == (track_b == nullptr) &&
                              (track_a == nullptr || track_a->curves == track_b->curves);
            if (!same) {
                add(one->name, label + ", keyed", keyed(a_, id, parameter), keyed(b_, id, parameter));
            }
        }
    }

    const Effect &a_, &b_;
    std::vector<Difference> found_;
};

} // namespace

std::vector<Difference> differences(const Effect& a, const Effect& b) {
    return Comparison(a, b).found();
}

} // namespace ember
