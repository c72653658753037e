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

} // namespace ember
