// Cells of another size take over what a volume of smoke holds.
#include "core/smoke/rows.h"
#include "core/smoke/volume.h"

#include <cmath>

namespace ember {

namespace {

// Between which two of a row of `count` a place lies, counted from the middle of the first, and how far on.
struct Between {
    int low, high;
    float share;

    Between(float at, int count) {
        const float inside = std::clamp(at, 0.0f, float(count - 1));
        low = int(inside);
        high = std::min(low + 1, count - 1);
        share = inside - float(low);
    }
};

// Evenly mixed of the eight round a place; `value(i, j, k)`.
template <class Value>
float mixed(const Between& x, const Between& y, const Between& z, Value value) {
    const auto row = [&](int j, int k) {
        return std::lerp(value(x.low, j, k), value(x.high, j, k), x.share);
    };
    const auto slice = [&](int k) { return std::lerp(row(y.low, k), row(y.high, k), y.share); };
    return std::lerp(slice(z.low), slice(z.high), z.share);
}

double volume_of(const SmokeSize& size) {
    return std::pow(double(size.cell), 3);
}

} // namespace

void SmokeVolume::change_cells(const SmokeSize& size) {
    const SmokeSize old = size_;
    const SmokeCells cells = std::move(cells_);
    const FloatCells faces[3] = {std::move(faces_[0]), std::move(faces_[1]), std::move(faces_[2])};
    const auto sum = [](const SmokeSize& of, const SmokeCells& in) {
        return sum_rows(of, [&](int y, int z) {
            const SmokeCell* row = in.data() + of.packed(0, y, z);
            return std::accumulate(row, row + of.x, 0.0,
                                   [](double a, const SmokeCell& b) { return a + double(b.density); });
        });
    };
    const double held = sum(old, cells) * volume_of(old), thin = thin_ * volume_of(old);
    size_ = size;
    clear();
    thin_ = thin / volume_of(size);

    const int counts[3] = {old.x, old.y, old.z}, new_counts[3] = {size.x, size.y, size.z};
    const float low[3] = {(size.low.x - old.low.x) / old.cell, (size.low.y - old.low.y) / old.cell,
                          (size.low.z - old.low.z) / old.cell};
    // `on_face`: counted from the lower face of the first cell, else from its middle.
    const auto between = [&](int axis, int i, bool on_face) {
        const float half = on_face ? 0.0f : 0.5f;
        return Between(low[axis] + (float(i) + half) * size.cell / old.cell - half,
                       counts[axis] + (on_face ? 1 : 0));
    };
    each_row(size, [&](int k, int l) {
        const Between y = between(1, k, false), z = between(2, l, false);
        for (int i = 0; i < size.x; ++i) {
            const Between x = between(0, i, false);
            SmokeCell& cell = cells_[size.packed(i, k, l)];
            cell.density =
                mixed(x, y, z, [&](int a, int b, int c) { return cells[old.packed(a, b, c)].density; });
            cell.heat = mixed(x, y, z, [&](int a, int b, int c) { return cells[old.packed(a, b, c)].heat; });
        }
    });
    for (int axis = 0; axis < 3; ++axis) {
        each_slice(size.cells(), new_counts[2] + (axis == 2), [&](int l) {
            const Between z = between(2, l, axis == 2);
            for (int k = 0; k < new_counts[1] + (axis == 1); ++k) {
                const Between y = between(1, k, axis == 1);
                for (int i = 0; i < new_counts[0] + (axis == 0); ++i) {
                    faces_[axis][size.at(i, k, l)] =
                        mixed(between(0, i, axis == 0), y, z,
                              [&](int a, int b, int c) { return faces[axis][old.at(a, b, c)]; });
                }
            }
        });
    }
    // No smoke comes or goes by it.
    if (const double now = sum(size, cells_) * volume_of(size); now > 0) {
        const auto kept = float(std::clamp(held / now, 0.5, 2.0));
        each_row(size, [&](int y, int z) {
            SmokeCell* row = cells_.data() + size.packed(0, y, z);
            std::for_each_n(row, size.x, [kept](SmokeCell& cell) { cell.density *= kept; });
        });
    }
    each_slice(size.cells(), size.blocks_z(), [&](int block_z) {
        for (int z = block_z * smoke_block; z < (block_z + 1) * smoke_block; ++z) {
            for (int y = 0; y < size.y; ++y) {
                for (int x = 0; x < size.x; ++x) {
                    const SmokeCell& cell = cells_[size.packed(x, y, z)];
                    if (cell.density > 0 || cell.heat > 0) {
                        active_[size_t(size.block_of(x, y, z))] = 1;
                    }
                }
            }
        }
    });
    next_ = cells_;
    each_slice(size.cells(), size.z, reading_flow());
}

} // namespace ember
