#include "core/smoke/pockets.h"

#include <algorithm>
#include <numeric>

namespace ember {

namespace {

// Spans of gas, and which of them belong together.
class Parts {
  public:
    Parts(const SmokeSize& size, const std::vector<uint16_t>& solid)
        : first_of_row_(size_t(size.y) * size_t(size.z) + 1) {
        for (int z = 0; z < size.z; ++z) {
            for (int y = 0; y < size.y; ++y) {
                const uint16_t* row = solid.data() + size.at(0, y, z);
                for (int x = 0; x < size.x; ++x) {
                    const int low = x;
                    while (x < size.x && row[x] == 0) {
                        ++x;
                    }
                    if (x > low) {
                        spans.push_back({low, x, y, z});
                    }
                }
                first_of_row_[size_t(z) * size_t(size.y) + size_t(y) + 1] = spans.size();
            }
        }
        parent_.resize(spans.size());
        std::iota(parent_.begin(), parent_.end(), size_t(0));
        for (int z = 0; z < size.z; ++z) {
            for (int y = 0; y < size.y; ++y) {
                const size_t row = size_t(z) * size_t(size.y) + size_t(y);
                if (y > 0) {
                    join_rows(row, row - 1);
                }
                if (z > 0) {
                    join_rows(row, row - size_t(size.y));
                }
            }
        }
    }

    /// The number of a span's part.
    size_t part(size_t span) {
        while (parent_[span] != span) {
            span = parent_[span] = parent_[parent_[span]];
        }
        return span;
    }

    std::vector<CellSpan> spans;

  private:
    // Both are in order of x.
    void join_rows(size_t one, size_t other) {
        size_t a = first_of_row_[one], b = first_of_row_[other];
        while (a < first_of_row_[one + 1] && b < first_of_row_[other + 1]) {
            if (spans[a].low < spans[b].high && spans[b].low < spans[a].high) {
                parent_[part(a)] = part(b);
            }
            ++(spans[a].high < spans[b].high ? a : b);
        }
    }

    std::vector<size_t> first_of_row_, parent_;
};

bool is_at_open_side(const CellSpan& span, const SmokeSize& size, SmokeSides sides) {
    const bool is_at_side =
        span.low == 0 || span.high == size.x || span.z == 0 || span.z + 1 == size.z || span.y + 1 == size.y;
    return (sides != SmokeSides::closed && is_at_side) || (sides == SmokeSides::open && span.y == 0);
}

} // namespace

std::vector<CellSpan> enclosed_gas(const SmokeSize& size, SmokeSides sides,
                                   const std::vector<uint16_t>& solid) {
    Parts parts(size, solid);
    std::vector<char> is_free(parts.spans.size(), 0);
    std::vector<int> cells(parts.spans.size(), 0);
    for (size_t i = 0; i < parts.spans.size(); ++i) {
        const CellSpan& span = parts.spans[i];
        if (is_at_open_side(span, size, sides)) {
            is_free[parts.part(i)] = 1;
        }
        cells[parts.part(i)] += span.high - span.low;
    }
    if (sides == SmokeSides::closed && !cells.empty()) {
        is_free[size_t(std::max_element(cells.begin(), cells.end()) - cells.begin())] = 1;
    }
    std::vector<CellSpan> enclosed;
    for (size_t i = 0; i < parts.spans.size(); ++i) {
        if (is_free[parts.part(i)] == 0) {
            enclosed.push_back(parts.spans[i]);
        }
    }
    return enclosed;
}

} // namespace ember
