#include "core/bake/motion_keys.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr float near_m = 0.001f, near_radians = 0.1f * radians_per_degree, near_size = 0.004f;

bool is_near(const MotionKey& truth, const MotionKey& a, const MotionKey& b, float whole) {
    const float share = float(truth.frame - a.frame) / float(b.frame - a.frame);
    const Vec3 place = a.place + (b.place - a.place) * share;
    const float cosine = std::min(std::fabs(dot(between(a.turn, b.turn, share), truth.turn)), 1.0f);
    return length(place - truth.place) <= near_m && 2 * std::acos(cosine) <= near_radians &&
           std::fabs(a.size + (b.size - a.size) * share - truth.size) <= near_size * whole;
}

} // namespace

std::vector<MotionKey> thinned(const std::vector<MotionKey>& keys, float whole) {
    constexpr size_t farthest = 120; // frames between two keys: longer looks back are not worth their time
    std::vector<MotionKey> kept = {keys.front()};
    for (size_t from = 0; from + 1 < keys.size();) {
        size_t to = from + 1;
        for (size_t next = from + 2; next < keys.size() && next - from <= farthest; ++next) {
            const bool fits = std::all_of(
                keys.begin() + long(from) + 1, keys.begin() + long(next),
                [&](const MotionKey& key) { return is_near(key, keys[from], keys[next], whole); });
            if (!fits) {
                break;
            }
            to = next;
        }
        kept.push_back(keys[to]);
        from = to;
    }
    return kept;
}

} // namespace ember
