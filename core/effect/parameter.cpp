#include "core/effect/parameter.h"

#include <algorithm>
#include <charconv>
#include <cmath>

namespace ember {

namespace {

std::string text_of(double number) {
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, number).ptr;
    return {text, end};
}

std::string limits_of(const Parameter& parameter) {
    std::string text = " from " + text_of(parameter.hard_low) + " to " + text_of(parameter.hard_high);
    if (!parameter.unit.empty()) {
        text += " " + std::string(parameter.unit);
    }
    return text;
}

bool within(const Parameter& parameter, double number) {
    return std::isfinite(number) && number >= parameter.hard_low && number <= parameter.hard_high;
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
        return is(ParameterKind::curve) && in_order(curve.points) &&
               std::all_of(curve.points.begin(), curve.points.end(),
                           [this](const Curve::Point& point) { return within(parameter, point.value); });
    }
    bool operator()(const Ramp& ramp) const {
        return is(ParameterKind::ramp) && in_order(ramp.stops) &&
               std::all_of(ramp.stops.begin(), ramp.stops.end(),
                           [](const Ramp::Stop& stop) { return is_light(stop.colour); });
    }
    bool operator()(const std::string& text) const { return is(ParameterKind::look) && text.size() <= 200; }
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
        return "1 to 64 points [time, value], times growing from 0 to 1, values" + limits_of(parameter);
    case ParameterKind::ramp:
        return "1 to 64 stops [time, red, green, blue, opacity], times growing from 0 to 1, linear light "
               "from 0 to "
               "1000, opacity from 0 to 1";
    case ParameterKind::look:
        return "the id of a look of this effect";
    }
    return {};
}

std::string text_of(float number) {
    char text[32];
    const auto end = std::to_chars(text, text + sizeof text, number).ptr;
    return {text, end};
}

Value default_of(const Holder& holder, const Parameter& parameter) {
    static const Look look;
    static const Stage stage;
    static const Budget budget;
    if (holder.parameters.data() == look_parameters().data()) {
        return parameter.get(&look);
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
