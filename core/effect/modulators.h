// Modulators: what drives parameters over time. Each has a value, usually between 0 and 1, that drives spread
// over a range of their own.
#pragma once

#include "core/effect/place.h"

namespace ember {

/// Tells modulators from the other kinds of element.
struct Modulator {
    bool operator==(const Modulator&) const = default;
};

enum class Wave { sine, triangle, saw, pulse };
enum class GrowthEnd { stay, go_on, again };
enum class StepOrder { up, shuffled };
enum class MoverFigure { distance, speed };

struct Cycle : Modulator {
    Wave wave = Wave::sine;
    float period = 2;
    float phase = 0;
    float width = 0.5f;
    bool operator==(const Cycle&) const = default;
};

struct Growth : Modulator {
    float start = 0;
    float duration = 5;
    GrowthEnd at_end = GrowthEnd::stay;
    bool operator==(const Growth&) const = default;
};

struct TimeCurve : Modulator {
    Curve curve = {{{0, 0}, {0.5f, 1}, {1, 0}}};
    float start = 0;
    float duration = 4;
    bool again = true;
    bool operator==(const TimeCurve&) const = default;
};

/// Smooth chance.
struct Sway : Modulator {
    float period = 1.5f;
    float roughness = 0.3f;
    bool operator==(const Sway&) const = default;
};

struct Steps : Modulator {
    int levels = 4;
    float every = 0.5f;
    float glide = 0;
    StepOrder order = StepOrder::up;
    bool operator==(const Steps&) const = default;
};

/// The particles that a source has alive.
struct CountReading : Modulator {
    std::string source;
    Range count = {0, 5000};
    bool operator==(const CountReading&) const = default;
};

/// How far from a place something is that has a place, or how fast it is carried.
struct MoverReading : Modulator {
    std::string of;
    MoverFigure figure = MoverFigure::distance;
    Vec3 from;
    Range span = {0, 2};
    bool operator==(const MoverReading&) const = default;
};

} // namespace ember
