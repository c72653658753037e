// Long work tells how far it is and asks whether to go on.
#pragma once

#include <functional>
#include <string>

namespace ember {

struct Progress {
    /// `share` 0..1, of the part that `what` names. Returns false to cancel.
    std::function<bool(const std::string& what, float share)> report;

    bool goes_on(const std::string& what, float share) const { return !report || report(what, share); }
};

} // namespace ember
