// Values of parameters as JSON.
#pragma once

#include "core/effect/located_json.h"
#include "core/effect/parameter.h"

namespace ember {

/// The shortest number that reads back the same.
Json json_number(float number);

Json json_of(const Parameter& parameter, const Value& value);

/// The value if the JSON has the shape that the parameter's kind needs; ranges are not checked here.
std::optional<Value> value_from(const Parameter& parameter, const Json& json);

/// The curves of a track of this parameter, from its member "keys" (of what switches) or "curves"; empty if
/// neither has that shape. Times and values are not checked here.
std::vector<Curve> curves_from(const Parameter& parameter, const Json& track);

} // namespace ember
