#include "render/sprite_sheet.h"

#include "core/bake/channel_files.h"
#include "core/base/file.h"

#include <nlohmann/json.hpp>
#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int most_sheet_side = 16384;
constexpr int margin = 2; // px round what is seen, so that nothing bleeds into a neighbour

struct Grey {
    int width = 0, height = 0;
    std::vector<float> values;

    Grey(int w, int h) : width(w), height(h), values(size_t(w) * size_t(h)) {}
    float& at(int x, int y) { return values[size_t(y) * size_t(width) + size_t(x)]; }
    float at(int x, int y) const {
        return values[size_t(std::clamp(y, 0, height - 1)) * size_t(width) +
                      size_t(std::clamp(x, 0, width - 1))];
    }
    float between(float x, float y) const {
        const float left = std::floor(x), top = std::floor(y);
        const float across = x - left, down = y - top;
        const int i = int(left), j = int(top);
        return (at(i, j) * (1 - across) + at(i + 1, j) * across) * (1 - down) +
               (at(i, j + 1) * (1 - across) + at(i + 1, j + 1) * across) * down;
    }
};

// Brightness as it is seen, with opacity: both move.
Grey grey_of(const Image& image) {
    Grey grey(image.width, image.height);
    for (size_t i = 0; i < image.pixels.size(); ++i) {
        const Colour& c = image.pixels[i];
        const float light = 0.2126f * c.red + 0.7152f * c.green + 0.0722f * c.blue;
        grey.values[i] = std::sqrt(std::clamp(light, 0.0f, 1.0f)) * 0.7f + c.alpha * 0.3f;
    }
    return grey;
}

Grey halved(const Grey& from) {
    Grey to(std::max((from.width + 1) / 2, 1), std::max((from.height + 1) / 2, 1));
    for (int y = 0; y < to.height; ++y) {
        for (int x = 0; x < to.width; ++x) {
            to.at(x, y) = 0.25f * (from.at(2 * x, 2 * y) + from.at(2 * x + 1, 2 * y) +
                                   from.at(2 * x, 2 * y + 1) + from.at(2 * x + 1, 2 * y + 1));
        }
    }
    return to;
}

// Makes a motion that is nearly right better, at one size.
void refine(const Grey& from, const Grey& to, Grey& across, Grey& down) {
    constexpr int warps = 3, rounds = 24;
    constexpr float smoothness = 0.0025f;
    const int width = from.width, height = from.height;
    for (int warp = 0; warp < warps; ++warp) {
        Grey slope_x(width, height), slope_y(width, height), change(width, height);
        for (int y = 0; y < height; ++y) {
            for (int x = 0; x < width; ++x) {
                const float u = across.at(x, y), v = down.at(x, y);
                const float there_x = float(x) + u, there_y = float(y) + v;
                const float gx = 0.5f * (to.between(there_x + 1, there_y) - to.between(there_x - 1, there_y));
                const float gy = 0.5f * (to.between(there_x, there_y + 1) - to.between(there_x, there_y - 1));
                slope_x.at(x, y) = gx;
                slope_y.at(x, y) = gy;
                change.at(x, y) = to.between(there_x, there_y) - from.at(x, y) - gx * u - gy * v;
            }
        }
        for (int round = 0; round < rounds; ++round) {
            const Grey u = across, v = down;
            const auto mean = [](const Grey& g, int x, int y) {
                const Grey& c = g;
                return (c.at(x - 1, y) + c.at(x + 1, y) + c.at(x, y - 1) + c.at(x, y + 1)) / 6 +
                       (c.at(x - 1, y - 1) + c.at(x + 1, y - 1) + c.at(x - 1, y + 1) + c.at(x + 1, y + 1)) /
                           12;
            };
            for (int y = 0; y < height; ++y) {
                for (int x = 0; x < width; ++x) {
                    const float mu = mean(u, x, y), mv = mean(v, x, y);
                    const float gx = slope_x.at(x, y), gy = slope_y.at(x, y);
                    const float share =
                        (gx * mu + gy * mv + change.at(x, y)) / (smoothness + gx * gx + gy * gy);
                    across.at(x, y) = mu - gx * share;
                    down.at(x, y) = mv - gy * share;
                }
            }
        }
    }
}

Colour colour_at(const Image& image, float x, float y) {
    const float left = std::floor(x), top = std::floor(y);
    const float across = x - left, down = y - top;
    const auto at = [&](int i, int j) {
        const bool is_in = i >= 0 && j >= 0 && i < image.width && j < image.height;
        return is_in ? image.at(i, j) : Colour{0, 0, 0, 0};
    };
    const int i = int(left), j = int(top);
    const Colour a = at(i, j), b = at(i + 1, j), c = at(i, j + 1), d = at(i + 1, j + 1);
    const auto mix = [&](float Colour::*part) {
        return (a.*part * (1 - across) + b.*part * across) * (1 - down) +
               (c.*part * (1 - across) + d.*part * across) * down;
    };
    return {mix(&Colour::red), mix(&Colour::green), mix(&Colour::blue), mix(&Colour::alpha)};
}

Colour mixed(const Colour& a, const Colour& b, float share) {
    const auto mix = [share](float p, float q) { return p + (q - p) * share; };
    return {mix(a.red, b.red), mix(a.green, b.green), mix(a.blue, b.blue), mix(a.alpha, b.alpha)};
}

struct SeenBox {
    int left = 0, top = 0, right = 0, bottom = 0;
};

SeenBox seen_in(const std::vector<Image>& frames) {
    constexpr float seen = 1.0f / 510;
    const int width = frames[0].width, height = frames[0].height;
    SeenBox box = {width, height, 0, 0};
    for (const Image& frame : frames) {
        for (int y = 0; y < height; ++y) {
            for (int x = 0; x < width; ++x) {
                const Colour& c = frame.at(x, y);
                if (std::max({c.alpha, c.red, c.green, c.blue}) > seen) {
                    box = {std::min(box.left, x), std::min(box.top, y), std::max(box.right, x + 1),
                           std::max(box.bottom, y + 1)};
                }
            }
        }
    }
    if (box.right <= box.left) {
        return {0, 0, std::min(width, 1), std::min(height, 1)};
    }
    return {std::max(box.left - margin, 0), std::max(box.top - margin, 0),
            std::min(box.right + margin, width), std::min(box.bottom + margin, height)};
}

Image cut_out(const Image& image, const SeenBox& box) {
    Image out{box.right - box.left, box.bottom - box.top, {}};
    for (int y = box.top; y < box.bottom; ++y) {
        for (int x = box.left; x < box.right; ++x) {
            out.pixels.push_back(image.at(x, y));
        }
    }
    return out;
}

// Frames that go round, the first of them, and how far the last one's successor is from the first.
struct Looped {
    std::vector<Image> frames;
    int first = 0;
};

Looped looped(std::vector<Image> frames, SheetLoop loop) {
    const int count = int(frames.size());
    if (loop == SheetLoop::none || count < 4) {
        return {std::move(frames), 0};
    }
    if (loop == SheetLoop::fade) {
        const int over = std::max(count / 4, 1);
        std::vector<Image> out(frames.begin(), frames.end() - over);
        for (int i = 0; i < over; ++i) {
            // What would come after the end fades out while the beginning fades in.
            const float share = (float(i) + 0.5f) / float(over);
            out[size_t(i)] = faded(frames[size_t(count - over + i)], frames[size_t(i)], share);
        }
        return {std::move(out), 0};
    }
    // At least half of it is kept. Compared at an eighth of the size.
    std::vector<Grey> small;
    for (const Image& frame : frames) {
        small.push_back(halved(halved(halved(grey_of(frame)))));
    }
    const auto apart = [&](int a, int b) {
        double sum = 0;
        for (size_t i = 0; i < small[0].values.size(); ++i) {
            sum += std::fabs(double(small[size_t(a)].values[i] - small[size_t(b)].values[i]));
        }
        return sum;
    };
    int best_from = 0, best_to = count - 1;
    double best = 1e300;
    for (int from = 0; from + 1 < count; ++from) {
        for (int to = from + std::max(count / 2, 2); to + 1 < count; ++to) {
            // `to` would be shown in place of `from`, and moves on like it.
            const double distance = apart(from, to) + apart(from + 1, to + 1);
            if (distance < best) {
                best = distance;
                best_from = from;
                best_to = to;
            }
        }
    }
    return {{frames.begin() + best_from, frames.begin() + best_to}, best_from};
}

// Normals of a soft body whose thickness is its opacity: seen from the front, bent away at its rims.
void write_normals(const Image& frame, Image& sheet, int left, int top) {
    const Grey thick = halved(grey_of(frame));
    for (int y = 0; y < frame.height; ++y) {
        for (int x = 0; x < frame.width; ++x) {
            const float u = (float(x) - 0.5f) * 0.5f, v = (float(y) - 0.5f) * 0.5f;
            const float dx = thick.between(u + 1.5f, v) - thick.between(u - 1.5f, v);
            const float dy = thick.between(u, v + 1.5f) - thick.between(u, v - 1.5f);
            constexpr float bulge = 2.5f;
            const Vec3 normal = normalized(Vec3{-dx * bulge, dy * bulge, 1}, {0, 0, 1});
            sheet.pixels[size_t(top + y) * size_t(sheet.width) + size_t(left + x)] = {
                normal.x * 0.5f + 0.5f, normal.y * 0.5f + 0.5f, normal.z * 0.5f + 0.5f, 1};
        }
    }
}

} // namespace

MotionField motion_between(const Image& from, const Image& to) {
    std::vector<Grey> a = {grey_of(from)}, b = {grey_of(to)};
    constexpr int least = 6;
    while (std::min(a.back().width, a.back().height) >= 2 * least) {
        a.push_back(halved(a.back()));
        b.push_back(halved(b.back()));
    }
    Grey across(a.back().width, a.back().height), down = across;
    for (size_t level = a.size(); level-- > 0;) {
        if (level + 1 < a.size()) {
            Grey wide(a[level].width, a[level].height), high = wide;
            for (int y = 0; y < wide.height; ++y) {
                for (int x = 0; x < wide.width; ++x) {
                    const float u = (float(x) - 0.5f) * 0.5f, v = (float(y) - 0.5f) * 0.5f;
                    wide.at(x, y) = 2 * across.between(u, v);
                    high.at(x, y) = 2 * down.between(u, v);
                }
            }
            across = std::move(wide);
            down = std::move(high);
        }
        refine(a[level], b[level], across, down);
    }
    return {from.width, from.height, std::move(across.values), std::move(down.values)};
}

Image between(const Image& from, const Image& to, const MotionField& motion, float share) {
    Image out{from.width, from.height, std::vector<Colour>(from.pixels.size())};
    for (int y = 0; y < from.height; ++y) {
        for (int x = 0; x < from.width; ++x) {
            const size_t i = size_t(y) * size_t(from.width) + size_t(x);
            const Colour a = colour_at(from, float(x) - motion.x[i] * share, float(y) - motion.y[i] * share);
            const Colour b =
                colour_at(to, float(x) + motion.x[i] * (1 - share), float(y) + motion.y[i] * (1 - share));
            out.pixels[i] = mixed(a, b, share);
        }
    }
    return out;
}

Image faded(const Image& from, const Image& to, float share) {
    Image out{from.width, from.height, std::vector<Colour>(from.pixels.size())};
    for (size_t i = 0; i < out.pixels.size(); ++i) {
        out.pixels[i] = mixed(from.pixels[i], to.pixels[i], share);
    }
    return out;
}

double difference_of(const Image& a, const Image& b) {
    double sum = 0;
    for (size_t i = 0; i < a.pixels.size(); ++i) {
        const Colour &p = a.pixels[i], &q = b.pixels[i];
        sum += double(std::fabs(p.red - q.red) + std::fabs(p.green - q.green) + std::fabs(p.blue - q.blue) +
                      std::fabs(p.alpha - q.alpha));
    }
    return a.pixels.empty() ? 0 : sum / (4 * double(a.pixels.size()));
}

uint64_t SpriteSheet::bytes() const {
    return 4 * uint64_t(colours.pixels.size() + motion.pixels.size() + normals.pixels.size());
}

std::optional<Problem> refusal_of_sheet(int frames, int width, int height) {
    constexpr int most_frames = 1024;
    const double side = std::ceil(std::sqrt(double(frames)));
    if (frames < 1 || frames > most_frames || side * width > most_sheet_side ||
        side * height > most_sheet_side) {
        return Problem{"", 0, "sheet",
                       std::to_string(frames) + " pictures of " + std::to_string(width) + "x" +
                           std::to_string(height),
                       "at most " + std::to_string(most_frames) + " of them, in a sheet of at most " +
                           std::to_string(most_sheet_side) + " pixels a side"};
    }
    return std::nullopt;
}

SpriteSheet sheet_of(const std::vector<Image>& all, const SheetChoice& choice) {
    const SeenBox box = seen_in(all);
    std::vector<Image> trimmed;
    for (const Image& frame : all) {
        trimmed.push_back(cut_out(frame, box));
    }
    const Looped round = looped(std::move(trimmed), choice.loop);
    const std::vector<Image>& frames = round.frames;
    SpriteSheet sheet;
    sheet.frames = int(frames.size());
    sheet.cell_width = box.right - box.left;
    sheet.cell_height = box.bottom - box.top;
    sheet.trimmed_left = box.left;
    sheet.trimmed_top = box.top;
    sheet.first = round.first;
    sheet.is_premultiplied = choice.is_premultiplied;
    sheet.is_loop = choice.loop != SheetLoop::none;
    sheet.seam = difference_of(frames.back(), frames.front());
    // The grid that is nearest to a square and wastes the least.
    double best = 1e300;
    for (int columns = 1; columns <= sheet.frames; ++columns) {
        const int rows = (sheet.frames + columns - 1) / columns;
        const double wide = double(columns) * sheet.cell_width, high = double(rows) * sheet.cell_height;
        const double longest = std::max(wide, high);
        const double badness = longest * longest + wide * high;
        if (badness < best) {
            best = badness;
            sheet.columns = columns;
            sheet.rows = rows;
        }
    }
    const int width = sheet.columns * sheet.cell_width, height = sheet.rows * sheet.cell_height;
    const auto blank = [&](const Colour& colour) {
        return Image{width, height, std::vector<Colour>(size_t(width) * size_t(height), colour)};
    };
    sheet.colours = blank({0, 0, 0, 0});
    std::vector<MotionField> motions(choice.has_motion ? frames.size() : 0);
    tbb::parallel_for(size_t(0), motions.size(), [&](size_t i) {
        const bool is_last = i + 1 == frames.size();
        const Image& next = frames[is_last ? (choice.loop == SheetLoop::none ? i : 0) : i + 1];
        motions[i] = motion_between(frames[i], next);
    });
    for (const MotionField& motion : motions) {
        for (size_t i = 0; i < motion.x.size(); ++i) {
            sheet.motion_px = std::max({sheet.motion_px, std::fabs(motion.x[i]), std::fabs(motion.y[i])});
        }
    }
    if (choice.has_motion) {
        sheet.motion = blank({0.5f, 0.5f, 0, 1});
    }
    if (choice.has_normals) {
        sheet.normals = blank({0.5f, 0.5f, 1, 1});
    }
    for (int frame = 0; frame < sheet.frames; ++frame) {
        const int left = frame % sheet.columns * sheet.cell_width,
                  top = frame / sheet.columns * sheet.cell_height;
        for (int y = 0; y < sheet.cell_height; ++y) {
            for (int x = 0; x < sheet.cell_width; ++x) {
                const size_t from = size_t(y) * size_t(sheet.cell_width) + size_t(x);
                const size_t to = size_t(top + y) * size_t(width) + size_t(left + x);
                sheet.colours.pixels[to] = frames[size_t(frame)].pixels[from];
                if (choice.has_motion) {
                    const MotionField& motion = motions[size_t(frame)];
                    const float scale = 0.5f / sheet.motion_px;
                    sheet.motion.pixels[to] = {0.5f + motion.x[from] * scale, 0.5f + motion.y[from] * scale,
                                               0, 1};
                }
            }
        }
        if (choice.has_normals) {
            write_normals(frames[size_t(frame)], sheet.normals, left, top);
        }
    }
    return sheet;
}

Image played(const SpriteSheet& sheet, double frame) {
    const auto cell = [&](const Image& of, int number) {
        const int left = number % sheet.columns * sheet.cell_width,
                  top = number / sheet.columns * sheet.cell_height;
        return cut_out(of, {left, top, left + sheet.cell_width, top + sheet.cell_height});
    };
    const int number = std::clamp(int(frame), 0, sheet.frames - 1);
    const int next = number + 1 < sheet.frames ? number + 1 : sheet.is_loop ? 0 : number;
    const Image from = cell(sheet.colours, number), to = cell(sheet.colours, next);
    const auto share = float(frame - number);
    if (sheet.motion.pixels.empty()) {
        return faded(from, to, share);
    }
    MotionField motion{from.width, from.height, {}, {}};
    for (const Colour& c : cell(sheet.motion, number).pixels) {
        motion.x.push_back((c.red - 0.5f) * 2 * sheet.motion_px);
        motion.y.push_back((c.green - 0.5f) * 2 * sheet.motion_px);
    }
    return between(from, to, motion, share);
}

std::optional<Problem> write_sheet(const SpriteSheet& sheet, double frames_per_s,
                                   const std::filesystem::path& folder) {
    // Light that glows has more than its opacity: with opacity as large as the light, straight colours hold
    // it.
    Image colours = sheet.colours;
    for (Colour& c : colours.pixels) {
        const float alpha = std::clamp(std::max({c.alpha, c.red, c.green, c.blue}), 0.0f, 1.0f);
        const float by = sheet.is_premultiplied || alpha <= 0 ? 1 : 1 / alpha;
        c = {std::min(c.red * by, 1.0f), std::min(c.green * by, 1.0f), std::min(c.blue * by, 1.0f),
             sheet.is_premultiplied ? std::clamp(c.alpha, 0.0f, 1.0f) : alpha};
    }
    if (auto problem = write_png(colours, PngDepth::bits8, folder / "sheet.png")) {
        return problem;
    }
    const auto write_data = [&](const Image& image, const char* name) -> std::optional<Problem> {
        std::vector<uint16_t> codes;
        for (const Colour& c : image.pixels) {
            for (const float part : {c.red, c.green, c.blue}) {
                codes.push_back(uint16_t(std::lround(std::clamp(part, 0.0f, 1.0f) * 65535)));
            }
        }
        return image.pixels.empty() ? std::nullopt
                                    : write_codes(image.width, image.height, 3, codes, folder / name);
    };
    if (auto problem = write_data(sheet.motion, "sheet-motion.png")) {
        return problem;
    }
    if (auto problem = write_data(sheet.normals, "sheet-normals.png")) {
        return problem;
    }
    nlohmann::ordered_json json;
    json["format"] = "crisp-ember sheet";
    json["version"] = 1;
    json["frames"] = sheet.frames;
    json["frames_per_s"] = frames_per_s;
    json["columns"] = sheet.columns;
    json["rows"] = sheet.rows;
    json["cell_px"] = {sheet.cell_width, sheet.cell_height};
    json["trimmed_left_px"] = sheet.trimmed_left;
    json["trimmed_top_px"] = sheet.trimmed_top;
    json["first_frame"] = sheet.first;
    json["seam"] = sheet.seam;
    json["premultiplied"] = sheet.is_premultiplied;
    json["motion_px"] = sheet.motion.pixels.empty() ? 0.0 : double(sheet.motion_px);
    json["bytes"] = sheet.bytes();
    return write_file(folder / "sheet.json", [&](std::ostream& stream) { stream << json.dump(1) << "\n"; });
}

} // namespace ember
