// Logs of inputs: what is read is written and read again as the same.
#include "fuzz/file_of_bytes.h"

#include "core/scene/input_log.h"

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    Problems problems;
    const auto log = InputLog::read({reinterpret_cast<const char*>(bytes), size}, "fuzz", problems);
    fuzz::must_say_why(log.has_value(), problems);
    if (log) {
        const std::string written = log->bytes();
        const auto again = InputLog::read(written, "again", problems);
        fuzz::must(again && again->bytes() == written, "what was written is read as it was");
        for (uint64_t step = 0; step < std::min<uint64_t>(log->end(), 1000); ++step) {
            fuzz::must(again->at(step) == log->at(step), "each step gets what it got");
        }
    }
    return 0;
}
