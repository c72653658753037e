#include "core/runtime/piece_boxes.h"

namespace ember {

std::vector<PieceBox> piece_boxes(const std::vector<FrameDebris>& breakables) {
    std::vector<PieceBox> boxes;
    for (const FrameDebris& breakable : breakables) {
        for (const FramePiece& piece : breakable.pieces) {
            const Mesh& mesh = breakable.cut->pieces[piece.piece].mesh;
            if (mesh.corners.empty() || piece.size <= 0 || piece.opacity <= 0) {
                continue;
            }
            const Vec3 low = mesh.low(), high = mesh.high();
            Placement middle = piece.placement;
            middle.position += middle.axes.out((low + high) * (0.5f * piece.size));
            boxes.push_back({breakable.element, piece.number, middle, (high - low) * (0.5f * piece.size)});
        }
    }
    return boxes;
}

} // namespace ember
