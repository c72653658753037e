#include "cli/opening.h"

#include "core/budget/expected.h"

#include <algorithm>
#include <charconv>
#include <cmath>
#include <iostream>
#include <unistd.h>

namespace ember {

int refuse(const Problems& problems) {
    for (const Problem& problem : problems) {
        std::cerr << problem.text() << "\n";
    }
    return exit_bad_input;
}

// What was printed has arrived, or the exit code says that it has not.
int said() {
    std::cout.flush();
    if (std::cout) {
        return exit_fine;
    }
    std::cerr << "standard output: cannot be written; is its disk full?\n";
    return exit_bad_input;
}

// Reads the files that an effect names, with progress where somebody watches.
LoadResult load_assets(const Effect& effect, const std::string& path) {
    Progress progress;
    const bool shown = isatty(STDERR_FILENO) != 0;
    if (shown) {
        progress.report = [](const std::string& what, float share) {
            std::cerr << "\r" << what << " " << int(share * 100) << " % " << std::flush;
            return true;
        };
    }
    AssetLibrary library;
    LoadResult loaded = library.load(effect, std::filesystem::path(path).parent_path(), progress);
    if (shown) {
        std::cerr << "\r\x1b[K";
    }
    return loaded;
}

std::optional<Take> read_take(const std::string& file, const std::string& name, Problems& problems) {
    ReadTakes read = read_takes(file);
    problems = std::move(read.problems);
    std::string names;
    for (const Take& take : read.takes) {
        names += (names.empty() ? "" : ", ") + take.name;
    }
    const auto found = name.empty() ? (read.takes.empty() ? read.takes.end() : std::prev(read.takes.end()))
                                    : std::find_if(read.takes.begin(), read.takes.end(),
                                                   [&](const Take& take) { return take.name == name; });
    if (found == read.takes.end()) {
        if (problems.empty()) {
            problems.push_back({file, 0, "--take-name", "\"" + name + "\"",
                                names.empty() ? "a file with takes in it" : "one of: " + names});
        }
        return std::nullopt;
    }
    return std::move(*found);
}

std::optional<double> parsed_number(const std::string& text) {
    double number = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), number);
    return error == std::errc() && end == text.data() + text.size() && std::isfinite(number)
               ? std::optional(number)
               : std::nullopt;
}

// What the user should know although the effect runs.
void tell_notes(const Effect& effect, const Problems& notes) {
    for (const Problem& note : notes) {
        std::cerr << "note: " << note.text() << "\n";
    }
    const std::vector<ExpectedCount> expected = expected_counts(effect);
    for (size_t i = 0; i < expected.size(); ++i) {
        if (const auto excess = expected_excess(effect, i, expected[i])) {
            std::cerr << "note: " << effect.elements[i].id << ": " << *excess << "\n";
        }
    }
}

} // namespace ember
