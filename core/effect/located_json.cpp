#include "core/effect/located_json.h"

#include <algorithm>
#include <functional>
#include <set>

namespace ember {

namespace {

constexpr size_t deepest = 32;
// More is no effect; finding the place of each would take minutes.
constexpr size_t most_members = 4096;
constexpr size_t most_values = 500'000;

// Walks over the text and counts lines as the parser reads on.
class CountingIterator {
  public:
    using difference_type = std::ptrdiff_t;
    using value_type = char;
    using pointer = const char*;
    using reference = const char&;
    using iterator_category = std::input_iterator_tag;

    struct Position {
        int line = 1;         // of the character that was read last
        bool newline = false; // whether that was a newline
    };

    CountingIterator(const char* at, Position* position) : at_(at), position_(position) {}
    const char& operator*() const { return *at_; }
    CountingIterator& operator++() {
        if (position_->newline) {
            ++position_->line;
        }
        position_->newline = *at_ == '\n';
        ++at_;
        return *this;
    }
    CountingIterator operator++(int) {
        CountingIterator before = *this;
        ++*this;
        return before;
    }
    bool operator==(const CountingIterator& other) const { return at_ == other.at_; }
    bool operator!=(const CountingIterator& other) const { return at_ != other.at_; }

  private:
    const char* at_;
    Position* position_;
};

struct TooMuch {
    std::string found;
};

// Follows the parser's events to know the place of each value.
class PlaceTracker {
  public:
    PlaceTracker(LocatedJson& located, const CountingIterator::Position& position)
        : located_(located), position_(position) {}

    void follow(Json::parse_event_t event, const Json& parsed) {
        using Event = Json::parse_event_t;
        switch (event) {
        case Event::object_start:
        case Event::array_start:
            open(event == Event::array_start);
            break;
        case Event::key:
            take_key(parsed.get_ref<const std::string&>());
            break;
        case Event::value:
            note();
            step();
            break;
        case Event::object_end:
        case Event::array_end:
            levels_.pop_back();
            step();
            break;
        }
    }

  private:
    struct Level {
        std::string place;
        bool is_list;
        size_t index = 0;
        std::string key;
        std::set<std::string, std::less<>> keys;
    };

    void take_key(const std::string& key) {
        Level& level = levels_.back();
        level.key = key;
        if (!level.keys.insert(key).second) {
            located_.notes.push_back({located_.file, position_.line, place(), "a second \"" + key + "\"",
                                      "each member once; the last one counts"});
        }
        if (level.keys.size() > most_members) {
            throw TooMuch{"more than " + std::to_string(most_members) + " members in one object"};
        }
    }

    std::string place() const {
        if (levels_.empty()) {
            return "";
        }
        const Level& level = levels_.back();
        return level.is_list ? child_place(level.place, level.index) : child_place(level.place, level.key);
    }
    void note() {
        if (located_.lines.size() >= most_values) {
            throw TooMuch{"more than " + std::to_string(most_values) + " values"};
        }
        located_.lines[place()] = position_.line;
    }
    void open(bool is_list) {
        if (levels_.size() >= deepest) {
            throw TooMuch{"lists and objects nested deeper than " + std::to_string(deepest)};
        }
        note();
        levels_.push_back({place(), is_list, 0, {}, {}});
    }
    void step() {
        if (!levels_.empty()) {
            ++levels_.back().index;
        }
    }

    LocatedJson& located_;
    const CountingIterator::Position& position_;
    std::vector<Level> levels_;
};

bool is_plain_list(const Json& value) {
    return value.is_array() &&
           std::none_of(value.begin(), value.end(), [](const Json& item) { return item.is_structured(); });
}

void write_pretty(const Json& value, const std::string& indent, std::string& out) {
    constexpr auto strings = Json::error_handler_t::replace;
    if (is_plain_list(value)) {
        out += '[';
        for (size_t i = 0; i < value.size(); ++i) {
            out += (i > 0 ? ", " : "") + value[i].dump(-1, ' ', false, strings);
        }
        out += ']';
        return;
    }
    if (!value.is_structured() || value.empty()) {
        out += value.dump(-1, ' ', false, strings);
        return;
    }
    const std::string deeper = indent + "  ";
    out += value.is_array() ? "[" : "{";
    bool first = true;
    for (const auto& [key, item] : value.items()) {
        out += (first ? "\n" : ",\n") + deeper;
        if (value.is_object()) {
            out += Json(key).dump(-1, ' ', false, strings) + ": ";
        }
        write_pretty(item, deeper, out);
        first = false;
    }
    out += "\n" + indent + (value.is_array() ? "]" : "}");
}

} // namespace

std::string child_place(const std::string& place, std::string_view key) {
    std::string child = place + "/";
    for (const char c : key) {
        if (c == '~') {
            child += "~0";
        } else if (c == '/') {
            child += "~1";
        } else {
            child += c;
        }
    }
    return child;
}

std::string child_place(const std::string& place, size_t index) {
    return place + "/" + std::to_string(index);
}

Problem LocatedJson::problem_at(const std::string& place, std::string found, std::string expected) const {
    // What is missing stands nowhere: its holder does.
    auto line = lines.find(place);
    for (std::string above = place; line == lines.end() && !above.empty();) {
        above.resize(above.rfind('/'));
        line = lines.find(above);
    }
    return {file, line == lines.end() ? 0 : line->second, place.empty() ? "/" : place, std::move(found),
            std::move(expected)};
}

std::optional<LocatedJson> parse_located(std::string_view text, const std::string& file, Problems& problems) {
    LocatedJson located;
    located.file = file;
    CountingIterator::Position position;
    PlaceTracker tracker(located, position);
    const auto follow = [&tracker](int, Json::parse_event_t event, Json& parsed) {
        tracker.follow(event, parsed);
        return true;
    };
    try {
        located.root = Json::parse(CountingIterator(text.data(), &position),
                                   CountingIterator(text.data() + text.size(), &position), follow);
        return located;
    } catch (const TooMuch& much) {
        problems.push_back({file, position.line, "", much.found, "an effect file"});
    } catch (const Json::exception& error) {
        std::string found = error.what();
        found = found.substr(std::min(found.find("] ") + 2, found.size()));
        std::replace_if(
            found.begin(), found.end(), [](char c) { return c >= 0 && c < ' '; }, ' ');
        problems.push_back(
            {file, position.line, "", found, "JSON text; the file may be cut short or damaged"});
    }
    return std::nullopt;
}

std::string excerpt(const Json& value) {
    std::string text = value.dump(-1, ' ', false, Json::error_handler_t::replace);
    return text.size() > 60 ? text.substr(0, 57) + "..." : text;
}

std::string pretty(const Json& value) {
    std::string out;
    write_pretty(value, "", out);
    return out + "\n";
}

} // namespace ember
