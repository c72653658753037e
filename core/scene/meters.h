// What a step cost and what it holds, for each element. Figures here are measured, never estimated.
#pragma once

#include "core/scene/debris_meter.h"
#include "core/scene/smoke_meter.h"

#include <cstddef>
#include <cstdint>
#include <vector>

namespace ember {

struct ElementMeter {
    double ms = 0;               // of the step's wall-clock time
    double blocks_ms = 0;        // of a source: all that is done to its particles, by influences too
    size_t live = 0;             // particles of a source
    uint64_t born = 0;           // since the start
    uint32_t bursts = 0;         // of a source, by itself, in this step
    uint32_t fired = 0;          // of a trigger: how often it did something in this step
    size_t cells_captured = 0;   // of a collider's own grid: how many of its cells were made anew
    SmokeMeter smoke;            // of a volume
    DebrisMeter debris;          // of a breakable
    uint64_t refused_lately = 0; // in the last second
    uint64_t refused = 0;        // births that the capacity did not allow, since the start
};

struct Meters {
    double births_ms = 0; // births and deaths
    double forces_ms = 0; // forces and motion
    double collision_ms = 0;
    double smoke_ms = 0; // a volume that moves in one of n steps counts in each with an n-th of its time
    double debris_ms = 0;
    double step_ms = 0; // the whole step; the five parts add up to nearly all of it
    size_t particles = 0;
    DebrisMeter debris;                 // of all breakables
    size_t bytes = 0;                   // held for particles and pieces
    std::vector<ElementMeter> elements; // in the order of Effect::elements
};

} // namespace ember
