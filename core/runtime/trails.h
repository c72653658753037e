// Where the particles of a source have been: samples of their places, from which trails are drawn.
//
// Samples lie evenly in time and hold what lived at each of them, in order of birth; a particle's trail is
// found by its number. What has died goes on leaving its trail until that has run out.
#pragma once

#include "core/particles/pool.h"
#include "core/runtime/frame.h"

#include <deque>
#include <vector>

namespace ember {

class Trails {
  public:
    static constexpr int most_samples = 24;

    /// To be called after each step. `length_s`: how long trails are, above 0.
    void add(const ParticlePool& pool, double time_s, double length_s);

    /// Trails as they are at a time, which is not before the last sample's.
    void write(const ParticlePool& pool, double time_s, double length_s, FrameSource& source) const;

    size_t bytes() const;

  private:
    struct Entry {
        uint32_t number;
        Vec3 place;
        float age_share; // of its life
        float size;      // m
        Mark mark;
    };
    using Entries = std::vector<Entry>; // by number
    struct Sample {
        double time_s;
        Entries entries;
    };
    static Entries entries_of(const ParticlePool& pool);

    std::deque<Sample> samples_; // the newest first
};

} // namespace ember
