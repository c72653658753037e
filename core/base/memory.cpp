#include "core/base/memory.h"

#include <fstream>
#include <string>

namespace ember {

uint64_t free_memory() {
    std::ifstream facts("/proc/meminfo");
    for (std::string name; facts >> name;) {
        uint64_t kilobytes = 0;
        if (name == "MemAvailable:" && facts >> kilobytes) {
            return kilobytes * 1024;
        }
    }
    return UINT64_MAX;
}

} // namespace ember
