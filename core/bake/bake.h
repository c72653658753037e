// An effect, or a take, run and written to a folder for other programs: particles, pieces, smoke, pictures.
//
//     BakeOrder order{.effect = effect, .assets = assets, .span = {0, 4}, .folder = "spray-baked"};
//     BakeWriters writers;
//     writers.push_back(particle_files(order));
//     BakeResult result = bake(order, writers);
//
// Several kinds are written of one run. Each file is there whole or not at all. A bake that was cancelled or
// killed goes on where it was, when the same is ordered again, to the same bytes; only what lies in one file
// for all frames is made from its beginning. bake.json in the folder says what each file is.
#pragma once

#include "core/bake/field_box.h"
#include "core/base/problem.h"
#include "core/base/progress.h"
#include "core/base/span.h"
#include "core/runtime/simulation.h"
#include "core/runtime/take.h"

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <utility>
#include <vector>

namespace ember {

struct BakeOrder {
    EffectPtr effect;
    std::shared_ptr<const Take> take; // that is run again, in place of the effect
    Assets assets;
    Span span;
    double frames_per_s = 60; // at most 60: each frame is the state after a step
    std::filesystem::path folder;
    std::vector<std::string> sources;  // ids of what is written; empty: all
    std::optional<FieldBox> field_box; // in place of what is in view
    bool replaces = false;             // whatever another bake has left in the folder

    /// From the span's start, its end left out; 0 if the span is empty.
    int frames() const;
    /// The step whose end a frame shows, counted from the end of the warm-up.
    uint64_t step_of(int frame) const;
    bool has(const std::string& source) const;
};

/// What a kind of files is, for people and for programs.
struct BakedFiles {
    std::string kind;  // "particles"
    std::string files; // in the folder; %05d stands for the frame's number, from 0
    std::vector<std::pair<std::string, std::string>> facts; // format, units, what was chosen
    std::vector<std::string> beside = {};                   // more files in the folder that belong to these
};

/// Writes one kind of files.
class BakeWriter {
  public:
    virtual ~BakeWriter() = default;

    virtual BakedFiles files() const = 0;
    /// What there is nothing of to write: "particles"; nothing if there is.
    virtual std::optional<std::string> lack() const { return std::nullopt; }
    /// Whether a frame is there already: it need not be added then.
    virtual bool has(int frame) const = 0;
    /// `frame` holds the simulation's state; frames come in order.
    virtual std::optional<Problem> add(const Simulation& simulation, const Frame& frame, int number) = 0;
    /// After the last frame. Waits until all is written.
    virtual std::optional<Problem> end() { return std::nullopt; }
    /// About, of one frame.
    virtual uint64_t bytes_of_frame() const = 0;
};
using BakeWriters = std::vector<std::unique_ptr<BakeWriter>>;

struct BakeResult {
    std::optional<Problem> problem; // what was written so far stays
    bool is_cancelled = false;
    int frames = 0; // that are there whole
};

/// `progress` is told of frames, and may cancel between two steps. Refused before anything is written: a
/// folder that cannot be written or holds something else, an empty span, too little room on the disk.
BakeResult bake(const BakeOrder& order, const BakeWriters& writers, const Progress& progress = {});

/// "particles/%05d.ply" with the frame's number.
std::filesystem::path file_of_frame(const BakeOrder& order, const std::string& pattern, int frame);

/// Particles as PLY files (see write_ply()), one a frame.
std::unique_ptr<BakeWriter> particle_files(const BakeOrder& order);
/// Particles as one animated GLB (see ParticleTracks); for short ones.
std::unique_ptr<BakeWriter> particle_motion_file(const BakeOrder& order);
/// Costs and counts of every step of the span as one CSV file (see Report).
std::unique_ptr<BakeWriter> cost_file(const BakeOrder& order);
/// Each volume of smoke as OpenVDB files, one a frame (see smoke_bytes()).
std::unique_ptr<BakeWriter> smoke_files(const BakeOrder& order);
/// What forces do to particles at rest as OpenVDB files, one a frame: each force by itself, and their sum on
/// each source (see field_bytes()).
std::unique_ptr<BakeWriter> field_files(const BakeOrder& order);
/// Pieces of breakables as one GLB (see PieceTracks).
std::unique_ptr<BakeWriter> piece_file(const BakeOrder& order);
/// The same as vertex animation textures.
std::unique_ptr<BakeWriter> piece_textures(const BakeOrder& order);

} // namespace ember
