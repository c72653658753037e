#include "cli/opening.h"

#include "core/base/file.h"
#include "core/effect/effect_file.h"
#include "core/runtime/simulation.h"
#include "render/png.h"
#include "render/still.h"

#include <cmath>
#include <iomanip>
#include <iostream>

namespace ember {

namespace {

constexpr int gap = 4; // pixels between pictures

struct Row {
    uint32_t seed = 0;
    double dearest_ms = 0, at_s = 0; // of the steps, and when that was
    size_t particles_most = 0, particles_then = 0, pieces_then = 0;
};

// Up to the moment of the picture.
Row run_with(Simulation& simulation, uint32_t seed, double until_s) {
    Row row;
    row.seed = seed;
    while (simulation.time_s() < until_s - 1e-9) {
        simulation.step();
        const Meters& meters = simulation.meters();
        if (simulation.time_s() > 0 && meters.step_ms > row.dearest_ms) {
            row.dearest_ms = meters.step_ms;
            row.at_s = simulation.time_s();
        }
        row.particles_most = std::max(row.particles_most, meters.particles);
    }
    row.particles_then = simulation.meters().particles;
    row.pieces_then = simulation.meters().debris.pieces;
    return row;
}

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
        Simulation simulation;
        simulation.set_effect(effect, loaded.assets);
        const Row row = run_with(simulation, effect->seed, options.at);
        std::cout << std::setw(10) << row.seed << std::setprecision(2) << std::setw(17) << row.dearest_ms
                  << std::setw(6) << row.at_s << std::setw(19) << row.particles_most << std::setw(6)
                  << row.particles_then << std::setw(13) << row.pieces_then << "\n"
                  << std::flush;
        if (sheet) {
            Frame frame;
            simulation.write_frame(frame);
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
