// Frames of clips: particles as PLY.
#include "fuzz/file_of_bytes.h"

#include "core/assets/clip.h"

#include <cmath>

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    Problems problems;
    const auto frame = parse_clip_frame({reinterpret_cast<const char*>(bytes), size}, "it.ply", problems);
    fuzz::must_say_why(frame.has_value(), problems);
    if (frame) {
        for (const ClipParticle& particle : *frame) {
            fuzz::must(std::isfinite(particle.place.x + particle.place.y + particle.place.z),
                       "places are finite");
            fuzz::must(particle.size >= 0 && particle.lifetime >= 0, "sizes and lifetimes are not negative");
        }
    }
    return 0;
}
