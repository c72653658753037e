#include "core/base/file.h"

#include <cerrno>
#include <cstring>
#include <fcntl.h>
#include <fstream>
#include <system_error>
#include <unistd.h>

namespace ember {

namespace {

// Flushes what the system holds back of a file that has been written and closed.
bool flush_to_disk(const std::filesystem::path& path) {
    const int descriptor = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    if (descriptor < 0) {
        return false;
    }
    const bool flushed = ::fsync(descriptor) == 0;
    ::close(descriptor);
    return flushed;
}

} // namespace

std::optional<std::string> read_file(const std::filesystem::path& path, uint64_t most_bytes,
                                     Problems& problems) {
    std::error_code error;
    const auto refuse = [&](std::string found, std::string expected) {
        problems.push_back({path.string(), 0, "", std::move(found), std::move(expected)});
        return std::nullopt;
    };
    if (!std::filesystem::exists(path, error)) {
        return refuse("no such file", "the path of an existing file");
    }
    if (!std::filesystem::is_regular_file(path, error)) {
        return refuse("a folder or device", "a file");
    }
    const uint64_t size = std::filesystem::file_size(path, error);
    if (error || size > most_bytes) {
        return refuse(std::to_string(size) + " bytes", "at most " + std::to_string(most_bytes) + " bytes");
    }
    std::ifstream stream(path, std::ios::binary);
    std::string bytes(size, '\0');
    if (!stream.read(bytes.data(), std::streamsize(size))) {
        return refuse(std::string("a file that cannot be read (") + std::strerror(errno) + ")",
                      "a file you may read");
    }
    return bytes;
}

std::optional<Problem> write_file(const std::filesystem::path& path,
                                  const std::function<void(std::ostream&)>& content) {
    std::filesystem::path temporary = path;
    temporary += ".part" + std::to_string(::getpid());
    const auto refuse = [&](const std::string& why) {
        std::error_code ignored;
        std::filesystem::remove(temporary, ignored);
        return Problem{path.string(), 0, "", "a place that cannot be written (" + why + ")",
                       "a folder you may write to, with room left; the file is as it was"};
    };

    std::ofstream stream(temporary, std::ios::binary | std::ios::trunc);
    if (!stream) {
        return refuse(std::strerror(errno));
    }
    content(stream);
    stream.close();
    if (!stream || !flush_to_disk(temporary)) {
        return refuse(std::strerror(errno));
    }
    std::error_code error;
    std::filesystem::rename(temporary, path, error);
    if (error) {
        return refuse(error.message());
    }
    return std::nullopt;
}

} // namespace ember
