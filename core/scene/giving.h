// Giving way: what an effect does with less while it is near its frame limit.
#pragma once

#include "core/effect/effect.h"

#include <array>
#include <cstdint>

namespace ember {

/// How far each way is given, by GiveWay: 0 not at all, most_given down to what stays at least.
using Gives = std::array<uint8_t, give_ways>;
constexpr int most_given = 16;

/// What is left in a way, 1 to its least.
float share_left(const WaysToGive& ways, const Gives& gives, GiveWay way);

/// Whether giving can change it.
bool can_give(const Element& element);
bool can_give(const Look& look);

/// Does less, in place: births of sources down to what each keeps, copies that are shown while one works,
/// steps and cells of smoke, linger times and numbers of pieces. The size of the picture and what is far in
/// it are whoever draws it to see to. Nothing if the effect has no keeper.
void give_way(const Gives& gives, Effect& now);

} // namespace ember
