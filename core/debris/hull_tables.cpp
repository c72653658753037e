#include "core/debris/hull_tables.h"

#include "core/geometry/hull_planes.h"

#include <algorithm>

namespace ember {

const std::vector<std::vector<float>>& HullTables::of(const std::shared_ptr<const Cut>& cut) {
    const auto [found, is_new] = of_cuts_.try_emplace(cut);
    if (is_new) {
        for (const auto& piece : cut->pieces) {
            found->second.push_back(hull_planes(piece.mesh));
        }
    }
    return found->second;
}

void HullTables::keep_only(std::span<const FrameDebris> shown) {
    std::erase_if(of_cuts_, [&](const auto& entry) {
        return std::none_of(shown.begin(), shown.end(),
                            [&](const FrameDebris& each) { return each.cut == entry.first; });
    });
}

} // namespace ember
