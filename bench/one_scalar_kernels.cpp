// Rows of one scalar that is carried; compiled like the kernels of smoke, and with their arithmetic.
#include "bench/one_scalar.h"

#include "kernels/prelude_cpp.h"

namespace ember::EMBER_ISA {

#include "kernels/smoke.kern"

namespace {

#include "core/smoke/kernel_rows.h"

struct Place {
    real lowest; // of the eight cells round it, as an index
    rvec3 share; // of the next cell along each axis

    Place(const bench::ScalarTrace& trace, size_t at, int x, int y, int z, float times) {
        const SmokeSize& size = trace.size;
        const auto split = [&](const float* flow, real own, int count, real& part) {
            const real place = own + load_any(flow + at) * real(times);
            const real held = min(max(place, real(-1.0f)), real(float(count) - 0.001f));
            const real lower = floor(held);
            part = held - lower;
            return lower;
        };
        const real i = split(trace.flow.x, lane_index() + real(float(x)), size.x, share.x);
        const real j = split(trace.flow.y, real(float(y)), size.y, share.y);
        const real k = split(trace.flow.z, real(float(z)), size.z, share.z);
        lowest = (k * real(float(size.y + 2)) + j) * real(float(size.stride())) + i +
                 real(float(size.at(0, 0, 0)));
    }
};

template <class Visit>
KERNEL void each_corner(const SmokeSize& size, const float* values, const Place& place, Visit visit) {
    for (int corner = 0; corner < 8; corner += 2) {
        const float* row = values + (corner & 2 ? size.stride() : 0) + (corner & 4 ? size.slice() : 0);
        real near, far;
        fetch_pair(row, place.lowest, near, far);
        visit(corner, near);
        visit(corner + 1, far);
    }
}

KERNEL real mixed(const SmokeSize& size, const float* values, const Place& place) {
    real corners[8];
    each_corner(size, values, place, [&](int corner, real value) { corners[corner] = value; });
    const auto between = [](real a, real b, real share) { return a + (b - a) * share; };
    const auto along_x = [&](int first) {
        return between(corners[first], corners[first + 1], place.share.x);
    };
    return between(between(along_x(0), along_x(2), place.share.y),
                   between(along_x(4), along_x(6), place.share.y), place.share.z);
}

} // namespace

void carry_row(const bench::ScalarTrace& trace, int y, int z) {
    const size_t first = trace.size.at(0, y, z);
    each_in_row(trace.size, y, z, [&](size_t at) {
        const Place from(trace, at, int(at - first), y, z, -1);
        store_any(trace.out + at, mixed(trace.size, trace.values, from));
    });
}

void correct_row(const bench::ScalarTrace& trace, int y, int z) {
    const size_t first = trace.size.at(0, y, z);
    each_in_row(trace.size, y, z, [&](size_t at) {
        const Place from(trace, at, int(at - first), y, z, -1), to(trace, at, int(at - first), y, z, 1);
        real low = real(3e38f), high = real(-3e38f);
        each_corner(trace.size, trace.values, from, [&](int, real value) {
            low = min(low, value);
            high = max(high, value);
        });
        store_any(trace.out + at, put_right(load_any(trace.carried + at), load_any(trace.values + at),
                                            mixed(trace.size, trace.carried, to), low, high));
    });
}

} // namespace ember::EMBER_ISA
