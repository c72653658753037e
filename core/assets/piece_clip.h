// Pieces that were baked, read again: one animated glTF file.
#pragma once

#include "core/base/axes.h"
#include "core/base/problem.h"
#include "core/base/progress.h"
#include "core/cutting/cut.h"

#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <vector>

namespace ember {

/// A piece in a frame.
struct PieceKey {
    Vec3 place; // m
    Quaternion turn;
    float size = 1; // of its own; 0: it is not there
};

/// What lies in a file: plain arrays, one piece after the other.
struct PieceFile {
    struct Piece {
        uint32_t corners = 0, triangles = 0, outer = 0; // how many
        uint32_t body = 0;                              // which node it is below of, in the file's order
    };
    std::vector<Piece> pieces;
    std::vector<Vec3> corners, normals; // about each piece's own zero
    std::vector<std::array<uint32_t, 3>> triangles;
    double frames_per_s = 60;
    std::vector<PieceKey> keys; // frame by frame, of all pieces
};

struct PieceClip {
    std::shared_ptr<const Cut> shapes;
    std::vector<uint32_t> bodies; // of each piece
    double frames_per_s = 60;
    std::vector<PieceKey> keys; // frame by frame, of all pieces

    size_t frames() const { return shapes->pieces.empty() ? 0 : keys.size() / shapes->pieces.size(); }
    double length_s() const { return double(frames()) / frames_per_s; }
    /// Between two frames; what is not there in one of them comes or goes at once.
    PieceKey at(size_t piece, double frame) const;
};

/// The most keys of a clip: pieces times frames.
constexpr size_t most_piece_keys = 5'000'000;

/// So many frames a second as the bake.json beside it says; else 60. The first of a node's materials is its
/// outside, the others are inner faces. Nodes may be scaled evenly. Nothing, and why, if the file is damaged
/// or has no meshes.
std::optional<PieceClip> read_piece_clip(const std::filesystem::path& path, Problems& problems,
                                         const Progress& progress = {});

} // namespace ember
