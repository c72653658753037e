// Drives: a modulator sets a parameter, over a range.
#pragma once

#include "core/effect/parameter.h"

#include <string>
#include <string_view>
#include <vector>

namespace ember {

/// A modulator's value at a moment.
struct ModulatorValue {
    std::string id;
    float value = 0;
};

/// How many numbers of a parameter can be driven, each by itself: one, the two ends of a range, the three
/// parts of a vector; 0 for what cannot be driven.
int driven_parts(const Parameter& parameter);
/// "", "low", "high", "x", "y", "z".
std::string_view part_name(const Parameter& parameter, int part);
float part_of(const Value& value, int part);

const Drive* find_drive(const Effect& effect, std::string_view holder, std::string_view parameter, int part);

/// The number that a drive sets, for its modulator's value.
float driven_number(const Drive& drive, const Parameter& parameter, float modulator);

/// Sets that number in the object that holds the parameter.
void drive_number(const Drive& drive, const Parameter& parameter, float modulator, void* holder);

/// The effect with all driven parameters as the modulators have them. Drives whose modulator is not among
/// `values` (it is muted) rest: their parameters keep their own values.
Effect driven(const Effect& effect, const std::vector<ModulatorValue>& values);

/// Why a drive cannot be in an effect (nothing to drive, no modulator, ends out of range); nothing if it can.
std::optional<std::string> refusal_of(const Effect& effect, const Drive& drive);

} // namespace ember
