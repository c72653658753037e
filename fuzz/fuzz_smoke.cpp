// Frames of clips: smoke as OpenVDB, read in a process of their own.
#include "fuzz/file_of_bytes.h"

#include "core/assets/smoke_clip.h"

#include <cmath>

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    static const fuzz::FileOfBytes file(".vdb");
    Problems problems;
    const auto clip = read_smoke_clip(file.holding(bytes, size), 1, problems);
    fuzz::must_say_why(clip.has_value(), problems);
    if (clip) {
        const SmokeClipFrame* frame = &clip->frames.at(0);
        fuzz::must(frame->density.size() == frame->voxels(), "all voxels are there");
        fuzz::must(frame->heat.empty() || frame->heat.size() == frame->voxels(), "and their heat");
        fuzz::must(std::isfinite(frame->low.x + frame->low.y + frame->low.z), "it lies somewhere");
    }
    return 0;
}
