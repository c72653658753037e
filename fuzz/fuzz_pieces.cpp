// Clips of pieces: animated glTF, read in a process of their own.
#include "fuzz/file_of_bytes.h"

#include "core/assets/piece_clip.h"

#include <cmath>

using namespace ember;

extern "C" int LLVMFuzzerTestOneInput(const uint8_t* bytes, size_t size) {
    static const fuzz::FileOfBytes file(".glb");
    Problems problems;
    const auto clip = read_piece_clip(file.holding(bytes, size), problems);
    fuzz::must_say_why(clip.has_value(), problems);
    if (clip) {
        fuzz::must(clip->keys.size() == clip->frames() * clip->shapes->pieces.size(), "all keys are there");
        for (const Piece& piece : clip->shapes->pieces) {
            for (const auto& triangle : piece.mesh.triangles) {
                fuzz::must(triangle[0] < piece.mesh.corners.size() &&
                               triangle[1] < piece.mesh.corners.size() &&
                               triangle[2] < piece.mesh.corners.size(),
                           "triangles have corners");
            }
        }
        for (const PieceKey& key : clip->keys) {
            fuzz::must(std::isfinite(key.place.x + key.turn.w + key.size), "keys are finite");
        }
    }
    return 0;
}
