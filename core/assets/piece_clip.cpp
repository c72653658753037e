#include "core/assets/piece_clip.h"

#include "core/assets/clip_files.h"
#include "core/assets/files.h"
#include "core/assets/piece_reading.h"

#include <algorithm>
#include <cmath>

namespace ember {

PieceKey PieceClip::at(size_t piece, double frame) const {
    const size_t count = shapes->pieces.size();
    const auto first = size_t(std::clamp(frame, 0.0, double(frames() - 1)));
    const auto share = float(frame - double(first));
    const PieceKey& a = keys[first * count + piece];
    const PieceKey& b = keys[std::min(first + 1, frames() - 1) * count + piece];
    if (share <= 0 || a.size <= 0 || b.size <= 0) {
        return a;
    }
    return {a.place + (b.place - a.place) * share, between(a.turn, b.turn, share),
            a.size + (b.size - a.size) * share};
}

std::optional<PieceClip> read_piece_clip(const std::filesystem::path& path, Problems& problems,
                                         const Progress& progress) {
    constexpr double usual = 60;
    auto file = read_pieces(path, clip_frames_per_s(path, usual), problems, progress);
    if (!file) {
        return std::nullopt;
    }
    PieceClip clip;
    clip.frames_per_s = file->frames_per_s;
    clip.keys = std::move(file->keys);
    auto shapes = std::make_shared<Cut>();
    auto corner = file->corners.begin(), normal = file->normals.begin();
    auto triangle = file->triangles.begin();
    for (const PieceFile::Piece& told : file->pieces) {
        Piece& piece = shapes->pieces.emplace_back();
        piece.mesh.corners.assign(corner, corner + told.corners);
        piece.mesh.normals.assign(normal, normal + told.corners);
        piece.mesh.triangles.assign(triangle, triangle + told.triangles);
        piece.outer = told.outer;
        for (const Vec3& each : piece.mesh.corners) {
            piece.radius = std::max(piece.radius, length(each));
        }
        shapes->triangles += told.triangles;
        clip.bodies.push_back(told.body);
        corner += told.corners;
        normal += told.corners;
        triangle += told.triangles;
    }
    clip.shapes = std::move(shapes);
    return clip;
}

} // namespace ember
