// Effect files: what is read is written and read again as the same.
#include "fuzz/file_of_bytes.h"

#include "core/effect/effect_file.h"

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(bytes), size);
    const ReadResult read = parse_effect(text, "fuzz");
    fuzz::must_say_why(read.effect.has_value(), read.problems);
    if (read.is_sound()) {
        const std::string written = effect_text(*read.effect);
        const ReadResult again = parse_effect(written, "again");
        fuzz::must(again.is_sound(), "what was written is sound");
        fuzz::must(effect_text(*again.effect) == written, "what was written is read as it was");
    }
    return 0;
}
