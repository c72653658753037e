// What a run cost, step by step, against its budget.
#pragma once

#include "core/runtime/simulation.h"

#include <ostream>
#include <string>
#include <vector>

namespace ember {

class Report {
  public:
    explicit Report(const Effect& effect);

    /// Notes the simulation's last step.
    void add(const Simulation& simulation);

    /// A line a step: time, costs in ms, particles, bytes, then ms and live count and refused births of each
    /// element.
    void write_csv(std::ostream& stream) const;
    /// The same as an object: "effect", "seed", "budget", "summary", "steps".
    void write_json(std::ostream& stream) const;
    /// A few lines for a person.
    void write_summary(std::ostream& stream) const;

    /// True if the 95th percentile of the step times, or the largest number of particles, pieces or bytes,
    /// exceeds its limit.
    bool is_over_budget() const { return !excesses().empty(); }

  private:
    struct Line {
        double time_s;
        Meters meters;
    };

    /// One sentence for each limit that was exceeded.
    std::vector<std::string> excesses() const;
    double step_ms_at(double share) const; // percentile of the step times
    double most(double (*value)(const Meters&)) const;
    size_t most_particles_seen() const;
    size_t most_bytes_seen() const;
    uint64_t refused() const;

    std::string name_;
    uint32_t seed_;
    Budget budget_;
    std::vector<std::string> ids_;
    std::vector<Line> lines_;
};

} // namespace ember
