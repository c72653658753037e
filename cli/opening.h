// What the commands share: opening an effect with its files, and saying what is wrong.
#pragma once

#include "cli/commands.h"

#include "core/assets/assets.h"
#include "core/runtime/take.h"

namespace ember {

/// Says the problems; the exit code for them.
int refuse(const Problems& problems);

/// What was printed has arrived, or the exit code says that it has not.
int said();

/// Reads the files that an effect names, with progress where somebody watches.
LoadResult load_assets(const Effect& effect, const std::string& path);

/// The take of a file that has this name; the last if that is empty. Nothing, and why, if there is none.
std::optional<Take> read_take(const std::string& file, const std::string& name, Problems& problems);

/// A finite number, written as programs write it; nothing if it is none.
std::optional<double> parsed_number(const std::string& text);

/// What the user should know although the effect runs.
void tell_notes(const Effect& effect, const Problems& notes);

} // namespace ember
