// What is seen of a moment, from afar: fine enough to tell one picture from another, too coarse for the
// chance by which one spark flies here and another there.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace ember {

/// Rows from the top, 0xffrrggbb.
struct SmallPicture {
    int width = 0, height = 0;
    std::vector<uint32_t> pixels;
};

constexpr int seen_across = 24, seen_down = 15;

struct SeenMoment {
    double ms = 0; // that drawing took,
    /// of which: the stage, things, clouds of smoke, the stage out of focus, the finishing.
    std::array<double, 5> parts_ms{};
    std::vector<double> element_ms;         // of the things and clouds, in the order of the frame's elements
    std::vector<double> element_readied_ms; // within it: what goes by their number, not by their pixels
    /// The mean of what the screen shows in each cell of a grid of seen_across by seen_down, red, green and
    /// blue in 0..1, row by row.
    std::vector<float> cells;
    SmallPicture small;
};

/// `pixels`: rows of 0x..rrggbb, at least one of each.
SeenMoment seen_moment(const uint32_t* pixels, int width, int height);

/// How much of what an effect shows is another without something of it, 0 to 1: the difference between
/// pictures with it and without it, cell by cell and moment by moment, as a share of the difference that the
/// whole effect makes to the bare stage. 0 if nothing of the effect is seen.
double change_of(const std::vector<SeenMoment>& with, const std::vector<SeenMoment>& without,
                 const std::vector<SeenMoment>& bare);

/// At which of the moments two runs differ the most.
size_t most_different(const std::vector<SeenMoment>& a, const std::vector<SeenMoment>& b);

} // namespace ember
