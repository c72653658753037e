// Memory for large arrays that are read side by side.
#pragma once

#include <atomic>
#include <cstddef>
#include <new>
#include <vector>

namespace ember {

/// Begins each array at another place within a page. Large allocations would all begin at the same one: a
/// store to one array holds up loads from the same place of the others, and they push one another out of the
/// cache.
template <class T>
class StaggeredAllocator {
  public:
    using value_type = T;

    StaggeredAllocator() = default;
    template <class Other>
    StaggeredAllocator(const StaggeredAllocator<Other>&) {}

    T* allocate(size_t count) {
        static std::atomic<size_t> turn = 0;
        // Steps that meet again late, and by pages' quarters in between.
        const size_t shift = (turn++ * 19 % 64 + 1) * line;
        auto* start =
            static_cast<std::byte*>(::operator new(count * sizeof(T) + 65 * line, std::align_val_t(line)));
        auto* place = start + shift;
        // The line before the array keeps where the memory begins.
        *reinterpret_cast<std::byte**>(place - line) = start;
        return reinterpret_cast<T*>(place);
    }
    void deallocate(T* place, size_t) {
        auto* start = *reinterpret_cast<std::byte**>(reinterpret_cast<std::byte*>(place) - line);
        ::operator delete(start, std::align_val_t(line));
    }
    bool operator==(const StaggeredAllocator&) const { return true; }

  private:
    static constexpr size_t line = 64; // bytes of a cache line
};

template <class T>
using StaggeredVector = std::vector<T, StaggeredAllocator<T>>;

} // namespace ember
