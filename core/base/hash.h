// Seeds for the hashed random numbers of kernels/random.kern.
#pragma once

#include <cstdint>
#include <string_view>

namespace ember {

/// FNV-1a (Fowler, Noll, Vo), 32 bits: the stable number of an element's id.
constexpr uint32_t hash_of(std::string_view text) {
    uint32_t hash = 2166136261u;
    for (const char c : text) {
        hash = (hash ^ uint8_t(c)) * 16777619u;
    }
    return hash;
}

/// One seed made of two; every bit of either reaches every bit of the result.
constexpr uint32_t mixed_seed(uint32_t a, uint32_t b) {
    uint32_t h = a * 0x9e3779b9u + b;
    h = (h ^ (h >> 16)) * 0x7feb352du;
    h = (h ^ (h >> 15)) * 0x846ca68bu;
    return h ^ (h >> 16);
}

} // namespace ember
