// Hands the newest of a stream of values from one thread to another without either ever waiting.
#pragma once

#include <array>
#include <atomic>

namespace ember {

/// One writer and one reader. The writer fills back() and calls publish(); the reader calls take(), which
/// returns true if front() is now a newer value than before. Three slots are reused for ever, so their memory
/// is allocated once.
template <class T>
class TripleBuffer {
  public:
    T& back() { return slots_[back_]; }
    void publish() { back_ = middle_.exchange(back_ | fresh, std::memory_order_acq_rel) & index; }

    const T& front() const { return slots_[front_]; }
    bool take() {
        if ((middle_.load(std::memory_order_relaxed) & fresh) == 0) {
            return false;
        }
        front_ = middle_.exchange(front_, std::memory_order_acq_rel) & index;
        return true;
    }

  private:
    static constexpr unsigned fresh = 4;
    static constexpr unsigned index = 3;

    std::array<T, 3> slots_;
    unsigned back_ = 0;
    std::atomic<unsigned> middle_ = 1;
    unsigned front_ = 2;
};

} // namespace ember
