#include "core/effect/parameter.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <filesystem>

namespace ember {

namespace {

// The shortest digits that read back the same, without an exponent where that is readable.
std::string digits_of(auto number) {
    char text[64];
    const bool is_readable = number == 0 || (std::fabs(number) >= 1e-6 && std::fabs(number) < 1e15);
    const auto end = is_readable
                         ? std::to_chars(text, text + sizeof text, number, std::chars_format::fixed).ptr
                         : std::to_chars(text, text + sizeof text, number).ptr;
    return {text, end};
}

std::string text_of(double number) {
    return digits_of(number);
}

std::string limits_of(const Parameter& parameter) {
    std::string text = " from " + text_of(parameter.hard_low) + " to " + text_of(parameter.hard_high);
    if (!parameter.unit.empty()) {
        text += " " + std::string(parameter.unit);
    }
    return text;
}

// Limits are stated as decimal fractions; numbers are held as the nearest floats, and so are their limits.
bool within(const Parameter& parameter, float number) {
    return std::isfinite(number) && number >= float(parameter.hard_low) &&
           number <= float(parameter.hard_high);
}
bool within(const Parameter& parameter, int number) {
    return number >= parameter.hard_low && number <= parameter.hard_high;
}

bool in_order(const auto& points) {
    const auto not_later = [](const auto& a, const auto& b) { return a.time >= b.time; };
    return !points.empty() && points.size() <= 64 && points.front().time >= 0 && points.back().time <= 1 &&
           std::adjacent_find(points.begin(), points.end(), not_later) == points.end();
}

bool is_light(const Colour& colour) {
    const auto fine = [](float a) { return std::isfinite(a) && a >= 0 && a <= 1000; };
    return fine(colour.red) && fine(colour.green) && fine(colour.blue) && fine(colour.alpha) &&
           colour.alpha <= 1;
}

constexpr size_t most_path_points = 1000;

// Relative, and not out of the effect's own folder.
bool is_inside_path(const std::string& text) {
    const std::filesystem::path path(text);
    return text.size() <= 1000 && text.find('\0') == std::string::npos && !path.is_absolute() &&
           std::find(path.begin(), path.end(), "..") == path.end();
}

bool has_finite_bends(const Curve& curve) {
    return std::all_of(curve.points.begin(), curve.points.end(), [](const Curve::Point& p) {
        const auto fine = [](float a) { return std::isfinite(a) && std::fabs(a) < 1e6f; };
        return fine(p.in_time) && fine(p.in_value) && fine(p.out_time) && fine(p.out_value);
    });
}

// Whether the parameter takes the value; one overload for each type that a value can have.
struct Takes {
    const Parameter& parameter;

    bool is(ParameterKind kind) const { return parameter.kind == kind; }

    bool operator()(float number) const { return is(ParameterKind::number) && within(parameter, number); }
    bool operator()(int number) const {
        return is(ParameterKind::choice) ? number >= 0 && size_t(number) < parameter.choices.size()
                                         : is(ParameterKind::count) && within(parameter, number);
    }
    bool operator()(bool) const { return is(ParameterKind::toggle); }
    bool operator()(const Vec3& v) const {
        return is(ParameterKind::vector) && within(parameter, v.x) && within(parameter, v.y) &&
               within(parameter, v.z);
    }
    bool operator()(const Range& range) const {
        return is(ParameterKind::range) && within(parameter, range.low) && within(parameter, range.high) &&
               range.low <= range.high;
    }
    bool operator()(const Colour& colour) const { return is(ParameterKind::colour) && is_light(colour); }
    bool operator()(const Curve& curve) const {
        return is(ParameterKind::curve) && in_order(curve.points) && has_finite_bends(curve) &&
               std::all_of(curve.points.begin(), curve.points.end(),
                           [this](const Curve::Point& point) { return within(parameter, point.value); });
    }
    bool operator()(const Ramp& ramp) const {
        return is(ParameterKind::ramp) && in_order(ramp.stops) &&
               std::all_of(ramp.stops.begin(), ramp.stops.end(),
                           [](const Ramp::Stop& stop) { return is_light(stop.colour); });
    }
    bool operator()(const Points& points) const {
        return is(ParameterKind::points) && points.size() >= 2 && points.size() <= most_path_points &&
               std::all_of(points.begin(), points.end(), [this](const Vec3& v) {
                   return within(parameter, v.x) && within(parameter, v.y) && within(parameter, v.z);
               });
    }
    bool operator()(const std::string& text) const {
        return is(ParameterKind::file) ? is_inside_path(text) : is_text(parameter.kind) && text.size() <= 200;
    }
};

} // namespace

const Parameter* Holder::find(std::string_view key) const {
    const auto found = std::find_if(parameters.begin(), parameters.end(),
                                    [key](const Parameter& parameter) { return parameter.key == key; });
    return found == parameters.end() ? nullptr : &*found;
}

Holder holder_of(const Element& element) {
    const void* body = std::visit([](const auto& b) -> const void* { return &b; }, element.body);
    return {body, type_of(element.body).parameters, element.name};
}

Holder holder_of(const Look& look) {
    return {&look, look_parameters(), look.name};
}

Holder holder_of(const Texture& texture) {
    return {&texture, texture_parameters(), texture.name};
}

std::optional<Holder> find_holder(const Effect& effect, std::string_view id) {
    if (id == stage_id) {
        return Holder{&effect.stage, stage_parameters(), "Stage"};
    }
    if (id == budget_id) {
        return Holder{&effect.budget, budget_parameters(), "Budget"};
    }
    if (const Element* element = find_element(effect, id)) {
        return holder_of(*element);
    }
    if (const Look* look = find_look(effect, id)) {
        return holder_of(*look);
    }
    if (const Texture* texture = find_texture(effect, id)) {
        return holder_of(*texture);
    }
    return std::nullopt;
}

std::optional<std::string> refusal_of(const Parameter& parameter, const Value& value) {
    if (std::visit(Takes{parameter}, value)) {
        return std::nullopt;
    }
    return expectation_of(parameter);
}

std::string expectation_of(const Parameter& parameter) {
    switch (parameter.kind) {
    case ParameterKind::number:
        return "a number" + limits_of(parameter);
    case ParameterKind::count:
        return "a whole number" + limits_of(parameter);
    case ParameterKind::toggle:
        return "true or false";
    case ParameterKind::choice: {
        std::string text = "one of";
        for (const std::string_view choice : parameter.choices) {
            text += " " + std::string(choice);
        }
        return text;
    }
    case ParameterKind::vector:
        return "three numbers [x, y, z]" + limits_of(parameter);
    case ParameterKind::range:
        return "two numbers [low, high], low first," + limits_of(parameter);
    case ParameterKind::colour:
        return "linear light [red, green, blue], each from 0 to 1000";
    case ParameterKind::curve:
        return "1 to 64 points, times growing from 0 to 1: [time, value], or with slopes [time, value, slope "
               "in, "
               "slope out], or with handles [time, value, in time, in value, out time, out value]; values" +
               limits_of(parameter);
    case ParameterKind::ramp:
        return "1 to 64 stops [time, red, green, blue, opacity], times growing from 0 to 1, linear light "
               "from 0 to "
               "1000, opacity from 0 to 1";
    case ParameterKind::points:
        return "2 to " + std::to_string(most_path_points) + " points [x, y, z]," + limits_of(parameter);
    case ParameterKind::look:
        return "the id of a look of this effect";
    case ParameterKind::texture:
        return "the id of a texture of this effect, or nothing";
    case ParameterKind::source:
        return "the id of a source of this effect, or nothing";
    case ParameterKind::emitter:
        return "the id of an emitter of this effect, or nothing";
    case ParameterKind::breakable:
        return "the id of a breakable of this effect, or nothing";
    case ParameterKind::place:
        return "the id of an element of this effect that has a place, or nothing";
    case ParameterKind::actor:
        return "the id of an element of this effect that is no trigger, of a look, \"stage\", or nothing";
    case ParameterKind::number_of:
        return "the key of a number of the element that it tells, or nothing";
    case ParameterKind::file: {
        std::string text = "a file in the effect's own folder or below it, ending in";
        for (const std::string_view ending : parameter.choices) {
            text += " ." + std::string(ending);
        }
        return text + ", or nothing";
    }
    }
    return {};
}

bool is_text(ParameterKind kind) {
    return kind == ParameterKind::look || kind == ParameterKind::texture || kind == ParameterKind::file ||
           kind == ParameterKind::number_of || names_element(kind);
}

bool names_element(ParameterKind kind) {
    return kind == ParameterKind::source || kind == ParameterKind::emitter ||
           kind == ParameterKind::breakable || kind == ParameterKind::place || kind == ParameterKind::actor;
}

bool can_do(const Effect& effect, std::string_view id, TriggerThen then) {
    const Element* element = find_element(effect, id);
    const bool has_only_numbers = id == stage_id || find_look(effect, id) != nullptr;
    return element != nullptr ? can_do(*element, then) : has_only_numbers && then == TriggerThen::set;
}

std::vector<const Parameter*> settable_numbers(const Holder& holder) {
    std::vector<const Parameter*> numbers;
    for (const Parameter& parameter : holder.parameters) {
        if (parameter.kind == ParameterKind::number && !parameter.is_fixed) {
            numbers.push_back(&parameter);
        }
    }
    return numbers;
}

bool may_name(ParameterKind kind, const Element& element) {
    switch (kind) {
    case ParameterKind::source:
        return family_of(element.body) == Family::source;
    case ParameterKind::emitter:
        return std::holds_alternative<Emitter>(element.body);
    case ParameterKind::breakable:
        return std::holds_alternative<Breakable>(element.body);
    case ParameterKind::place:
        return place_of(element.body) != nullptr;
    case ParameterKind::actor: // what it can do is a question of its own: see can_do()
        return family_of(element.body) != Family::trigger;
    default:
        return false;
    }
}

bool does_apply(const Parameter& parameter, const void* holder) {
    return parameter.applies == nullptr || parameter.applies(holder);
}

std::string text_of(float number) {
    return digits_of(number);
}

Value default_of(const Holder& holder, const Parameter& parameter) {
    static const Look look;
    static const Texture texture;
    static const Stage stage;
    static const Budget budget;
    if (holder.parameters.data() == look_parameters().data()) {
        return parameter.get(&look);
    }
    if (holder.parameters.data() == texture_parameters().data()) {
        return parameter.get(&texture);
    }
    if (holder.parameters.data() == stage_parameters().data()) {
        return parameter.get(&stage);
    }
    if (holder.parameters.data() == budget_parameters().data()) {
        return parameter.get(&budget);
    }
    for (const ElementType& type : element_types()) {
        if (type.parameters.data() == holder.parameters.data()) {
            return std::visit([&](const auto& body) { return parameter.get(&body); }, type.prototype);
        }
    }
    return parameter.get(holder.object);
}

} // namespace ember
