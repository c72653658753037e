#include "core/effect/tables/rows.h"

#include <algorithm>
#include <vector>

namespace ember {

std::span<const ElementType> element_types() {
    static const std::vector<ElementType> types = [] {
        std::vector<ElementType> all;
        for (const auto family : {tables::source_types(), tables::breakable_types(), tables::force_types(),
                                  tables::collider_types(), tables::breaking_types(), tables::mover_types(),
                                  tables::light_types(), tables::smoke_types(), tables::modulator_types(),
                                  tables::trigger_types()}) {
            all.insert(all.end(), family.begin(), family.end());
        }
        return all;
    }();
    return types;
}

const ElementType& type_of(const ElementBody& body) {
    const auto types = element_types();
    return *std::find_if(types.begin(), types.end(),
                         [&](const ElementType& type) { return type.prototype.index() == body.index(); });
}

const ElementType* find_type(std::string_view key) {
    const auto types = element_types();
    const auto found =
        std::find_if(types.begin(), types.end(), [key](const ElementType& type) { return type.key == key; });
    return found == types.end() ? nullptr : &*found;
}

} // namespace ember
