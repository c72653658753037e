// Tracks: a parameter keyed over time. Numbers, ranges, vectors and colours run along curves, choices,
// toggles and counts switch.
#pragma once

#include "core/effect/parameter.h"

#include <optional>
#include <string>
#include <string_view>

namespace ember {

/// How many curves a parameter is keyed by: one for a number, a choice, a toggle or a count, two for a range,
/// three for a vector or a colour; 0 for what cannot be keyed.
int track_parts(const Parameter& parameter);
/// Whether it has the value of the last key until the next.
bool switches(const Parameter& parameter);

const Track* find_track(const Effect& effect, std::string_view holder, std::string_view parameter);

/// Whether the effect's own camera is keyed.
bool has_flying_camera(const Effect& effect);

/// The value at a moment (s of the artist's clock), within the parameter's limits. What switches does so at
/// its key.
Value value_at(const Track& track, const Parameter& parameter, double time_s);

/// Why a track cannot be in an effect (nothing to key, no keys, times out of order, values out of range);
/// nothing if it can.
std::optional<std::string> refusal_of(const Effect& effect, const Track& track);

/// Keys nearer than this are one (s).
constexpr float one_key_s = 0.002f;
/// Of one track.
constexpr size_t most_keys = 4096;
constexpr float first_key_s = -3600, last_key_s = 36000;

/// In place of what keyed that parameter. It has passed refusal_of().
Effect with_track(const Effect& effect, const Track& track);
Effect without_track(const Effect& effect, std::string_view holder, std::string_view parameter);

/// With a key at a moment, in place of one that is there; begins a track if there is none. The holder and the
/// parameter exist, can be keyed, and the value has passed refusal_of(); with most_keys there it stays as it
/// is.
Effect with_key(const Effect& effect, std::string_view holder, std::string_view parameter, double time_s,
                const Value& value);
/// Without the key at a moment; without the track if that was its last.
Effect without_key(const Effect& effect, std::string_view holder, std::string_view parameter, double time_s);
/// The key at one moment moved to another, in place of what is there.
Effect with_moved_key(const Effect& effect, std::string_view holder, std::string_view parameter,
                      double from_s, double to_s);
/// A key like the one at a moment, at another, in place of what is there; with most_keys there it stays as it
/// is.
Effect with_copied_key(const Effect& effect, std::string_view holder, std::string_view parameter,
                       double from_s, double to_s);
/// All keys of a track moved so that `from_s` of two moments come to `to_s` of them: stretched between.
Effect with_stretched_track(const Effect& effect, std::string_view holder, std::string_view parameter,
                            const Range& from_s, const Range& to_s);

} // namespace ember
