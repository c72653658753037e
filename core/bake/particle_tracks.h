// How single particles move through a run, gathered frame by frame, as one animated file.
#pragma once

#include "core/bake/motion_keys.h"
#include "core/runtime/simulation.h"

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace ember {

/// More of them, over the whole span, are for PLY.
constexpr size_t most_particle_tracks = 20'000;

class ParticleTracks {
  public:
    explicit ParticleTracks(double frames_per_s) : frames_per_s_(frames_per_s) {}

    /// Refused if they become too many.
    std::optional<Problem> add(const Simulation& simulation, const std::vector<std::string>& sources,
                               int frame);
    /// glTF 2.0 in one file: a node for each particle with its place and size (not its turn); all of a source
    /// share one mesh, the look's own or an eight-sided body, and one material with the look's colour half
    /// through its life. Keys are thinned as those of pieces.
    std::optional<Problem> write_glb(const Effect& effect, const Assets& assets,
                                     const std::filesystem::path& path, int frames) const;

  private:
    double frames_per_s_;
    std::map<std::pair<std::string, uint32_t>, std::vector<MotionKey>> tracks_; // by source and number
};

} // namespace ember
