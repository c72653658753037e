#include "cli/opening.h"

#include "core/base/file.h"
#include "core/budget/trial.h"
#include "core/effect/effect_file.h"
#include "render/png.h"
#include "render/still.h"

#include <cmath>
#include <iomanip>
#include <iostream>

namespace ember {

namespace {

constexpr int gap = 4; // pixels between pictures

// Pictures in rows, in the order of the table.
class Sheet {
  public:
    explicit Sheet(const SeedsOptions& options)
        : options_(options), columns_(int(std::ceil(std::sqrt(double(options.count))))) {
        const int rows = (options.count + columns_ - 1) / columns_;
        whole_.width = columns_ * (options.width + gap) - gap;
        whole_.height = rows * (options.height + gap) - gap;
        whole_.pixels.assign(size_t(whole_.width) * size_t(whole_.height), 0xff000000u);
    }

    void add(const Picture& picture) {
        const int left = count_ % columns_ * (options_.width + gap);
        const int top = count_++ / columns_ * (options_.height + gap);
        for (int y = 0; y < picture.height; ++y) {
            std::copy_n(picture.pixels.begin() + std::ptrdiff_t(y) * picture.width, picture.width,
                        whole_.pixels.begin() + std::ptrdiff_t(top + y) * whole_.width + left);
        }
    }

    std::optional<Problem> save() const { return write_png(whole_, options_.sheet); }

  private:
    const SeedsOptions& options_;
    int columns_, count_ = 0;
    Picture whole_;
};

} // namespace

int compare_seeds(const SeedsOptions& options) {
    const ReadResult read = read_effect(options.effect);
    if (!read.is_sound()) {
        return refuse(read.problems);
    }
    if (!options.sheet.empty()) {
        if (auto problem = refusal_to_write(options.sheet)) {
            problem->place = "--sheet";
            return refuse({*problem});
        }
    }
    constexpr double most_pixels = 16384.0 * 16384.0;
    const double pixels = double(options.count) * options.width * options.height;
    if (!options.sheet.empty() && pixels > most_pixels) {
        return refuse({{"", 0, "--size", std::to_string(options.count) + " pictures of that size",
                        "a sheet of at most 16384x16384 pixels"}});
    }
    tell_notes(*read.effect, read.notes);
    std::optional<Sheet> sheet;
    if (!options.sheet.empty()) {
        sheet.emplace(options);
    }
    for (int i = 0; i < options.count; ++i) {
        auto effect = std::make_shared<Effect>(*read.effect);
        effect->seed = read.effect->seed + uint32_t(i);
        // Cuts have the seed, too.
        const LoadResult loaded = load_assets(*effect, options.effect);
        if (!loaded.missing.empty()) {
            return refuse(loaded.missing);
        }
        if (i == 0) {
            std::cout << "      seed  dearest step ms  at s  particles at most  then  pieces then\n"
                      << std::fixed;
        }
        Trial trial(effect, loaded.assets, {0, options.at});
        while (trial.step()) {
        }
        const TrialFigures figures = trial.figures();
        std::cout << std::setw(10) << effect->seed << std::setprecision(2) << std::setw(17)
                  << figures.dearest_ms << std::setw(6) << figures.at_s << std::setw(19)
                  << figures.particles_most << std::setw(6) << figures.particles_then << std::setw(13)
                  << figures.pieces_then << "\n"
                  << std::flush;
        if (sheet) {
            Frame frame;
            trial.simulation().write_frame(frame);
            Picture picture;
            draw_still(frame, *frame.now, camera_of(frame.now->stage), options.width, options.height,
                       picture);
            sheet->add(picture);
        }
    }
    if (sheet) {
        if (const auto problem = sheet->save()) {
            return refuse({*problem});
        }
    }
    return said();
}

} // namespace ember
