#include "core/bake/piece_tracks.h"

#include "core/bake/glb.h"

#include <algorithm>
#include <cmath>

namespace ember {

void PieceTracks::add(const std::string& breakable, const Breakable& look, const FrameDebris& debris,
                      int frame) {
    breakables_.try_emplace(breakable, look);
    for (const FramePiece& piece : debris.pieces) {
        Track& track = tracks_[{breakable, piece.number}];
        if (track.keys.empty()) {
            track.cut = debris.cut;
            track.piece = piece.piece;
            track.look = look;
        }
        MotionKey key = {frame, piece.placement.position, Quaternion::of(piece.placement.axes), piece.size};
        if (!track.keys.empty() && dot(track.keys.back().turn, key.turn) < 0) {
            key.turn = {key.turn.v * -1.0f, -key.turn.w}; // the short way round
        }
        track.keys.push_back(key);
    }
}

std::optional<Problem> PieceTracks::write_glb(const std::filesystem::path& path, int frames) const {
    GlbFile glb("pieces");
    std::map<std::pair<const Cut*, uint32_t>, int> meshes;
    std::map<std::string, std::pair<int, int>> materials; // outside and inner faces, by the breakable
    std::map<std::string, int> wholes;
    for (const auto& [breakable, look] : breakables_) {
        wholes[breakable] = glb.add_node({.name = breakable});
        materials[breakable] = {glb.add_material({breakable + " outside", look.colour, 1 - look.shine}),
                                glb.add_material({breakable + " inside", look.inner_colour, 1 - look.shine})};
    }
    for (const auto& [id, track] : tracks_) {
        const auto& [breakable, number] = id;
        int& mesh = meshes.try_emplace({track.cut.get(), track.piece}, -1).first->second;
        if (mesh < 0) {
            const Piece& piece = track.cut->pieces[track.piece];
            const auto [outside, inside] = materials[breakable];
            const auto middle = piece.mesh.triangles.begin() + long(piece.outer);
            mesh = glb.add_mesh(breakable + " " + std::to_string(track.piece), piece.mesh, {},
                                {{{piece.mesh.triangles.begin(), middle}, outside},
                                 {{middle, piece.mesh.triangles.end()}, inside}});
        }
        glb.add_moving({.name = breakable + " piece " + std::to_string(number),
                        .parent = wholes[breakable],
                        .mesh = mesh},
                       track.keys, frames, frames_per_s_, true);
    }
    return glb.write(path);
}

} // namespace ember
