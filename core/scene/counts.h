// How much there was after a step: what modulators and triggers of the next one listen to. What a step took
// is measured apart (meters.h), and reaches no step.
#pragma once

#include <cstddef>
#include <map>
#include <string>

namespace ember {

struct StepCounts {
    size_t particles = 0, pieces = 0, awake_pieces = 0;
    std::map<std::string, size_t> of; // particles of sources and pieces of breakables, by the element's id

    size_t of_element(const std::string& id) const {
        const auto found = of.find(id);
        return found == of.end() ? 0 : found->second;
    }
};

} // namespace ember
