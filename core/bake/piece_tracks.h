// How the pieces of breakables move through a run, gathered frame by frame, as files for other programs.
#pragma once

#include "core/bake/motion_keys.h"
#include "core/base/problem.h"
#include "core/debris/frame_debris.h"

#include <cstdint>
#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace ember {

class PieceTracks {
  public:
    explicit PieceTracks(double frames_per_s) : frames_per_s_(frames_per_s) {}

    /// The pieces of a breakable as they are in a frame; frames come in order, from 0.
    void add(const std::string& breakable, const Breakable& look, const FrameDebris& debris, int frame);

    /// glTF 2.0 in one file: a node for each piece under one for its breakable, which follow one another by
    /// id, the mesh of each cut piece once, with its outside and its inner faces as two materials, and one
    /// animation. Keys are thinned: between two of them a piece is within 1 mm and 0.1 degrees of where it
    /// was. A piece that is not there has the scale 0; one that fades shows no fading, which such files do
    /// not know.
    std::optional<Problem> write_glb(const std::filesystem::path& path, int frames) const;

    /// Vertex animation textures, see docs/bakes.md: the merged mesh (mesh.glb, with the piece's column as
    /// second texture coordinate), place.exr and turn.exr of floats, the same as place.png and turn.png of 16
    /// bits, decode.json with the box and the counts, and decode.vert, which puts them together. `folder`
    /// must be there. Refused if there are no pieces, or more than textures are wide.
    std::optional<Problem> write_textures(const std::filesystem::path& folder, int frames) const;

  private:
    struct Track {
        std::shared_ptr<const Cut> cut;
        uint32_t piece = 0;
        Breakable look;
        std::vector<MotionKey> keys; // one a frame from where it came to where it went
    };

    double frames_per_s_;
    std::map<std::string, Breakable> breakables_;              // those without pieces too
    std::map<std::pair<std::string, uint32_t>, Track> tracks_; // by breakable and number
};

} // namespace ember
