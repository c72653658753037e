#include "core/assets/smoke_clip.h"

#include "core/assets/clip_files.h"

#include <algorithm>

namespace ember {

namespace {

Vec3 middle_of(const std::vector<SmokeClipFrame>& frames) {
    Vec3 low = {1e30f, 1e30f, 1e30f}, high = low * -1;
    for (const SmokeClipFrame& frame : frames) {
        if (frame.tells_middle) {
            return frame.middle;
        }
        if (frame.voxels() > 0) {
            const Vec3 last =
                frame.low + Vec3{float(frame.x - 1), float(frame.y - 1), float(frame.z - 1)} * frame.cell;
            low = {std::min(low.x, frame.low.x), std::min(low.y, frame.low.y), std::min(low.z, frame.low.z)};
            high = {std::max(high.x, last.x), std::max(high.y, last.y), std::max(high.z, last.z)};
        }
    }
    return low.x <= high.x ? (low + high) * 0.5f : Vec3();
}

} // namespace

std::optional<SmokeClip> read_smoke_clip(const std::filesystem::path& first, int volume, Problems& problems,
                                         const Progress& progress) {
    SmokeClip clip;
    clip.frames_per_s = clip_frames_per_s(first);
    size_t voxels = 0;
    const std::vector<std::filesystem::path> paths = clip_files(first);
    for (const std::filesystem::path& path : paths) {
        if (!progress.goes_on("Reading " + path.filename().string(),
                              float(clip.frames.size()) / float(paths.size()))) {
            return std::nullopt;
        }
        auto frame = read_smoke(path, volume, problems);
        if (!frame) {
            return std::nullopt;
        }
        voxels += frame->voxels();
        if (voxels > most_smoke_clip_voxels) {
            problems.push_back({path.string(), 0, "",
                                "more than " + std::to_string(most_smoke_clip_voxels / 1'000'000) +
                                    " million voxels in all frames",
                                "a shorter clip, fewer frames a second, or larger voxels"});
            return std::nullopt;
        }
        clip.frames.push_back(std::move(*frame));
    }
    clip.middle = middle_of(clip.frames);
    return clip;
}

} // namespace ember
