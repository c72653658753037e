#include "core/base/file.h"

#include <array>
#include <atomic>
#include <cerrno>
#include <csignal>
#include <cstdlib>
#include <cstring>
#include <fcntl.h>
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

// What a signal has to remove: names of temporary files, at fixed places, since a handler may not allocate.
constexpr size_t most_unfinished = 16;
constexpr size_t longest_path = 4096;
struct Unfinished {
    std::atomic<bool> is_used = false;
    std::atomic<bool> is_written = false;
    char path[longest_path] = {};
};
std::array<Unfinished, most_unfinished> unfinished;

void remember_unfinished(const std::string& path) {
    for (Unfinished& one : unfinished) {
        if (path.size() < longest_path && !one.is_used.exchange(true)) {
            std::memcpy(one.path, path.c_str(), path.size() + 1);
            one.is_written = true;
            return;
        }
    }
}

void forget_unfinished(const std::string& path) {
    for (Unfinished& one : unfinished) {
        if (one.is_written && path == one.path) {
            one.is_written = false;
            one.is_used = false;
        }
    }
}

extern "C" void end_by_signal(int signal) {
    for (const Unfinished& one : unfinished) {
        if (one.is_written) {
            ::unlink(one.path);
        }
    }
    std::signal(signal, SIG_DFL);
    std::raise(signal);
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

GrowingFile::GrowingFile(const std::filesystem::path& path) : path_(path), target_(path) {
    std::error_code error;
    // A link is followed to what it names, which need not be there yet.
    for (int links = 0; std::filesystem::is_symlink(target_, error) && links < 40; ++links) {
        const std::filesystem::path next = std::filesystem::read_symlink(target_, error);
        target_ = next.is_absolute() ? next : target_.parent_path() / next;
    }
    if (std::filesystem::is_directory(target_, error)) {
        problem_ = refusal("it is a folder");
        return;
    }
    const bool is_device =
        std::filesystem::exists(target_, error) && !std::filesystem::is_regular_file(target_, error);
    if (!is_device) {
        temporary_ = target_;
        temporary_ += ".part" + std::to_string(::getpid());
        remember_unfinished(temporary_.string());
    }
    stream_.open(is_device ? target_ : temporary_, std::ios::binary | std::ios::trunc);
    if (!stream_) {
        problem_ = refusal(std::strerror(errno));
    }
}

GrowingFile::~GrowingFile() {
    if (!temporary_.empty()) {
        std::error_code ignored;
        stream_.close();
        std::filesystem::remove(temporary_, ignored);
        forget_unfinished(temporary_.string());
    }
}

Problem GrowingFile::refusal(const std::string& why) const {
    return {path_.string(), 0, "", "a place that cannot be written (" + why + ")",
            "a folder you may write to, with room left; the file is as it was"};
}

std::optional<Problem> GrowingFile::keep() {
    if (problem_) {
        return problem_;
    }
    stream_.close();
    if (!stream_ || (!temporary_.empty() && !flush_to_disk(temporary_))) {
        return refusal(std::strerror(errno));
    }
    if (temporary_.empty()) {
        return std::nullopt;
    }
    std::error_code error;
    std::filesystem::rename(temporary_, target_, error);
    if (error) {
        return refusal(error.message());
    }
    forget_unfinished(temporary_.string());
    temporary_.clear();
    return std::nullopt;
}

std::optional<Problem> write_file(const std::filesystem::path& path,
                                  const std::function<void(std::ostream&)>& content) {
    GrowingFile file(path);
    if (file.problem()) {
        return file.problem();
    }
    content(file.stream());
    return file.keep();
}

std::optional<Problem> refusal_to_write(const std::filesystem::path& path) {
    std::error_code error;
    const auto refuse = [&](const std::string& why) {
        return Problem{path.string(), 0, "", "a place that cannot be written (" + why + ")",
                       "a folder you may write to"};
    };
    if (std::filesystem::is_directory(path, error)) {
        return refuse("it is a folder");
    }
    const std::filesystem::path target =
        std::filesystem::exists(path, error) ? std::filesystem::canonical(path, error) : path;
    if (std::filesystem::exists(target, error) && !std::filesystem::is_regular_file(target, error)) {
        return ::access(target.c_str(), W_OK) == 0 ? std::nullopt
                                                   : std::optional(refuse(std::strerror(errno)));
    }
    const std::filesystem::path folder = target.has_parent_path() ? target.parent_path() : ".";
    if (!std::filesystem::is_directory(folder, error)) {
        return refuse("there is no such folder");
    }
    if (::access(folder.c_str(), W_OK | X_OK) != 0) {
        return refuse(std::strerror(errno));
    }
    return std::nullopt;
}

void remove_unfinished_on_signals() {
    for (const int signal : {SIGINT, SIGTERM, SIGHUP}) {
        std::signal(signal, end_by_signal);
    }
}

} // namespace ember
