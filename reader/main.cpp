// crisp-ember-reader: reads one file with the library for its format and says on descriptor 3 what is in it.
// It is run by the other programs, which go on if it fails: see core/assets/reading.cpp.
//
//     crisp-ember-reader mesh|vectors|smoke|pieces|image|heights FILE [MOST-CELLS|VOLUME|FRAMES-A-SECOND]
#include "core/assets/clip_files.h"
#include "core/assets/decoding.h"
#include "core/assets/wire.h"
#include "core/assets/wire_parts.h"

#include <csignal>
#include <cstdlib>
#include <cstring>
#include <new>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <unistd.h>

namespace {

using namespace ember;

constexpr int result_descriptor = 3;
enum ExitCode { exit_fine = 0, exit_wrong_usage = 1, exit_no_memory = 3 };

struct Pipe {
    void write(const void* from, size_t size) {
        const auto* at = static_cast<const char*>(from);
        while (size > 0) {
            const ssize_t sent = ::write(result_descriptor, at, size);
            if (sent <= 0) {
                std::_Exit(exit_fine); // nobody listens any more
            }
            at += sent;
            size -= size_t(sent);
        }
    }
};

// Sanitizers reserve terabytes of addresses, and take their time.
#ifdef EMBER_WATCHED
constexpr bool is_watched = true;
#else
constexpr bool is_watched = false;
#endif

// By the size of the file: what a sound one may take, and not more.
void limit_resources(uint64_t file_bytes) {
    constexpr uint64_t megabyte = 1 << 20;
    constexpr uint64_t base_memory = 1500 * megabyte, memory_a_byte = 24;
    constexpr uint64_t base_s = is_watched ? 60 : 8, s_a_megabyte = is_watched ? 8 : 1;
    const auto limit = [](auto what, uint64_t most) {
        const rlimit both = {most, most};
        ::setrlimit(what, &both);
    };
    if (!is_watched) {
        limit(RLIMIT_AS, base_memory + memory_a_byte * file_bytes);
    }
    limit(RLIMIT_CPU, base_s + s_a_megabyte * file_bytes / megabyte);
    limit(RLIMIT_CORE, 0);
    limit(RLIMIT_FSIZE, 0);
    ::prctl(PR_SET_PDEATHSIG, SIGKILL);
    ::signal(SIGPIPE, SIG_IGN);
}

template <class Result>
int hand_over(WireWriter<Pipe>& wire, const std::optional<Result>& result, const Problems& problems) {
    for (const Problem& problem : problems) {
        wire.put(WireMark::problem);
        wire.put(problem);
    }
    wire.put(result ? WireMark::result : WireMark::none);
    if (result) {
        WireParts<Result>::each(*result, [&](const auto& part) {
            wire.put(part);
            return true;
        });
    }
    return exit_fine;
}

int read(const std::string& kind, const std::filesystem::path& path, double number) {
    Pipe pipe;
    WireWriter<Pipe> wire(pipe);
    Problems problems;
    Progress progress;
    progress.report = [&](const std::string& what, float share) {
        wire.put(WireMark::progress);
        wire.put(what);
        wire.put(share);
        return true;
    };
    if (kind == "mesh") {
        const auto mesh = decode_mesh(path, problems, progress);
        return hand_over(wire, mesh, problems);
    }
    if (kind == "vectors") {
        const auto grid = decode_vectors(path, int(number), problems);
        return hand_over(wire, grid, problems);
    }
    if (kind == "smoke") {
        const auto clip = decode_smoke(path, int(number), problems, progress);
        return hand_over(wire, clip, problems);
    }
    if (kind == "pieces") {
        const auto pieces = decode_pieces(path, number, problems);
        return hand_over(wire, pieces, problems);
    }
    if (kind == "image") {
        const auto image = decode_image(path, problems);
        return hand_over(wire, image, problems);
    }
    if (kind == "heights") {
        const auto image = decode_heights(path, problems);
        return hand_over(wire, image, problems);
    }
    return exit_wrong_usage;
}

} // namespace

int main(int argc, char** argv) {
    if (argc < 3) {
        return exit_wrong_usage;
    }
    uint64_t bytes = 0;
    const bool is_row = std::strcmp(argv[1], "smoke") == 0;
    for (const auto& path : is_row ? clip_files(argv[2]) : std::vector<std::filesystem::path>{argv[2]}) {
        std::error_code error;
        const uint64_t own = std::filesystem::file_size(path, error);
        bytes += error ? 0 : own;
    }
    limit_resources(bytes);
    try {
        // Nothing is to be cleaned up: the system does that faster.
        std::_Exit(read(argv[1], argv[2], argc > 3 ? std::atof(argv[3]) : 1));
    } catch (const std::bad_alloc&) {
        std::_Exit(exit_no_memory);
    }
}
