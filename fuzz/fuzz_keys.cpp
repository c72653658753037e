// Keys of movers.
#include "fuzz/file_of_bytes.h"

#include "core/assets/files.h"

#include <cmath>

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    static const fuzz::FileOfBytes file(".csv");
    Problems problems;
    const auto keys = read_keys(file.holding(bytes, size), problems);
    fuzz::must_say_why(keys.has_value(), problems);
    if (keys) {
        fuzz::must(!keys->keys.empty(), "there is a key");
        for (const double time_s : {-1.0, 0.0, 0.5, 1e6}) {
            for (const bool loops : {false, true}) {
                const Key key = keys->at(time_s, loops);
                fuzz::must(std::isfinite(key.position.x + key.position.y + key.position.z),
                           "places are finite");
            }
        }
    }
    return 0;
}
