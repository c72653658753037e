// Rows of cells as smoke's kernels go through them. Included inside the namespace of an instruction set,
// once.
#pragma once

template <class Visit>
KERNEL void each_in_row(const SmokeSize& size, int y, int z, Visit visit, int more = 0) {
    const size_t first = size.at(0, y, z);
    for (int i = 0; i < size.x + more; i += lanes) {
        visit(first + size_t(i));
    }
}
constexpr int and_last_face = 1;

KERNEL rvec3 load_at(const SmokePlanes& planes, size_t at) {
    return {load_any(planes.x + at), load_any(planes.y + at), load_any(planes.z + at)};
}
KERNEL void store_at(const SmokePlanes& planes, size_t at, const rvec3& value) {
    store_any(planes.x + at, value.x);
    store_any(planes.y + at, value.y);
    store_any(planes.z + at, value.z);
}
