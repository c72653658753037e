#include "render/bake_pictures.h"

#include "core/bake/channel_files.h"
#include "render/bake_painter.h"
#include "render/writing_threads.h"

#include <oneapi/tbb/parallel_for.h>

namespace ember {

std::shared_ptr<BakePainter> bake_painter() {
    return std::make_shared<BakePainter>();
}

std::shared_ptr<const Still> BakePainter::draw(const Frame& frame, int number, const BakedPicture& picture,
                                               StillKind kind) {
    Drawn& drawn = drawn_[{picture.width, picture.height, picture.is_alone, kind}];
    if (drawn.number != number) {
        const Effect& effect = *frame.now;
        drawn.still = std::make_shared<const Still>(
            drawn.painter.draw(frame, effect, camera_of(effect.stage),
                               {picture.width, picture.height, picture.is_alone, {}}, kind));
        drawn.number = number;
    }
    return drawn.still;
}

void draw_baked(BakePainter& painter, const Frame& frame, int number, const BakedPicture& picture) {
    painter.draw(frame, number, picture, StillKind::finished);
}

namespace {

// Pictures for compositing: the whole, how far off it is, and each source by itself.
class LayerPainter {
  public:
    LayerPainter(const BakeOrder& order, const BakedPicture& picture) : order_(order), picture_(picture) {}

    std::vector<NamedChannel> draw(const Frame& frame) {
        const Effect& effect = *frame.now;
        const Camera camera = camera_of(effect.stage);
        const StillOptions whole = {picture_.width, picture_.height, picture_.is_alone, {}};
        std::vector<NamedChannel> channels;
        add(channels, "", whole_.draw(frame, effect, camera, whole, StillKind::light).image);
        NamedChannel& depth = channels.emplace_back();
        depth.name = "Z";
        depth.values.resize(size_t(picture_.width) * size_t(picture_.height));
        tbb::parallel_for(0, picture_.height, [&](int y) {
            for (int x = 0; x < picture_.width; ++x) {
                constexpr float sky_m = 1e6f;
                depth.values[size_t(y) * size_t(picture_.width) + size_t(x)] =
                    whole_.depth_at(x, y).value_or(sky_m);
            }
        });
        for (const Element& source : effect.elements) {
            if (!takes_links(source.body) || !order_.has(source.id)) {
                continue;
            }
            Effect single = effect;
            for (Element& each : single.elements) {
                each.muted = each.muted || (takes_links(each.body) && each.id != source.id);
            }
            StillOptions alone = whole;
            alone.is_alone = true;
            add(channels, source.id + ".",
                single_.draw(frame, single, camera, alone, StillKind::light).image);
        }
        return channels;
    }

  private:
    static void add(std::vector<NamedChannel>& channels, const std::string& prefix, const Image& image) {
        const std::pair<const char*, float Colour::*> parts[] = {
            {"R", &Colour::red}, {"G", &Colour::green}, {"B", &Colour::blue}, {"A", &Colour::alpha}};
        for (const auto& [name, part] : parts) {
            NamedChannel& channel = channels.emplace_back();
            channel.name = prefix + name;
            channel.is_half = true;
            for (const Colour& colour : image.pixels) {
                channel.values.push_back(colour.*part);
            }
        }
    }

    BakeOrder order_;
    BakedPicture picture_;
    StillPainter whole_, single_;
};

class PictureFiles : public BakeWriter {
  public:
    PictureFiles(const BakeOrder& order, std::shared_ptr<BakePainter> painter, const BakedPicture& picture,
                 PictureFormat format)
        : order_(order), painter_(std::move(painter)), picture_(picture), format_(format),
          pattern_(format < PictureFormat::exr ? "pictures/%05d.png" : "pictures/%05d.exr"),
          layers_(order, picture) {}

    BakedFiles files() const override {
        const char* formats[] = {
            "PNG, 8 bits, sRGB, finished as on the screen", "PNG, 16 bits, sRGB, finished as on the screen",
            "OpenEXR, half floats, linear light with exposure, before the tone curve",
            "OpenEXR, linear light with exposure as half floats: R G B A of all, Z (m, floats), and "
            "ID.R ID.G ID.B ID.A of each source without the stage"};
        return {"pictures",
                pattern_,
                {{"format", formats[int(format_)]},
                 {"size_px", std::to_string(picture_.width) + "x" + std::to_string(picture_.height)},
                 {"opacity", picture_.is_alone ? "without the stage, with opacity" : "none"}}};
    }
    bool has(int frame) const override {
        std::error_code error;
        return std::filesystem::is_regular_file(file_of_frame(order_, pattern_, frame), error);
    }
    std::optional<Problem> add(const Simulation&, const Frame& frame, int number) override {
        if (format_ == PictureFormat::layers) {
            writing_.add([channels = layers_.draw(frame), picture = picture_,
                          path = file_of_frame(order_, pattern_, number)] {
                return write_channels(picture.width, picture.height, channels, path);
            });
            return writing_.problem();
        }
        constexpr StillKind kinds[] = {StillKind::finished, StillKind::deep, StillKind::light};
        const auto still = painter_->draw(frame, number, picture_, kinds[int(format_)]);
        writing_.add(
            [still, depth = format_ == PictureFormat::png16 ? PngDepth::bits16 : PngDepth::bits8,
             path = file_of_frame(order_, pattern_, number)] { return write_still(*still, depth, path); });
        return writing_.problem();
    }
    std::optional<Problem> end() override { return writing_.finish(); }
    uint64_t bytes_of_frame() const override {
        constexpr uint64_t all_bytes_a_pixel[] = {2, 6, 6, 16};
        const uint64_t bytes_a_pixel = all_bytes_a_pixel[int(format_)];
        return uint64_t(picture_.width) * uint64_t(picture_.height) * bytes_a_pixel;
    }

  private:
    BakeOrder order_;
    std::shared_ptr<BakePainter> painter_;
    BakedPicture picture_;
    PictureFormat format_;
    std::string pattern_;
    LayerPainter layers_;
    WritingThreads writing_{std::thread::hardware_concurrency()};
};

class SheetFiles : public BakeWriter {
  public:
    SheetFiles(const BakeOrder& order, std::shared_ptr<BakePainter> painter, int width, int height,
               const SheetChoice& choice, std::function<void(const SpriteSheet&)> made)
        : order_(order), painter_(std::move(painter)), picture_{width, height, true}, choice_(choice),
          made_(std::move(made)) {}

    BakedFiles files() const override {
        const char* loops[] = {"none", "its end fades over into its beginning",
                               "from and to where it is most alike"};
        return {"sheet",
                name_,
                {{"format",
                  "a grid of pictures (sheet.png) with motion vectors and normals beside, see sheet.json"},
                 {"loop", loops[int(choice_.loop)]},
                 {"size_px", std::to_string(picture_.width) + "x" + std::to_string(picture_.height) +
                                 " before trimming"},
                 {"premultiplied", choice_.is_premultiplied ? "yes" : "no"}},
                {"sheet/sheet.png", "sheet/sheet-motion.png", "sheet/sheet-normals.png"}};
    }
    bool has(int) const override {
        std::error_code error;
        return std::filesystem::is_regular_file(order_.folder / name_, error);
    }
    std::optional<Problem> add(const Simulation&, const Frame& frame, int number) override {
        Image image = painter_->draw(frame, number, picture_, StillKind::finished)->image;
        for (Colour& c : image.pixels) {
            c = {c.red * c.alpha, c.green * c.alpha, c.blue * c.alpha, c.alpha};
        }
        frames_.push_back(std::move(image));
        return std::nullopt;
    }
    std::optional<Problem> end() override {
        if (frames_.empty()) {
            return std::nullopt;
        }
        const SpriteSheet sheet = sheet_of(frames_, choice_);
        auto problem = write_sheet(sheet, order_.frames_per_s, (order_.folder / name_).parent_path());
        if (!problem && made_) {
            made_(sheet);
        }
        return problem;
    }
    uint64_t bytes_of_frame() const override {
        return uint64_t(picture_.width) * uint64_t(picture_.height) * 8;
    }

  private:
    BakeOrder order_;
    std::shared_ptr<BakePainter> painter_;
    BakedPicture picture_;
    SheetChoice choice_;
    std::function<void(const SpriteSheet&)> made_;
    std::vector<Image> frames_;
    std::string name_ = "sheet/sheet.json";
};

} // namespace

std::unique_ptr<BakeWriter> sheet_files(const BakeOrder& order, const std::shared_ptr<BakePainter>& painter,
                                        int width, int height, const SheetChoice& choice,
                                        std::function<void(const SpriteSheet&)> made) {
    return std::make_unique<SheetFiles>(order, painter, width, height, choice, std::move(made));
}

std::unique_ptr<BakeWriter> picture_files(const BakeOrder& order, const std::shared_ptr<BakePainter>& painter,
                                          const BakedPicture& picture, PictureFormat format) {
    return std::make_unique<PictureFiles>(order, painter, picture, format);
}

} // namespace ember
