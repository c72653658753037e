// What a picture is drawn from: a copy of the particles that nobody writes to any more.
#pragma once

#include "core/effect/effect.h"
#include "core/runtime/meters.h"

#include <cstdint>
#include <string>
#include <vector>

namespace ember {

/// 16 bytes; a million of them are copied at every step.
struct FrameParticle {
    float x, y, z;       // m
    uint16_t age_share;  // share of its life, of 65535
    uint16_t size_share; // share of FrameSource::largest_size, of 65535
};

struct FrameSource {
    size_t element = 0;                   // index in Effect::elements
    float largest_size = 0;               // m
    std::vector<FrameParticle> particles; // in order of birth
};

struct Frame {
    EffectPtr effect; // the one that this step ran with
    double time_s = 0;
    uint64_t step = 0;
    std::vector<FrameSource> sources;
    Meters meters;

    size_t particle_count() const;
    size_t bytes() const;
};

} // namespace ember
