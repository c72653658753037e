#include "core/assets/mesh.h"

#include <algorithm>

namespace ember {

Vec3 Mesh::low() const {
    Vec3 low = corners.front();
    for (const Vec3& c : corners) {
        low = {std::min(low.x, c.x), std::min(low.y, c.y), std::min(low.z, c.z)};
    }
    return low;
}

Vec3 Mesh::high() const {
    Vec3 high = corners.front();
    for (const Vec3& c : corners) {
        high = {std::max(high.x, c.x), std::max(high.y, c.y), std::max(high.z, c.z)};
    }
    return high;
}

size_t Mesh::open_edges() const {
    // Each edge as it is walked; a closed mesh walks each once in either direction.
    std::vector<std::pair<uint32_t, uint32_t>> walked;
    walked.reserve(triangles.size() * 3);
    for (const auto& t : triangles) {
        for (size_t i = 0; i < 3; ++i) {
            walked.emplace_back(t[i], t[(i + 1) % 3]);
        }
    }
    std::sort(walked.begin(), walked.end());
    size_t open = 0;
    for (size_t i = 0; i < walked.size(); ++i) {
        const auto& [a, b] = walked[i];
        const bool doubled = i > 0 && walked[i - 1] == walked[i];
        const bool has_other = std::binary_search(walked.begin(), walked.end(), std::pair(b, a));
        open += doubled || !has_other ? 1 : 0;
    }
    return open;
}

} // namespace ember
