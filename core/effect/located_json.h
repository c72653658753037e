// JSON that remembers on which line each value stands.
#pragma once

#include "core/base/problem.h"

#include <nlohmann/json.hpp>

#include <map>
#include <optional>
#include <string>
#include <string_view>

namespace ember {

using Json = nlohmann::ordered_json;

/// A place in a document: a JSON pointer. "" is the whole.
std::string child_place(const std::string& place, std::string_view key);
std::string child_place(const std::string& place, size_t index);

struct LocatedJson {
    std::string file;
    Json root;
    std::map<std::string, int> lines; // JSON pointer -> line, from 1
    Problems notes;                   // members that stand twice; the last one counts

    /// With the line of the place, or of what holds it.
    Problem problem_at(const std::string& place, std::string found, std::string expected) const;
};

/// Nothing and a problem if the text is not JSON, is nested deeper than 32, has more than 4,096 members in
/// one object or more than 500,000 values in all.
std::optional<LocatedJson> parse_located(std::string_view text, const std::string& file, Problems& problems);

/// A short rendering of a value for messages.
std::string excerpt(const Json& value);

/// Lists of plain values on one line, everything else on a line each, indented by two.
std::string pretty(const Json& value);

} // namespace ember
