// When and where the particles of a source that has no parent come into the world within a step.
#pragma once

#include "core/scene/program.h"

#include <vector>

namespace ember {

/// One birth to come.
struct BirthOrigin {
    Vec3 position;    // of the middle of the birth shape, m
    Vec3 velocity;    // taken over, m/s
    float moment = 0; // s after the start of the step
    Colour tint;      // taken over from a parent
};

/// The births of a step. There may be more of them than origins: what is beyond a source's capacity is only
/// counted.
struct BirthList {
    std::vector<BirthOrigin> origins;
    uint64_t due = 0;
    uint32_t bursts = 0; // that they came in, beside those by rate
};

/// What a source owes: births and metres that do not make a whole one yet.
struct BirthDebt {
    double births = 0;
    double births_on_the_way = 0;
};

/// The births of a step, in order of time: by rate while the source gives birth, in bursts, and along the way
/// that it was carried.
BirthList births_due(const SourceProgram& program, const StepTime& time, BirthDebt& debt);

/// The share of time in which an emitter gives birth, once it has begun.
double birth_share(const Emitter& emitter);

} // namespace ember
