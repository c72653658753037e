#include "core/base/problem.h"

namespace ember {

std::string Problem::text() const {
    std::string text = file;
    if (line > 0) {
        text += ":" + std::to_string(line);
    }
    for (const std::string& part : {place, "found " + found + ", expected " + expected}) {
        if (!part.empty()) {
            text += (text.empty() ? "" : ": ") + part;
        }
    }
    return text;
}

} // namespace ember
