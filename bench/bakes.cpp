// Bakes, on this machine: how long writing takes, against stepping and drawing the same frames.
#include "bench/figures.h"

#include "core/assets/assets.h"
#include "core/base/stopwatch.h"
#include "core/effect/effect_file.h"
#include "render/bake_pictures.h"

#include <algorithm>
#include <filesystem>
#include <fstream>
#include <iomanip>
#include <unistd.h>

namespace ember::bench {

namespace {

constexpr int width = 1280, height = 720;
constexpr double goal_pictures = 1.25, goal_video = 1.4;

// Draws each frame and throws it away.
class DrawnOnly : public BakeWriter {
  public:
    explicit DrawnOnly(std::shared_ptr<BakePainter> painter) : painter_(std::move(painter)) {}
    BakedFiles files() const override { return {"drawn", "drawn-only", {}}; }
    bool has(int) const override { return false; }
    std::optional<Problem> add(const Simulation&, const Frame& frame, int number) override {
        draw_baked(*painter_, frame, number, {width, height});
        return std::nullopt;
    }
    uint64_t bytes_of_frame() const override { return 0; }

  private:
    std::shared_ptr<BakePainter> painter_;
};

double resident_mb() {
    std::ifstream statm("/proc/self/statm");
    double pages = 0;
    statm >> pages >> pages;
    return pages * double(sysconf(_SC_PAGESIZE)) / 1e6;
}

struct Took {
    double seconds = 0, megabytes = 0, resident_mb = 0;
};

Took bake_of(const BakeOrder& order,
             const std::function<std::unique_ptr<BakeWriter>(const BakeOrder&)>& make) {
    std::filesystem::remove_all(order.folder);
    BakeWriters writers;
    writers.push_back(make(order));
    const Stopwatch watch;
    const BakeResult result = bake(order, writers);
    Took took{watch.elapsed_ms() / 1000, 0, resident_mb()};
    if (result.problem) {
        throw std::runtime_error(result.problem->text());
    }
    for (const auto& file : std::filesystem::recursive_directory_iterator(order.folder)) {
        took.megabytes += file.is_regular_file() ? double(file.file_size()) / 1e6 : 0;
    }
    std::filesystem::remove_all(order.folder);
    return took;
}

} // namespace

void write_bakes(std::ostream& out) {
    constexpr int frames = 240;
    const std::filesystem::path demo =
        std::filesystem::path(EMBER_DEMO_FOLDER) / (std::string(main_demo) + ".ember.json");
    const auto effect = std::make_shared<const Effect>(*read_effect(demo).effect);
    BakeOrder order;
    order.effect = effect;
    order.assets = AssetLibrary().load(*effect, demo.parent_path()).assets;
    order.span = {1, 1 + frames / 60.0};
    order.folder = std::filesystem::temp_directory_path() / ("ember-bake-" + std::to_string(getpid()));
    const BakedPicture picture{width, height};
    const Took drawn =
        bake_of(order, [](const BakeOrder&) { return std::make_unique<DrawnOnly>(bake_painter()); });

    out << "# Performance of bakes\n\n" << heading() << "\n\n";
    out << effect->name << ", " << frames << " frames at " << width << "x" << height
        << ". Stepping and drawing them, as smooth as stills are, takes " << std::fixed
        << std::setprecision(2) << drawn.seconds << " s.\n\n";
    out << "| id | kind | takes | against stepping and drawing | goal | held | files | memory |\n"
           "| --- | --- | --- | --- | --- | --- | --- | --- |\n";
    struct Kind {
        const char* id;
        const char* words;
        double goal;
        std::function<std::unique_ptr<BakeWriter>(const BakeOrder&)> make;
    };
    const auto pictures = [picture](PictureFormat format) {
        return [=](const BakeOrder& of) { return picture_files(of, bake_painter(), picture, format); };
    };
    const auto video = [picture](VideoFormat format) {
        return [=](const BakeOrder& of) { return video_file(of, bake_painter(), picture, format); };
    };
    const Kind kinds[] = {{"P18", "PNG, 8 bits", goal_pictures, pictures(PictureFormat::png8)},
                          {"P18", "H.264", goal_video, video(VideoFormat::h264)},
                          {"", "OpenEXR", 0, pictures(PictureFormat::exr)},
                          {"", "PNG, 16 bits", 0, pictures(PictureFormat::png16)},
                          {"", "VP9", 0, video(VideoFormat::vp9)},
                          {"", "particles as PLY, no picture", 0, particle_files}};
    for (const Kind& kind : kinds) {
        const Took took = bake_of(order, kind.make);
        const double ratio = took.seconds / drawn.seconds;
        out << "| " << kind.id << " | " << kind.words << " | " << took.seconds << " s | " << ratio
            << " times | ";
        if (kind.goal > 0) {
            out << "at most " << kind.goal << " times | " << (ratio <= kind.goal ? "held" : "missed");
        } else {
            out << "told | ";
        }
        out << " | " << std::setprecision(0) << took.megabytes << " MB | " << took.resident_mb << " MB |\n"
            << std::setprecision(2);
    }
}

} // namespace ember::bench
