// Smoke: a gas within a bound, what feeds it and what pushes it.
#pragma once

#include "core/effect/clip_play.h"
#include "core/effect/place.h"

namespace ember {

enum class SmokeSides { open, ground, closed };

/// A gas in an upright box. Densities have no unit: 1 is a dense cloud. Heat is in kelvin above the air.
struct Smoke : Place, ClipPlay { // upright always; without a clip it is computed
    Vec3 size = {2, 2, 2};
    int resolution = 48; // cells along the longest side
    SmokeSides sides = SmokeSides::ground;
    int moves_every = 1; // steps
    int clip_volume = 1; // which of the clip's

    float fade = 0.3f;
    float settling = 0.1f;
    float cooling = 0.5f;
    float lift = 3;
    float weight = 0;
    float curl = 0.3f;
    float curl_size = 0.6f;
    float curl_pace = 0.5f;
    float fine_swirl = 0.2f;
    float broad_swirl = 0.1f;

    float absorption = 6;
    Colour colour = {0.85f, 0.86f, 0.88f, 1};
    float shadow = 1;
    float forward = 0.3f;
    float glow = 0;
    Ramp glow_ramp = {{{0, {0, 0, 0, 1}}, {0.4f, {0.5f, 0.06f, 0.01f, 1}}, {1, {1, 0.7f, 0.3f, 1}}}};
    float glow_heat = 300;
    float detail = 0.25f;
    bool operator==(const Smoke&) const = default;
};

enum class FeedShape { ball, box, particles };
enum class FeedWay { add, keep };

/// Puts smoke and heat into every volume that it reaches.
struct SmokeSource : Place {
    FeedShape shape = FeedShape::ball;
    Vec3 size = {0.4f, 0.4f, 0.4f};
    std::string source; // id of a source whose particles feed
    FeedWay way = FeedWay::add;
    float density = 2;
    float heat = 100;
    Curve density_over_life, heat_over_life; // of the particles that feed
    Vec3 velocity;
    float motion = 0;
    float ragged = 0.5f;
    float soft = 0.3f;
    bool operator==(const SmokeSource&) const = default;
};

/// Moves smoke along: as it moves itself, and with a velocity of its own.
struct Push : Place {
    float radius = 0.25f;
    float fade_distance = 0.15f;
    float motion = 1;
    Vec3 velocity;
    float grip = 20;
    bool operator==(const Push&) const = default;
};

} // namespace ember
