// Effect files: JSON, described in docs/effect-format.md (which describe_format() writes).
//
//     ReadResult read = read_effect("demo/saltworks/sluice-spray.ember.json");
//     if (!read.problems.empty()) { ... show them; read.effect holds what is sound ... }
#pragma once

#include "core/base/problem.h"
#include "core/effect/parameter.h"

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>

namespace ember {

/// What stands under "format" in every file.
constexpr std::string_view effect_format_name = "crisp-ember effect";
/// The newest version of the format that this program reads, and the one it writes.
constexpr int effect_format_version = 3;

struct ReadResult {
    /// What is sound in the file: the whole effect if there are no problems. Nothing if the file is not an
    /// effect at all.
    std::optional<Effect> effect;
    Problems problems;
    Problems notes; // what is read as it stands, but hardly as it was meant: unknown parameters, members that
                    // stand twice

    bool is_sound() const { return effect && problems.empty(); }
};

/// Members that this version does not know are kept and written back; they are not problems.
ReadResult read_effect(const std::filesystem::path& path);
ReadResult parse_effect(std::string_view text, const std::string& file_name);

/// The whole file, ending in a newline. Lists of numbers stand on one line, everything else on a line each.
std::string effect_text(const Effect& effect);

std::optional<Problem> save_effect(const Effect& effect, const std::filesystem::path& path);

/// A value as it stands in a file, and back. `text` may also be a bare word for choices and looks.
std::string value_text(const Parameter& parameter, const Value& value);
std::optional<Value> parse_value(const Parameter& parameter, std::string_view text);

/// docs/effect-format.md.
std::string describe_format();

} // namespace ember
