// Files, read whole and written whole.
#pragma once

#include "core/base/problem.h"

#include <cstdint>
#include <filesystem>
#include <functional>
#include <optional>
#include <ostream>
#include <string>

namespace ember {

/// The bytes of a file of at most `most_bytes`, or nothing and a problem.
std::optional<std::string> read_file(const std::filesystem::path& path, uint64_t most_bytes,
                                     Problems& problems);

/// Writes to a temporary file beside `path`, flushes it to disk, then renames it over `path`: there is never
/// a half-written file, and on failure the old one is untouched. Returns nothing, or the problem.
std::optional<Problem> write_file(const std::filesystem::path& path,
                                  const std::function<void(std::ostream&)>& content);

} // namespace ember
