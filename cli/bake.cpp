// The command that writes an effect's frames for other programs.
#include "cli/opening.h"

#include "core/effect/effect_file.h"
#include "render/bake_pictures.h"

#include <chrono>
#include <cmath>
#include <iostream>
#include <unistd.h>

namespace ember {

namespace {

// How far it is, and how long it will still take, on one line that goes away.
class TimeLeft {
  public:
    ~TimeLeft() {
        if (shown_) {
            std::cerr << "\r\x1b[K";
        }
    }
    bool at(const std::string& what, float share) {
        using Clock = std::chrono::steady_clock;
        const double passed_s = std::chrono::duration<double>(Clock::now() - began_).count();
        if (shown_ && passed_s > shown_s_ + 0.2) {
            shown_s_ = passed_s;
            std::cerr << "\r\x1b[K" << what;
            if (share > 0.02f) {
                std::cerr << ", about " << std::lround(passed_s * double((1 - share) / share)) << " s left";
            }
            std::cerr << std::flush;
        }
        return true;
    }

  private:
    std::chrono::steady_clock::time_point began_ = std::chrono::steady_clock::now();
    double shown_s_ = 0;
    bool shown_ = isatty(STDERR_FILENO) != 0;
};

} // namespace

int bake_effect(const BakeOptions& options) {
    Problems problems;
    BakeOrder order;
    std::string file = options.effect;
    if (!options.take.empty()) {
        file = options.take;
        auto take = read_take(options.take, options.take_name, problems);
        if (!take) {
            return refuse(problems);
        }
        order.effect = std::prev(take->effects.end())->second;
        order.take = std::make_shared<const Take>(std::move(*take));
    } else {
        ReadResult read = read_effect(file);
        if (!read.is_sound()) {
            return refuse(read.problems);
        }
        read.effect->seed = options.seed.value_or(read.effect->seed);
        tell_notes(*read.effect, read.notes);
        order.effect = std::make_shared<const Effect>(std::move(*read.effect));
    }
    LoadResult loaded = load_assets(*order.effect, file);
    if (!loaded.missing.empty()) {
        return refuse(loaded.missing);
    }
    order.assets = std::move(loaded.assets);
    const Stage& stage = order.effect->stage;
    constexpr double usual_s = 4;
    const double take_s =
        order.take ? double(order.take->steps()) / 60 - std::round(double(stage.warm_up) * 60) / 60 : 0;
    const double length_s = order.take ? take_s : stage.length > 0 ? double(stage.length) : usual_s;
    order.span = options.span_s ? Span{options.span_s->first, options.span_s->second} : Span{0, length_s};
    order.frames_per_s = options.frames_per_s;
    order.folder = options.out;
    order.sources = options.sources;
    order.field_box = options.field_box;
    order.replaces = options.replaces;

    const bool is_sheet = !options.sheet.empty();
    BakedPicture picture{options.width, options.height, options.alone};
    if (picture.width == 0) {
        constexpr int usual_width = 1280, usual_height = 800, usual_cell = 256;
        const float ratio = frame_ratio_of(stage).value_or(float(usual_width) / float(usual_height));
        const bool is_only_sheet = is_sheet && options.pictures.empty() && options.video.empty();
        picture.width = is_only_sheet ? usual_cell : usual_width;
        // Videos have even sides.
        picture.height =
            is_only_sheet ? usual_cell : std::max(int(std::lround(float(picture.width) / ratio / 2)) * 2, 2);
    }
    BakeWriters writers;
    const auto painter = bake_painter();
    const std::pair<bool, std::unique_ptr<BakeWriter> (*)(const BakeOrder&)> plain[] = {
        {options.particles, particle_files}, {options.particle_motion, particle_motion_file},
        {options.pieces, piece_file},        {options.piece_textures, piece_textures},
        {options.smoke, smoke_files},        {options.fields, field_files},
        {options.costs, cost_file}};
    for (const auto& [is_wanted, make] : plain) {
        if (is_wanted) {
            writers.push_back(make(order));
        }
    }
    if (!options.pictures.empty()) {
        const PictureFormat format = options.pictures == "exr"      ? PictureFormat::exr
                                     : options.pictures == "layers" ? PictureFormat::layers
                                     : options.pictures == "png16"  ? PictureFormat::png16
                                                                    : PictureFormat::png8;
        writers.push_back(picture_files(order, painter, picture, format));
    }
    if (!options.video.empty()) {
        const VideoFormat format = options.video == "h264"     ? VideoFormat::h264
                                   : options.video == "vp9"    ? VideoFormat::vp9
                                   : options.video == "prores" ? VideoFormat::prores
                                                               : VideoFormat::png;
        if (const auto problem = refusal_of_video(order, picture, format)) {
            return refuse({*problem});
        }
        writers.push_back(video_file(order, painter, picture, format));
    }
    if (is_sheet) {
        if (const auto problem = refusal_of_sheet(order.frames(), picture.width, picture.height)) {
            return refuse({*problem});
        }
        SheetChoice choice;
        choice.loop = options.sheet == "fade"   ? SheetLoop::fade
                      : options.sheet == "find" ? SheetLoop::find
                                                : SheetLoop::none;
        choice.is_premultiplied = options.premultiplied;
        writers.push_back(sheet_files(order, painter, picture.width, picture.height, choice));
    }
    BakeResult result;
    {
        TimeLeft left;
        result = bake(order, writers,
                      {[&](const std::string& what, float share) { return left.at(what, share); }});
    }
    if (result.problem) {
        return refuse({*result.problem});
    }
    std::cout << options.out << ": " << result.frames << " frames, " << order.effect->name << " from "
              << order.span.from_s << " to " << order.span.to_s << " s\n";
    for (const auto& writer : writers) {
        const BakedFiles files = writer->files();
        std::cout << "  " << files.kind << ": " << files.files << "\n";
    }
    return said();
}

} // namespace ember
