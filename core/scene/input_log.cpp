#include "core/scene/input_log.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <cstring>

namespace ember {

namespace {

constexpr std::string_view mark = "CEinputs";
constexpr uint16_t version = 3;              // 1 had no keeper, 2 fewer ways to give
constexpr uint64_t most_steps = 100'000'000; // 19 days
constexpr uint64_t most_clicks = 1000, most_keys = 1000;
static_assert(std::endian::native == std::endian::little, "files are little-endian");

enum Flag : uint8_t {
    has_pointer = 1,
    moves_pointer = 2,
    has_clicks = 4,
    has_keys = 8,
    cleans = 16,
    has_gives = 32,
    all = 63,
    all_of_version_1 = 31
};

StepInputs carried(StepInputs inputs) {
    inputs.clicks = 0;
    inputs.keys.clear();
    return inputs;
}

struct Writer {
    std::string bytes;

    template <class T>
    void put(const T& value) {
        bytes.append(reinterpret_cast<const char*>(&value), sizeof value);
    }
    // Seven bits a byte, the lowest first; the eighth says that more follow (LEB128).
    void count(uint64_t value) {
        for (; value >= 128; value >>= 7) {
            put(uint8_t(value | 128));
        }
        put(uint8_t(value));
    }
};

struct Reader {
    std::string_view bytes;
    bool failed = false;

    template <class T>
    T get() {
        T value{};
        if (bytes.size() < sizeof value) {
            failed = true;
            return value;
        }
        std::memcpy(&value, bytes.data(), sizeof value);
        bytes.remove_prefix(sizeof value);
        return value;
    }
    uint64_t count() {
        uint64_t value = 0;
        for (int shift = 0; shift < 63; shift += 7) {
            const auto byte = get<uint8_t>();
            value |= uint64_t(byte & 127) << shift;
            if ((byte & 128) == 0) {
                return value;
            }
        }
        failed = true;
        return 0;
    }
};

} // namespace

const InputLog::Change* InputLog::last_before(uint64_t step) const {
    const auto behind = std::upper_bound(changes_.begin(), changes_.end(), step,
                                         [](uint64_t at, const Change& change) { return at < change.step; });
    return behind == changes_.begin() ? nullptr : &*(behind - 1);
}

void InputLog::add(uint64_t step, const StepInputs& inputs) {
    while (!changes_.empty() && changes_.back().step >= step) {
        changes_.pop_back();
    }
    if (inputs != (changes_.empty() ? StepInputs() : carried(changes_.back().inputs))) {
        changes_.push_back({step, inputs});
    }
    end_ = step + 1;
}

StepInputs InputLog::at(uint64_t step) const {
    const Change* change = last_before(step);
    return change == nullptr ? StepInputs() : change->step == step ? change->inputs : carried(change->inputs);
}

size_t InputLog::bytes_held() const {
    return changes_.capacity() * sizeof(Change);
}

std::string InputLog::bytes() const {
    Writer out;
    out.bytes = mark;
    out.put(version);
    out.put(step_s_);
    out.count(end_);
    uint64_t next = 0;
    std::optional<PointerRay> pointer;
    Gives gives{};
    for (const auto& [step, inputs] : changes_) {
        out.count(step - next);
        next = step + 1;
        const bool moves = inputs.pointer && inputs.pointer != pointer;
        out.put(uint8_t((inputs.pointer ? has_pointer : 0) | (moves ? moves_pointer : 0) |
                        (inputs.clicks > 0 ? has_clicks : 0) | (inputs.keys.empty() ? 0 : has_keys) |
                        (inputs.cleans ? cleans : 0) | (inputs.gives != gives ? has_gives : 0)));
        if (moves) {
            out.put(*inputs.pointer);
        }
        pointer = inputs.pointer;
        if (inputs.clicks > 0) {
            out.count(uint64_t(inputs.clicks));
        }
        if (!inputs.keys.empty()) {
            out.count(inputs.keys.size());
            for (const int key : inputs.keys) {
                out.put(uint8_t(key));
            }
        }
        if (inputs.gives != gives) {
            out.put(inputs.gives);
        }
        gives = inputs.gives;
    }
    return out.bytes;
}

std::optional<InputLog> InputLog::read(std::string_view bytes, const std::string& file, Problems& problems) {
    const auto refused = [&](const std::string& found, const std::string& expected) {
        problems.push_back({file, 0, "", found, expected});
        return std::nullopt;
    };
    if (!bytes.starts_with(mark)) {
        return refused("another kind of file",
                       "a log of inputs, which begins with \"" + std::string(mark) + "\"");
    }
    Reader in{bytes.substr(mark.size())};
    const auto its_version = in.get<uint16_t>();
    if (!in.failed && (its_version < 1 || its_version > version)) {
        return refused("version " + std::to_string(its_version),
                       its_version > version ? "version 1 to 3; it was written by a newer program"
                                             : "version 1 to 3");
    }
    const uint8_t known = its_version == 1 ? all_of_version_1 : all;
    InputLog log(in.get<double>());
    log.end_ = in.count();
    if (in.failed || !(log.step_s_ > 0 && log.step_s_ <= 1) || log.end_ > most_steps) {
        return refused("a damaged beginning",
                       "a step of at most 1 s and at most " + std::to_string(most_steps) + " steps");
    }
    uint64_t next = 0;
    StepInputs inputs;
    while (!in.bytes.empty()) {
        inputs = carried(inputs);
        const uint64_t gap = in.count();
        const auto flags = in.get<uint8_t>();
        if (in.failed || gap >= log.end_ - std::min(next, log.end_) || (flags & ~known) != 0 ||
            ((flags & moves_pointer) != 0 && (flags & has_pointer) == 0)) {
            return refused("a damaged record before step " + std::to_string(next), "a log that is whole");
        }
        if ((flags & has_pointer) == 0) {
            inputs.pointer.reset();
        } else if ((flags & moves_pointer) != 0) {
            inputs.pointer = in.get<PointerRay>();
            const auto [from, way] = *inputs.pointer;
            if (!std::isfinite(from.x + from.y + from.z + way.x + way.y + way.z)) {
                return refused("a pointer that is nowhere, before step " + std::to_string(next),
                               "finite numbers");
            }
        } else if (!inputs.pointer) {
            return refused("a pointer without a place, before step " + std::to_string(next),
                           "a log that is whole");
        }
        inputs.cleans = (flags & cleans) != 0;
        if ((flags & has_clicks) != 0) {
            inputs.clicks = int(std::min(in.count(), most_clicks));
        }
        for (uint64_t left = (flags & has_keys) != 0 ? std::min(in.count(), most_keys) : 0; left > 0;
             --left) {
            inputs.keys.push_back(in.get<uint8_t>());
        }
        if ((flags & has_gives) != 0) {
            constexpr size_t ways_of_version_2 = 6;
            const size_t ways = its_version == 2 ? ways_of_version_2 : give_ways;
            inputs.gives = {};
            std::generate_n(inputs.gives.begin(), ways, [&] { return in.get<uint8_t>(); });
            const auto is_given = [](uint8_t given) { return given <= most_given; };
            if (!std::all_of(inputs.gives.begin(), inputs.gives.end(), is_given)) {
                return refused("more given than there is, before step " + std::to_string(next),
                               "0 to " + std::to_string(most_given) + " for each way");
            }
        }
        if (in.failed) {
            return refused("the end of the file within step " + std::to_string(next + gap),
                           "a log that is whole");
        }
        log.changes_.push_back({next + gap, inputs});
        next += gap + 1;
    }
    return log;
}

} // namespace ember
