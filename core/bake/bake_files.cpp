// The kinds of files that need no picture.
#include "core/bake/bake.h"
#include "core/bake/particle_tracks.h"
#include "core/bake/piece_tracks.h"
#include "core/bake/ply.h"
#include "core/bake/vdb.h"
#include "core/base/file.h"
#include "core/budget/expected.h"
#include "core/runtime/report.h"

#include <algorithm>

namespace ember {

namespace {

bool is_there(const std::filesystem::path& path) {
    std::error_code error;
    return std::filesystem::is_regular_file(path, error);
}

const Effect& effect_of(const BakeOrder& order) {
    return order.take ? *order.take->effect_at(0) : *order.effect;
}

// Whether any of the effect's elements that are wanted is of a kind.
template <class Body>
std::optional<std::string> lack_of(const BakeOrder& order, const char* what) {
    const std::vector<Element>& all = effect_of(order).elements;
    const bool is_there = std::any_of(all.begin(), all.end(), [&](const Element& each) {
        return std::holds_alternative<Body>(each.body) && order.has(each.id);
    });
    return is_there ? std::nullopt : std::optional<std::string>(what);
}

class ParticleFiles : public BakeWriter {
  public:
    explicit ParticleFiles(const BakeOrder& order) : order_(order) {}

    BakedFiles files() const override {
        return {
            "particles",
            pattern_,
            {{"format", "PLY, binary, little endian, a vertex for each particle"},
             {"properties", "x y z (m) vx vy vz (m/s) age lifetime (s) size (m) red green blue alpha (linear "
                            "light) born_size tint_* id source"}}};
    }
    std::optional<std::string> lack() const override { return lack_of<Emitter>(order_, "particles"); }
    bool has(int frame) const override { return is_there(file_of_frame(order_, pattern_, frame)); }
    std::optional<Problem> add(const Simulation& simulation, const Frame&, int number) override {
        return write_ply(simulation, file_of_frame(order_, pattern_, number), order_.sources);
    }
    uint64_t bytes_of_frame() const override {
        constexpr double bytes_each = 80;
        const Effect& effect = effect_of(order_);
        const std::vector<ExpectedCount> expected = expected_counts(effect);
        double count = 0;
        for (size_t i = 0; i < effect.elements.size(); ++i) {
            const auto* emitter = std::get_if<Emitter>(&effect.elements[i].body);
            if (emitter != nullptr && order_.has(effect.elements[i].id)) {
                count += std::min(expected[i].most(), double(emitter->capacity));
            }
        }
        return uint64_t(count * bytes_each);
    }

  private:
    BakeOrder order_;
    std::string pattern_ = "particles/%05d.ply";
};

class ParticleMotionFile : public BakeWriter {
  public:
    explicit ParticleMotionFile(const BakeOrder& order) : order_(order), tracks_(order.frames_per_s) {}

    BakedFiles files() const override {
        return {"particle motion",
                name_,
                {{"format", "glTF 2.0 (GLB): a node for each particle, with its place and size"},
                 {"keys", "thinned: within 1 mm of the run"}}};
    }
    std::optional<std::string> lack() const override { return lack_of<Emitter>(order_, "particles"); }
    bool has(int) const override { return is_there(order_.folder / name_); }
    std::optional<Problem> add(const Simulation& simulation, const Frame&, int number) override {
        frames_ = number + 1;
        last_ = simulation.effect_now();
        return tracks_.add(simulation, order_.sources, number);
    }
    std::optional<Problem> end() override {
        return frames_ == 0 ? std::nullopt
                            : tracks_.write_glb(*last_, order_.assets, order_.folder / name_, frames_);
    }
    uint64_t bytes_of_frame() const override { return most_particle_tracks * 2; }

  private:
    BakeOrder order_;
    ParticleTracks tracks_;
    int frames_ = 0;
    EffectPtr last_;
    std::string name_ = "particles.glb";
};

class CostFile : public BakeWriter {
  public:
    explicit CostFile(const BakeOrder& order) : order_(order), report_(effect_of(order)) {}

    BakedFiles files() const override {
        return {"costs", name_, {{"format", "CSV, a line for each frame: time, milliseconds, counts"}}};
    }
    bool has(int) const override { return is_there(order_.folder / name_); }
    std::optional<Problem> add(const Simulation& simulation, const Frame&, int) override {
        if (!file_) {
            file_ = std::make_unique<GrowingFile>(order_.folder / name_);
            report_.begin_csv(file_->stream());
        }
        report_.add(simulation);
        return file_->problem();
    }
    std::optional<Problem> end() override {
        report_.end();
        return file_ ? file_->keep() : std::nullopt;
    }
    uint64_t bytes_of_frame() const override { return 40 + 24 * effect_of(order_).elements.size(); }

  private:
    BakeOrder order_;
    Report report_;
    std::unique_ptr<GrowingFile> file_;
    std::string name_ = "costs.csv";
};

class SmokeFiles : public BakeWriter {
  public:
    explicit SmokeFiles(const BakeOrder& order) : order_(order) {}

    BakedFiles files() const override {
        std::string volumes;
        for (const Element* each : elements()) {
            volumes += (volumes.empty() ? "" : ", ") + each->id;
        }
        return {"smoke",
                pattern_,
                {{"format",
                  "OpenVDB, half floats: density, heat (K), velocity (m/s) of each volume; names of grids "
                  "after the first volume's begin with the volume's id"},
                 {"volumes", volumes}}};
    }
    std::optional<std::string> lack() const override { return lack_of<Smoke>(order_, "smoke"); }
    bool has(int frame) const override { return is_there(file_of_frame(order_, pattern_, frame)); }
    std::optional<Problem> add(const Simulation& simulation, const Frame& frame, int number) override {
        std::vector<BakedSmoke> volumes;
        for (const Element* each : elements()) {
            const Element* now = find_element(*frame.now, each->id);
            const SmokeVolume* volume = simulation.find_smoke(each->id);
            const auto* smoke = now != nullptr ? std::get_if<Smoke>(&now->body) : nullptr;
            if (volume != nullptr && smoke != nullptr) {
                volumes.push_back({each->id, volume, smoke});
            }
        }
        const std::string bytes = smoke_bytes(volumes, frame.time_s);
        return write_file(file_of_frame(order_, pattern_, number), [&](std::ostream& stream) {
            stream.write(bytes.data(), std::streamsize(bytes.size()));
        });
    }
    uint64_t bytes_of_frame() const override {
        constexpr uint64_t bytes_a_cell = 10;
        constexpr uint64_t share_filled = 4;
        uint64_t cells = 0;
        for (const Element* each : elements()) {
            cells += size_of(std::get<Smoke>(each->body)).cells();
        }
        return cells * bytes_a_cell / share_filled;
    }

  private:
    std::vector<const Element*> elements() const {
        std::vector<const Element*> found;
        for (const Element& each : effect_of(order_).elements) {
            if (std::holds_alternative<Smoke>(each.body) && order_.has(each.id)) {
                found.push_back(&each);
            }
        }
        return found;
    }

    BakeOrder order_;
    std::string pattern_ = "smoke/%05d.vdb";
};

// Pieces are gathered through the run, and written at its end.
class PieceFiles : public BakeWriter {
  public:
    /// `last`: the file that is written last.
    PieceFiles(const BakeOrder& order, std::string last)
        : order_(order), last_(std::move(last)), tracks_(order.frames_per_s) {}

    std::optional<std::string> lack() const override { return lack_of<Breakable>(order_, "pieces"); }
    bool has(int) const override { return is_there(order_.folder / last_); }
    std::optional<Problem> add(const Simulation&, const Frame& frame, int number) override {
        for (const FrameDebris& debris : frame.debris) {
            const Element& element = frame.now->elements[debris.element];
            if (order_.has(element.id)) {
                tracks_.add(element.id, std::get<Breakable>(element.body), debris, number);
            }
        }
        frames_ = number + 1;
        return std::nullopt;
    }
    std::optional<Problem> end() override { return frames_ == 0 ? std::nullopt : write(tracks_, frames_); }
    uint64_t bytes_of_frame() const override {
        constexpr uint64_t bytes_a_piece = 40;
        uint64_t pieces = 0;
        for (const Element& each : effect_of(order_).elements) {
            const auto* breakable = std::get_if<Breakable>(&each.body);
            pieces += breakable != nullptr && order_.has(each.id) ? uint64_t(breakable->capacity) : 0;
        }
        return pieces * bytes_a_piece;
    }

  protected:
    virtual std::optional<Problem> write(const PieceTracks& tracks, int frames) = 0;

    BakeOrder order_;

  private:
    std::string last_;
    PieceTracks tracks_;
    int frames_ = 0;
};

class PieceMotionFile : public PieceFiles {
  public:
    explicit PieceMotionFile(const BakeOrder& order) : PieceFiles(order, name) {}
    BakedFiles files() const override {
        return {"pieces",
                name,
                {{"format",
                  "glTF 2.0 (GLB): a node for each piece, with its mesh, its inner faces as a material of "
                  "their own, and its motion"},
                 {"keys", "thinned: within 1 mm and 0.1 deg of the run"}}};
    }

  private:
    static constexpr const char* name = "pieces.glb";
    std::optional<Problem> write(const PieceTracks& tracks, int frames) override {
        return tracks.write_glb(order_.folder / name, frames);
    }
};

class PieceTextures : public PieceFiles {
  public:
    explicit PieceTextures(const BakeOrder& order)
        : PieceFiles(order, std::string(folder) + "/decode.json") {}
    BakedFiles files() const override {
        BakedFiles files = {
            "piece textures",
            std::string(folder) + "/decode.json",
            {{"format",
              "vertex animation textures: place and turn of each piece (a column) in each frame (a row), "
              "as EXR and PNG, beside mesh.glb and decode.vert"}}};
        for (const char* name :
             {"place.exr", "turn.exr", "place.png", "turn.png", "mesh.glb", "decode.vert"}) {
            files.beside.push_back(std::string(folder) + "/" + name);
        }
        return files;
    }

  private:
    static constexpr const char* folder = "piece-textures";
    std::optional<Problem> write(const PieceTracks& tracks, int frames) override {
        return tracks.write_textures(order_.folder / folder, frames);
    }
};

} // namespace

std::unique_ptr<BakeWriter> particle_files(const BakeOrder& order) {
    return std::make_unique<ParticleFiles>(order);
}

std::unique_ptr<BakeWriter> particle_motion_file(const BakeOrder& order) {
    return std::make_unique<ParticleMotionFile>(order);
}

std::unique_ptr<BakeWriter> cost_file(const BakeOrder& order) {
    return std::make_unique<CostFile>(order);
}

std::unique_ptr<BakeWriter> smoke_files(const BakeOrder& order) {
    return std::make_unique<SmokeFiles>(order);
}

std::unique_ptr<BakeWriter> piece_file(const BakeOrder& order) {
    return std::make_unique<PieceMotionFile>(order);
}

std::unique_ptr<BakeWriter> piece_textures(const BakeOrder& order) {
    return std::make_unique<PieceTextures>(order);
}

} // namespace ember
