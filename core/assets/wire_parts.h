// What is handed over of each kind of file, in its order: one list for both ends of the wire.
#pragma once

#include "core/assets/clip_files.h"
#include "core/assets/files.h"
#include "core/assets/image.h"
#include "core/assets/piece_clip.h"
#include "core/assets/smoke_clip.h"
#include "core/assets/vector_grid.h"
#include "core/geometry/mesh.h"

#include <algorithm>
#include <type_traits>

namespace ember {

/// `each(value, visit)` calls visit with one part after the other, until it says false.
template <class T>
struct WireParts;

template <>
struct WireParts<Mesh> {
    static bool each(auto& mesh, auto visit) {
        return visit(mesh.corners) && visit(mesh.normals) && visit(mesh.triangles);
    }
};
template <>
struct WireParts<VectorGrid> {
    static bool each(auto& grid, auto visit) {
        return visit(grid.count) && visit(grid.low) && visit(grid.cell) && visit(grid.turn) &&
               visit(grid.values);
    }
};
template <>
struct WireParts<SmokeClipFrame> {
    static bool each(auto& frame, auto visit) {
        return visit(frame.x) && visit(frame.y) && visit(frame.z) && visit(frame.cell) && visit(frame.low) &&
               visit(frame.tells_middle) && visit(frame.middle) && visit(frame.density) && visit(frame.heat);
    }
};
template <>
struct WireParts<SmokeClip> {
    static bool each(auto& clip, auto visit) {
        auto count = uint32_t(clip.frames.size());
        if (!visit(clip.frames_per_s) || !visit(clip.middle) || !visit(count)) {
            return false;
        }
        if constexpr (!std::is_const_v<std::remove_reference_t<decltype(clip)>>) {
            clip.frames.resize(std::min(count, most_clip_files));
        }
        return std::all_of(clip.frames.begin(), clip.frames.end(),
                           [&](auto& frame) { return WireParts<SmokeClipFrame>::each(frame, visit); });
    }
};
template <>
struct WireParts<PieceFile> {
    static bool each(auto& file, auto visit) {
        return visit(file.pieces) && visit(file.corners) && visit(file.normals) && visit(file.triangles) &&
               visit(file.frames_per_s) && visit(file.keys);
    }
};
template <>
struct WireParts<Image> {
    static bool each(auto& image, auto visit) {
        return visit(image.width) && visit(image.height) && visit(image.pixels);
    }
};
template <>
struct WireParts<HeightImage> {
    static bool each(auto& image, auto visit) {
        return visit(image.width) && visit(image.height) && visit(image.values);
    }
};

} // namespace ember
