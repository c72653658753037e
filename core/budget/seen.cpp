#include "core/budget/seen.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int small_width = 208;

int part(uint32_t pixel, int channel) {
    return int(pixel >> (16 - 8 * channel) & 255u);
}

// The mean of the pixels of a rectangle, 0..255 for each channel.
void mean_of(const uint32_t* pixels, int stride, int left, int top, int right, int bottom, float* mean) {
    double sums[3] = {};
    for (int y = top; y < bottom; ++y) {
        for (int x = left; x < right; ++x) {
            for (int c = 0; c < 3; ++c) {
                sums[c] += part(pixels[size_t(y) * size_t(stride) + size_t(x)], c);
            }
        }
    }
    for (int c = 0; c < 3; ++c) {
        mean[c] = float(sums[c] / std::max((right - left) * (bottom - top), 1));
    }
}

// Over the cells of a grid of `across` by `down`, each of at least one pixel.
template <class Visit>
void each_cell(const uint32_t* pixels, int width, int height, int across, int down, Visit visit) {
    for (int y = 0; y < down; ++y) {
        for (int x = 0; x < across; ++x) {
            const int left = x * width / across, top = y * height / down;
            float mean[3];
            mean_of(pixels, width, left, top, std::max((x + 1) * width / across, left + 1),
                    std::max((y + 1) * height / down, top + 1), mean);
            visit(mean);
        }
    }
}

double difference(const SeenMoment& a, const SeenMoment& b) {
    double sum = 0;
    for (size_t i = 0; i < std::min(a.cells.size(), b.cells.size()); ++i) {
        sum += std::fabs(double(a.cells[i]) - double(b.cells[i]));
    }
    return sum;
}

double difference(const std::vector<SeenMoment>& a, const std::vector<SeenMoment>& b) {
    double sum = 0;
    for (size_t i = 0; i < std::min(a.size(), b.size()); ++i) {
        sum += difference(a[i], b[i]);
    }
    return sum;
}

} // namespace

SeenMoment seen_moment(const uint32_t* pixels, int width, int height) {
    SeenMoment seen;
    seen.cells.reserve(size_t(3 * seen_across * seen_down));
    each_cell(pixels, width, height, seen_across, seen_down, [&](const float* mean) {
        for (int c = 0; c < 3; ++c) {
            seen.cells.push_back(mean[c] / 255);
        }
    });
    seen.small.width = std::min(small_width, width);
    seen.small.height = std::max(height * seen.small.width / width, 1);
    seen.small.pixels.reserve(size_t(seen.small.width) * size_t(seen.small.height));
    each_cell(pixels, width, height, seen.small.width, seen.small.height, [&](const float* mean) {
        const auto whole = [](float value) { return uint32_t(std::lround(value)); };
        seen.small.pixels.push_back(0xff000000u | whole(mean[0]) << 16 | whole(mean[1]) << 8 |
                                    whole(mean[2]));
    });
    return seen;
}

double change_of(const std::vector<SeenMoment>& with, const std::vector<SeenMoment>& without,
                 const std::vector<SeenMoment>& bare) {
    constexpr double nothing = 1e-3; // of all cells together: less than the last digit of one
    const double whole = difference(with, bare);
    return whole < nothing ? 0 : std::min(difference(with, without) / whole, 1.0);
}

size_t most_different(const std::vector<SeenMoment>& a, const std::vector<SeenMoment>& b) {
    size_t most = 0;
    double largest = -1;
    for (size_t i = 0; i < std::min(a.size(), b.size()); ++i) {
        if (const double here = difference(a[i], b[i]); here > largest) {
            largest = here;
            most = i;
        }
    }
    return most;
}

} // namespace ember
