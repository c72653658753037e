#include "core/budget/keeper.h"

#include "core/effect/smoke_size.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace ember {

namespace {

// Of the limit: above the first it gives, below the third there is room, above the last it is met if it
// climbs.
constexpr double near = 0.94, aimed_at = 0.88, roomy = 0.8, well_up = 0.7;
constexpr double settles_s = 0.3;      // before it looks at what giving has done
constexpr double longest_fall_s = 1.5; // that it waits for what is on its way
constexpr double far_over = 1.05;      // of the limit: then it does not wait
constexpr double shortest_wait_s = 3, longest_wait_s = 60;
constexpr double quick_s = 0.12, settling_s = 0.5, slow_s = 1.5; // that the means are over
constexpr double climbs = 1.08, climbed = 1.025;                 // of a mean over the next slower one
constexpr double looks_ahead_s = 3; // while costs climb: fewer births take a lifetime to be felt

// Whether the effect has anything that can be less in this way.
bool has(const Effect& effect, GiveWay way) {
    const auto any = [&](auto is_one) {
        return std::any_of(effect.elements.begin(), effect.elements.end(),
                           [&](const Element& element) { return !element.muted && is_one(element.body); });
    };
    switch (way) {
    case GiveWay::births:
        return any([](const ElementBody& body) {
            const auto* emitter = std::get_if<Emitter>(&body);
            return emitter != nullptr && emitter->keeps < 1;
        });
    case GiveWay::copies:
        return std::any_of(effect.looks.begin(), effect.looks.end(),
                           [](const Look& look) { return look.copies > 0; });
    case GiveWay::far:
        return any([](const ElementBody& body) { return std::holds_alternative<Emitter>(body); });
    case GiveWay::smoke:
        return any([](const ElementBody& body) { return std::holds_alternative<Smoke>(body); });
    case GiveWay::cells:
        return any([](const ElementBody& body) {
            const auto* smoke = std::get_if<Smoke>(&body);
            return smoke != nullptr && smoke->clip.empty() && smoke->resolution > smoke_block;
        });
    case GiveWay::cleanup:
    case GiveWay::pieces:
        return any([](const ElementBody& body) { return std::holds_alternative<Breakable>(body); });
    case GiveWay::picture:
        return true;
    }
    return false;
}

std::vector<int> turns_of(const Effect& effect) {
    std::set<int> turns;
    for (size_t way = 0; way < give_ways; ++way) {
        if (has(effect, GiveWay(way))) {
            turns.insert(turn_of(effect.budget, GiveWay(way)));
        }
    }
    turns.erase(0);
    return {turns.begin(), turns.end()};
}

double mixed(double mean, double value, double elapsed_s, double over_s) {
    return mean <= 0 ? value : mean + (value - mean) * (1 - std::exp(-elapsed_s / over_s));
}
// The same, but it falls at once: what is over by now hides no climbing.
double risen(double mean, double value, double elapsed_s, double over_s) {
    return std::min(mixed(mean, value, elapsed_s, over_s), value);
}

} // namespace

void Keeper::set_level(const Effect& effect, int level) {
    const std::vector<int> turns = turns_of(effect);
    level_ = std::clamp(level, 0, int(turns.size()) * most_given);
    gives_ = {};
    for (size_t i = 0; i < turns.size(); ++i) {
        for (size_t way = 0; way < give_ways; ++way) {
            if (turn_of(effect.budget, GiveWay(way)) == turns[i] && has(effect, GiveWay(way))) {
                gives_[way] = uint8_t(std::clamp(level_ - int(i) * most_given, 0, most_given));
            }
        }
    }
}

const Gives& Keeper::note(const Effect& effect, double elapsed_s, double frame_ms) {
    const Budget& budget = effect.budget;
    if (!budget.keeper || !std::isfinite(frame_ms) || !(elapsed_s > 0)) {
        if (!budget.keeper) {
            *this = Keeper();
        }
        return gives_;
    }
    quick_ms_ = mixed(quick_ms_, frame_ms, elapsed_s, quick_s);
    settling_ms_ = mixed(settling_ms_, frame_ms, elapsed_s, settling_s);
    slow_ms_ = mixed(slow_ms_, frame_ms, elapsed_s, slow_s);
    lately_ms_ = risen(lately_ms_, quick_ms_, elapsed_s, settling_s);
    before_ms_ = risen(before_ms_, quick_ms_, elapsed_s, slow_s);
    since_change_s_ += elapsed_s;
    const double limit = double(budget.frame_ms);
    const int before = level_;
    // What climbs in both of two means is met where it is going to be.
    const bool is_climbing = quick_ms_ > climbs * lately_ms_ && lately_ms_ > climbed * before_ms_;
    // Fewer births take a lifetime to be felt: near the limit nothing more is given while it gets cheaper by
    // itself; far over it the next turn helps out until then.
    const bool gets_cheaper = level_ > 0 && !is_climbing && quick_ms_ < settling_ms_ * 0.97 &&
                              quick_ms_ < far_over * limit && since_change_s_ < longest_fall_s;
    // Where it has just begun, the means are two thirds as far apart as they are going to be.
    const double ms_a_second = (quick_ms_ - lately_ms_) / (settling_s * 2 / 3);
    const double coming_ms = quick_ms_ + (is_climbing ? looks_ahead_s * ms_a_second : 0);
    const bool is_lasting =
        settling_ms_ > roomy * limit || (is_climbing && quick_ms_ > well_up * limit); // no spike of its own
    if (coming_ms > near * limit && is_lasting && since_change_s_ >= settles_s && !gets_cheaper) {
        // By so much as it is too dear.
        const double excess = coming_ms / (aimed_at * limit) - 1;
        const double turns = is_climbing ? 1.5 : 1; // what climbs goes on while little is felt of it yet
        const int more = std::clamp(int(std::ceil(excess * turns * most_given)), 1, int(turns * most_given));
        if (took_back_) {
            wait_s_ = std::min(wait_s_ * 2, longest_wait_s); // that was too early
        }
        ms_before_ = quick_ms_;
        set_level(effect, level_ + more);
        took_back_ = false;
        with_room_s_ = 0;
    } else if (level_ > 0 && slow_ms_ < roomy * limit && quick_ms_ < roomy * limit) {
        with_room_s_ += elapsed_s;
        ms_a_level_ = std::max((ms_before_ - slow_ms_) / std::max(level_, 1), 0.0);
        if (with_room_s_ >= wait_s_) {
            // As many as there is room for, if each costs what it saved.
            const double room = aimed_at * limit - slow_ms_;
            const int back = ms_a_level_ > 0 ? int(room / ms_a_level_) : most_given / 4;
            set_level(effect, level_ - std::clamp(back / 2, 1, most_given / 4));
            took_back_ = true;
            with_room_s_ = 0;
        }
    } else {
        with_room_s_ = 0;
    }
    if (level_ == 0 && since_change_s_ > longest_wait_s) {
        wait_s_ = shortest_wait_s;
    }
    if (level_ != before) {
        since_change_s_ = 0;
        ++changes_;
    }
    return gives_;
}

std::string words_of(const Budget& budget, const Gives& gives) {
    const auto left = [&](GiveWay way) { return share_left(budget, gives, way); };
    const auto percent = [&](GiveWay way) {
        return std::to_string(int(std::lround(left(way) * 100))) + " %";
    };
    std::string words;
    const auto add = [&](const std::string& text) { words += (words.empty() ? "" : ", ") + text; };
    const std::pair<GiveWay, const char*> ways[] = {
        {GiveWay::births, "births at "},   {GiveWay::copies, "copies at "},
        {GiveWay::far, "far ones at "},    {GiveWay::cells, "smoke detail at "},
        {GiveWay::picture, "picture at "}, {GiveWay::cleanup, "linger times at "},
        {GiveWay::pieces, "pieces at "}};
    for (const auto& [way, text] : ways) {
        if (left(way) < 1) {
            add(text + percent(way));
        }
    }
    if (const auto every = std::lround(1 / left(GiveWay::smoke)); every > 1) {
        add("smoke in one of " + std::to_string(every) + " steps");
    }
    return words;
}

} // namespace ember
