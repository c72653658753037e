#include "core/scene/trigger_call.h"

#include <algorithm>

namespace ember {

int times_told(const std::vector<TriggerCall>& calls, TriggerThen then, const std::string& id) {
    constexpr std::ptrdiff_t most = 100;
    return int(std::min(most, std::count_if(calls.begin(), calls.end(), [&](const TriggerCall& call) {
                            return call.then == then && call.what == id;
                        })));
}

bool is_told(const Effect& effect, const std::string& id) {
    return std::any_of(effect.elements.begin(), effect.elements.end(), [&](const Element& element) {
        const auto* trigger = std::get_if<Trigger>(&element.body);
        return trigger != nullptr && !element.muted && trigger->what == id &&
               (trigger->then == TriggerThen::blast || trigger->then == TriggerThen::drop);
    });
}

} // namespace ember
