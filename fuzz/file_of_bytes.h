// The bytes that a fuzzer made, as a file; and what holds for all that is read from one.
#pragma once

#include "core/base/problem.h"

#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <unistd.h>

namespace ember::fuzz {

/// One file of this process, written anew each time.
class FileOfBytes {
  public:
    explicit FileOfBytes(const char* ending)
        : path_(std::filesystem::temp_directory_path() /
                ("crisp-ember-fuzz-" + std::to_string(::getpid()) + ending)) {}
    ~FileOfBytes() { std::filesystem::remove(path_); }

    const std::filesystem::path& holding(const uint8_t* bytes, size_t size) const {
        std::ofstream(path_, std::ios::binary | std::ios::trunc)
            .write(reinterpret_cast<const char*>(bytes), std::streamsize(size));
        return path_;
    }

  private:
    std::filesystem::path path_;
};

inline void must(bool holds, const char* what) {
    if (!holds) {
        std::fprintf(stderr, "broken promise: %s\n", what);
        std::abort();
    }
}

/// What is refused says why.
inline void must_say_why(bool is_read, const Problems& problems) {
    must(is_read || !problems.empty(), "what is refused says why");
}

} // namespace ember::fuzz
