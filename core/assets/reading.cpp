// Meshes, vector grids and images are read by a program of their own, crisp-ember-reader, which lies beside
// this one. It has a limit of memory and of processor time, and hands over plain arrays; if it dies, hangs or
// grows, the file is refused with that reason, and nothing happens to this program.
#include "core/assets/files.h"
#include "core/assets/image.h"
#include "core/assets/mesh_file.h"
#include "core/assets/piece_reading.h"
#include "core/assets/vector_grid.h"
#include "core/assets/wire.h"
#include "core/assets/wire_parts.h"

#include <cerrno>
#include <chrono>
#include <cmath>
#include <csignal>
#include <cstring>
#include <dlfcn.h>
#include <fcntl.h>
#include <fstream>
#include <poll.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace ember {

namespace {

using Clock = std::chrono::steady_clock;

constexpr int result_descriptor = 3;
// How long it may do nothing at all: it waits for what does not come, such as a pipe that nobody writes to.
constexpr auto longest_wait = std::chrono::seconds(4);

std::filesystem::path reader_program() {
    std::error_code error;
    const std::filesystem::path own = std::filesystem::read_symlink("/proc/self/exe", error).parent_path();
    // Beside the program, or beside the library that this is part of; or where the program's package has it.
    std::vector<std::filesystem::path> folders = {own};
    if (Dl_info info; ::dladdr(reinterpret_cast<const void*>(&reader_program), &info) != 0) {
        folders.push_back(std::filesystem::weakly_canonical(info.dli_fname, error).parent_path());
    }
    for (const std::filesystem::path& folder : folders) {
        for (const char* place : {"crisp-ember-reader", "../reader/crisp-ember-reader",
                                  "crisp-ember/crisp-ember-reader", EMBER_INSTALLED_READER}) {
            if (std::filesystem::exists(folder / place, error)) {
                return folder / place;
            }
        }
    }
    return {};
}

// The reader while it runs; ends it at the latest when this goes.
class Child {
  public:
    // `arguments` begin with what is to be read as.
    Child(const std::vector<std::string>& arguments, const Progress& progress) : progress_(progress) {
        const std::filesystem::path program = reader_program();
        int ends[2];
        if (program.empty() || ::pipe2(ends, O_CLOEXEC) != 0) {
            return;
        }
        ::fcntl(ends[0], F_SETPIPE_SZ, 1 << 20);
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO}) {
            posix_spawn_file_actions_addopen(&actions, stream, "/dev/null",
                                             stream == STDIN_FILENO ? O_RDONLY : O_WRONLY, 0);
        }
        posix_spawn_file_actions_adddup2(&actions, ends[1], result_descriptor);
        std::vector<std::string> all = {program.string()};
        all.insert(all.end(), arguments.begin(), arguments.end());
        std::vector<char*> pointers;
        for (std::string& argument : all) {
            pointers.push_back(argument.data());
        }
        pointers.push_back(nullptr);
        if (posix_spawn(&process_, program.c_str(), &actions, nullptr, pointers.data(), environ) != 0) {
            process_ = -1;
        }
        posix_spawn_file_actions_destroy(&actions);
        ::close(ends[1]);
        from_ = ends[0];
        acted_ = Clock::now();
    }
    ~Child() {
        end();
        if (from_ >= 0) {
            ::close(from_);
        }
    }
    Child(const Child&) = delete;

    bool has_started() const { return process_ > 0; }
    bool is_cancelled() const { return is_cancelled_; }
    bool hangs() const { return hangs_; }
    void set_progress(const std::string& what, float share) {
        what_ = what;
        share_ = share;
    }

    // All of it, or false: it has ended, hangs, or is not wanted any more.
    bool read(void* to, size_t size) {
        auto* at = static_cast<char*>(to);
        while (size > 0) {
            pollfd waiting = {from_, POLLIN, 0};
            const int ready = ::poll(&waiting, 1, 50);
            if (ready < 0 && errno != EINTR) {
                return false;
            }
            if (ready <= 0) {
                is_cancelled_ = is_cancelled_ || !progress_.goes_on(what_, share_);
                hangs_ = hangs_ || does_nothing();
                if (is_cancelled_ || hangs_) {
                    return false;
                }
                continue;
            }
            const ssize_t got = ::read(from_, at, size);
            if (got <= 0) {
                return false;
            }
            at += got;
            size -= size_t(got);
            acted_ = Clock::now();
        }
        return true;
    }

    // How it ended, as waitpid() says; ends it if it has not.
    int end() {
        if (process_ > 0) {
            if (is_cancelled_ || hangs_) {
                ::kill(process_, SIGKILL);
            }
            ::close(from_);
            from_ = -1;
            ::waitpid(process_, &status_, 0);
            process_ = -1;
        }
        return status_;
    }

  private:
    // Whether it has used no processor time for long.
    bool does_nothing() {
        std::ifstream facts("/proc/" + std::to_string(process_) + "/stat");
        std::string text((std::istreambuf_iterator<char>(facts)), {});
        text = text.substr(std::min(text.rfind(')') + 2, text.size()));
        // Behind the name: state, and eleven numbers on, the ticks in the program and in the system.
        size_t at = 0;
        for (int field = 0; field < 11 && at != std::string::npos; ++field) {
            at = text.find(' ', at);
            at = at == std::string::npos ? at : at + 1;
        }
        const std::string ticks = at == std::string::npos ? "" : text.substr(at, 40);
        if (ticks != ticks_) {
            ticks_ = ticks;
            acted_ = Clock::now();
        }
        return Clock::now() - acted_ > longest_wait;
    }

    const Progress& progress_;
    pid_t process_ = -1;
    int from_ = -1, status_ = 0;
    bool is_cancelled_ = false, hangs_ = false;
    std::string what_, ticks_;
    float share_ = 0;
    Clock::time_point acted_;
};

// Why a reader that said nothing more has ended.
std::string reason_of(int status, bool hangs) {
    if (hangs) {
        return "a file whose reading waits for something that does not come";
    }
    if (WIFSIGNALED(status)) {
        return WTERMSIG(status) == SIGXCPU || WTERMSIG(status) == SIGKILL
                   ? "a file whose reading takes too much time or memory"
                   : "a file on which its reading fails (" + std::string(strsignal(WTERMSIG(status))) + ")";
    }
    return WEXITSTATUS(status) == 3 ? "a file whose reading takes too much memory"
                                    : "a file on which its reading fails";
}

// Asks the reader.
template <class Result>
std::optional<Result> ask(const std::vector<std::string>& arguments, const std::filesystem::path& path,
                          const std::string& expected, Problems& problems, const Progress& progress = {}) {
    const auto refuse = [&](const std::string& found) {
        problems.push_back({path.string(), 0, "", found, expected});
        return std::nullopt;
    };
    std::error_code error;
    if (!std::filesystem::exists(path, error)) {
        return refuse("no such file");
    }
    if (!std::filesystem::is_regular_file(path, error)) {
        return refuse("a folder, pipe or device");
    }
    Child child(arguments, progress);
    if (!child.has_started()) {
        problems.push_back({path.string(), 0, "",
                            "crisp-ember-reader, which reads such files, cannot be started",
                            "it to lie beside this program"});
        return std::nullopt;
    }
    child.set_progress("Reading " + path.filename().string(), 0);
    WireReader<Child> wire(child);
    for (WireMark mark{}; wire.get(mark);) {
        if (mark == WireMark::progress) {
            std::string what;
            float share = 0;
            if (!wire.get(what) || !wire.get(share)) {
                break;
            }
            child.set_progress(what, share);
            if (!progress.goes_on(what, share)) {
                return std::nullopt;
            }
        } else if (mark == WireMark::problem) {
            Problem problem;
            if (!wire.get(problem)) {
                break;
            }
            problems.push_back(std::move(problem));
        } else if (mark == WireMark::none) {
            return std::nullopt; // and it has said why
        } else {
            Result result;
            if (!WireParts<Result>::each(result, [&](auto& part) { return wire.get(part); })) {
                break;
            }
            return result;
        }
    }
    if (child.is_cancelled()) {
        return std::nullopt;
    }
    const bool hangs = child.hangs();
    return refuse(reason_of(child.end(), hangs));
}

} // namespace

std::optional<Mesh> read_mesh(const std::filesystem::path& path, Problems& problems,
                              const Progress& progress) {
    return ask<Mesh>({"mesh", path.string()}, path, "a whole mesh file (OBJ, PLY, STL, OFF or glTF)",
                     problems, progress);
}

std::optional<VectorGrid> read_vectors(const std::filesystem::path& path, int most_cells,
                                       Problems& problems) {
    return ask<VectorGrid>({"vectors", path.string(), std::to_string(most_cells)}, path,
                           "a whole OpenVDB file", problems);
}

std::optional<SmokeClip> read_smoke_clip(const std::filesystem::path& first, int volume, Problems& problems,
                                         const Progress& progress) {
    return ask<SmokeClip>({"smoke", first.string(), std::to_string(volume)}, first, "whole OpenVDB files",
                          problems, progress);
}

std::optional<PieceFile> read_pieces(const std::filesystem::path& path, double frames_per_s,
                                     Problems& problems, const Progress& progress) {
    return ask<PieceFile>({"pieces", path.string(), std::to_string(frames_per_s)}, path, "a whole glTF file",
                          problems, progress);
}

std::optional<Image> read_image(const std::filesystem::path& path, Problems& problems) {
    return ask<Image>({"image", path.string()}, path, "a whole PNG or OpenEXR image", problems);
}

std::optional<HeightImage> read_heights(const std::filesystem::path& path, Problems& problems) {
    return ask<HeightImage>({"heights", path.string()}, path, "a PNG image", problems);
}

} // namespace ember
