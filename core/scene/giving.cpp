#include "core/scene/giving.h"

#include "core/effect/smoke_size.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

int scaled(int count, float share) {
    return int(std::lround(float(count) * share));
}

} // namespace

float share_left(const WaysToGive& ways, const Gives& gives, GiveWay way) {
    const float given = float(std::min(int(gives[size_t(way)]), most_given)) / float(most_given);
    return ways.keeper ? 1 - (1 - least_of(ways, way)) * given : 1;
}

bool can_give(const Element& element) {
    return std::holds_alternative<Emitter>(element.body) || std::holds_alternative<Smoke>(element.body) ||
           std::holds_alternative<Breakable>(element.body);
}

bool can_give(const Look& look) {
    return look.copies > 0;
}

void give_way(const Gives& gives, Effect& now) {
    const WaysToGive ways = now.budget;
    const auto left = [&](GiveWay way) { return share_left(ways, gives, way); };
    for (Element& element : now.elements) {
        if (auto* emitter = std::get_if<Emitter>(&element.body)) {
            const float share = std::max(left(GiveWay::births), emitter->keeps);
            emitter->rate *= share;
            emitter->per_metre *= share;
            emitter->per_parent_rate *= share;
            emitter->chance *= share;
            emitter->burst_count = scaled(emitter->burst_count, share);
        } else if (auto* smoke = std::get_if<Smoke>(&element.body)) {
            constexpr int slowest = 8;
            smoke->moves_every =
                std::min(int(std::lround(float(smoke->moves_every) / left(GiveWay::smoke))), slowest);
            const int blocks = scaled(smoke->resolution, left(GiveWay::cells) / smoke_block);
            if (left(GiveWay::cells) < 1) {
                smoke->resolution = std::min(smoke->resolution, std::max(blocks, 1) * smoke_block);
            }
        } else if (auto* breakable = std::get_if<Breakable>(&element.body)) {
            const float lingers = left(GiveWay::cleanup);
            breakable->linger = {breakable->linger.low * lingers, breakable->linger.high * lingers};
            breakable->longest_life *= lingers;
            breakable->capacity = std::max(scaled(breakable->capacity, left(GiveWay::pieces)), 1);
        }
    }
    now.stage.copies_shown *= left(GiveWay::copies); // saved pictures have all
}

} // namespace ember
