// Files, read whole and written whole.
#pragma once

#include "core/base/problem.h"

#include <cstdint>
#include <filesystem>
#include <fstream>
#include <functional>
#include <optional>
#include <ostream>
#include <string>

namespace ember {

/// The bytes of a plain file of at most `most_bytes`, or nothing and a problem.
std::optional<std::string> read_file(const std::filesystem::path& path, uint64_t most_bytes,
                                     Problems& problems);

/// A file that is written bit by bit and is there whole or not at all. What is written goes to a temporary
/// file beside the real one; keep() flushes it to disk and renames it over that. Links are followed; what is
/// no plain file (a pipe, a device) is written to as it is. Whatever is not kept is removed, also where a
/// signal ends the program (see remove_unfinished_on_signals()).
class GrowingFile {
  public:
    explicit GrowingFile(const std::filesystem::path& path);
    ~GrowingFile();
    GrowingFile(const GrowingFile&) = delete;
    GrowingFile& operator=(const GrowingFile&) = delete;

    /// Why it cannot be written; nothing if it can.
    std::optional<Problem> problem() const { return problem_; }
    std::ostream& stream() { return stream_; }
    /// Nothing, or why it could not be written after all; then the old file is untouched.
    std::optional<Problem> keep();

  private:
    Problem refusal(const std::string& why) const;

    std::filesystem::path path_, target_, temporary_; // as it was named, where that leads, empty for a device
    std::ofstream stream_;
    std::optional<Problem> problem_;
};

/// The same for what is written at once. Returns nothing, or the problem.
std::optional<Problem> write_file(const std::filesystem::path& path,
                                  const std::function<void(std::ostream&)>& content);

/// Why a path cannot be written, found without writing; nothing if it can.
std::optional<Problem> refusal_to_write(const std::filesystem::path& path);

/// Lets SIGINT, SIGTERM and SIGHUP remove what is not yet written whole before they end the program.
void remove_unfinished_on_signals();

} // namespace ember
