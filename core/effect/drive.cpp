#include "core/effect/drive.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

Value with_part(Value value, int part, float number) {
    if (auto* range = std::get_if<Range>(&value)) {
        (part == 0 ? range->low : range->high) = number;
        // The end that is not driven gives way.
        (part == 0 ? range->high : range->low) =
            part == 0 ? std::max(range->high, number) : std::min(range->low, number);
    } else if (auto* vector = std::get_if<Vec3>(&value)) {
        (part == 0 ? vector->x : part == 1 ? vector->y : vector->z) = number;
    } else {
        value = number;
    }
    return value;
}

} // namespace

int driven_parts(const Parameter& parameter) {
    if (parameter.is_fixed) {
        return 0;
    }
    switch (parameter.kind) {
    case ParameterKind::number:
        return 1;
    case ParameterKind::range:
        return 2;
    case ParameterKind::vector:
        return 3;
    default:
        return 0;
    }
}

std::string_view part_name(const Parameter& parameter, int part) {
    if (parameter.kind == ParameterKind::range) {
        return part == 0 ? "low" : "high";
    }
    return parameter.kind == ParameterKind::vector ? std::string_view("xyz").substr(size_t(part), 1) : "";
}

float part_of(const Value& value, int part) {
    if (const auto* range = std::get_if<Range>(&value)) {
        return part == 0 ? range->low : range->high;
    }
    if (const auto* vector = std::get_if<Vec3>(&value)) {
        return part == 0 ? vector->x : part == 1 ? vector->y : vector->z;
    }
    return std::get<float>(value);
}

const Drive* find_drive(const Effect& effect, std::string_view holder, std::string_view parameter, int part) {
    const auto found = std::find_if(effect.drives.begin(), effect.drives.end(), [&](const Drive& drive) {
        return drive.holder == holder && drive.parameter == parameter && drive.part == part;
    });
    return found == effect.drives.end() ? nullptr : &*found;
}

float driven_number(const Drive& drive, const Parameter& parameter, float modulator) {
    const float number = drive.low + (drive.high - drive.low) * modulator;
    return std::clamp(number, float(parameter.hard_low), float(parameter.hard_high));
}

void drive_number(const Drive& drive, const Parameter& parameter, float modulator, void* holder) {
    parameter.set(holder,
                  with_part(parameter.get(holder), drive.part, driven_number(drive, parameter, modulator)));
}

Effect driven(const Effect& effect, const std::vector<ModulatorValue>& values) {
    Effect result = effect;
    for (const Drive& drive : effect.drives) {
        const auto value = std::find_if(values.begin(), values.end(),
                                        [&](const ModulatorValue& v) { return v.id == drive.modulator; });
        const auto holder = find_holder(result, drive.holder);
        if (value == values.end() || !holder) {
            continue;
        }
        drive_number(drive, *holder->find(drive.parameter), value->value,
                     const_cast<void*>(holder->object)); // of `result`, which is ours
    }
    return result;
}

std::optional<std::string> refusal_of(const Effect& effect, const Drive& drive) {
    const auto holder = find_holder(effect, drive.holder);
    const Parameter* parameter = holder ? holder->find(drive.parameter) : nullptr;
    if (parameter == nullptr || drive.part < 0 || drive.part >= driven_parts(*parameter)) {
        return "a parameter that can be driven, of something in this effect";
    }
    const Element* modulator = find_element(effect, drive.modulator);
    if (modulator == nullptr || family_of(modulator->body) != Family::modulator ||
        drive.modulator == drive.holder) {
        return "the id of a modulator of this effect, and not of the driven one itself";
    }
    const auto fits = [&](float a) {
        return std::isfinite(a) && double(a) >= parameter->hard_low && double(a) <= parameter->hard_high;
    };
    if (!fits(drive.low) || !fits(drive.high)) {
        return "a range within " + expectation_of(*parameter);
    }
    return std::nullopt;
}

} // namespace ember
