// What crisp-ember-reader says to the program that asked it: marks, numbers, texts and plain arrays, as they
// lie in memory. Both ends are built together and run on one machine.
#pragma once

#include "core/base/problem.h"

#include <cstdint>
#include <string>
#include <type_traits>
#include <vector>

namespace ember {

/// What comes next.
enum class WireMark : uint8_t { progress, problem, result, none };

/// `Sink` has write(const void*, size_t).
template <class Sink>
class WireWriter {
  public:
    explicit WireWriter(Sink& sink) : sink_(sink) {}

    template <class T>
    requires std::is_trivially_copyable_v<T>
    void put(const T& value) { sink_.write(&value, sizeof value); }
    template <class T>
    void put(const std::vector<T>& values) {
        static_assert(std::is_trivially_copyable_v<T>);
        put(uint64_t(values.size()));
        sink_.write(values.data(), values.size() * sizeof(T));
    }
    void put(const std::string& text) {
        put(uint64_t(text.size()));
        sink_.write(text.data(), text.size());
    }
    void put(const Problem& problem) {
        put(problem.file);
        put(problem.line);
        put(problem.place);
        put(problem.found);
        put(problem.expected);
    }

  private:
    Sink& sink_;
};

/// `Source` has bool read(void*, size_t); each get() says whether it came.
template <class Source>
class WireReader {
  public:
    explicit WireReader(Source& source) : source_(source) {}

    template <class T>
    requires std::is_trivially_copyable_v<T>
    bool get(T& value) { return source_.read(&value, sizeof value); }
    template <class T>
    bool get(std::vector<T>& values) {
        uint64_t count = 0;
        if (!get(count) || count > most_bytes / sizeof(T)) {
            return false;
        }
        values.resize(size_t(count));
        return source_.read(values.data(), values.size() * sizeof(T));
    }
    bool get(std::string& text) {
        uint64_t count = 0;
        if (!get(count) || count > most_bytes) {
            return false;
        }
        text.resize(size_t(count));
        return source_.read(text.data(), text.size());
    }
    bool get(Problem& problem) {
        return get(problem.file) && get(problem.line) && get(problem.place) && get(problem.found) &&
               get(problem.expected);
    }

  private:
    static constexpr uint64_t most_bytes = uint64_t(8) << 30;
    Source& source_;
};

} // namespace ember
