// A parameter is described once, in a table. JSON, checks, the detail panel, the command line and the docs
// all read that table; none of them has code for a single parameter.
#pragma once

#include "core/effect/effect.h"

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <type_traits>
#include <variant>
#include <vector>

namespace ember {

using Points = std::vector<Vec3>;

/// What a parameter holds. A choice holds its index.
using Value = std::variant<float, int, bool, Vec3, Range, Colour, Curve, Ramp, Points, std::string>;

enum class ParameterKind {
    number,
    count,
    toggle,
    choice,
    vector,
    range,
    colour,
    curve,
    ramp,
    points,
    look,      // the id of a look
    texture,   // the id of a texture, or empty
    source,    // the id of a source, or empty
    emitter,   // the id of an emitter, or empty
    breakable, // the id of a breakable, or empty; `choices` may have the word for that
    place,     // the id of an element that has a place, or empty
    actor,     // the id of an element that a trigger tells what to do, or empty
    number_of, // the key of a number of the element that a trigger tells, or empty
    file,      // a path relative to the effect file, or empty; `choices` are the endings
};

/// True for the kinds whose value is an id or a path.
bool is_text(ParameterKind kind);

/// True for the kinds whose value is the id of an element.
bool names_element(ParameterKind kind);

/// Whether a parameter of such a kind may name an element.
bool may_name(ParameterKind kind, const Element& element);

struct Parameter {
    std::string_view key;   // in files and on the command line
    std::string_view label; // on the screen
    std::string_view group;
    std::string_view unit; // may be empty
    std::string_view help; // what it does and when to use it
    ParameterKind kind = ParameterKind::number;
    double hard_low = 0; // numbers outside are refused
    double hard_high = 0;
    double soft_low = 0; // the slider's ends
    double soft_high = 0;
    std::span<const std::string_view> choices = {};
    bool is_fixed = false; // acts only when it is set, or costs much when it changes: nothing drives it
    bool (*applies)(const void* holder) = nullptr; // whether it has an effect as things are; nullptr: always

    Value (*get)(const void* holder) = nullptr;
    void (*set)(void* holder, const Value& value) = nullptr; // `value` has passed refusal_of()
};

/// What a kind of element is, as one row.
struct ElementType {
    std::string_view key;   // "turbulence"
    std::string_view label; // "Turbulence"
    std::string_view help;
    std::span<const Parameter> parameters;
    ElementBody prototype;
};

/// All element types, in the order in which they are offered.
std::span<const ElementType> element_types();
const ElementType& type_of(const ElementBody& body);
const ElementType* find_type(std::string_view key);

std::span<const Parameter> look_parameters();
/// What looks are drawn as, in the order of Drawing.
std::span<const std::string_view> drawing_names();
std::span<const Parameter> texture_parameters();
std::span<const Parameter> stage_parameters();
std::span<const Parameter> budget_parameters();

/// Something that holds parameters: an element, a look, a texture, the stage or the budget.
struct Holder {
    const void* object = nullptr;
    std::span<const Parameter> parameters;
    std::string name;

    const Parameter* find(std::string_view key) const;
};

/// The ids under which the stage and the budget are found; no element or look may use them.
constexpr std::string_view stage_id = "stage";
constexpr std::string_view budget_id = "budget";

/// The holder with this id, or nothing.
std::optional<Holder> find_holder(const Effect& effect, std::string_view id);
Holder holder_of(const Element& element);
Holder holder_of(const Look& look);
Holder holder_of(const Texture& texture);

/// Whether what has this id can do what a trigger tells it: an element, or, if a number of it is set, also a
/// look or the stage.
bool can_do(const Effect& effect, std::string_view id, TriggerThen then);
/// The numbers that may be set while it runs.
std::vector<const Parameter*> settable_numbers(const Holder& holder);

/// Whether the parameter does anything while the holder's other parameters are as they are.
bool does_apply(const Parameter& parameter, const void* holder);

/// What would have been expected in place of a value that the parameter refuses (kind, hard range, not
/// finite, range upside down, unordered curve); nothing if the value is welcome.
std::optional<std::string> refusal_of(const Parameter& parameter, const Value& value);

/// "a number from 0 to 100 m/s^2" and the like.
std::string expectation_of(const Parameter& parameter);

/// The value a new element, look, stage or budget has.
Value default_of(const Holder& holder, const Parameter& parameter);

/// A number in the shortest form that reads back the same.
std::string text_of(float number);

} // namespace ember
