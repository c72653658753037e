// What a run cost, step by step, against its budget.
#pragma once

#include "core/runtime/simulation.h"

#include <ostream>
#include <string>
#include <vector>

namespace ember {

/// Rows go to a stream as they come; only sums and the steps' times are kept.
///
///     Report report(effect);
///     report.begin_csv(stream);
///     report.add(simulation); ...
///     report.end();
class Report {
  public:
    explicit Report(const Effect& effect);

    /// A line a step: time, costs in ms, particles, bytes, then ms and live count and refused births of each
    /// element.
    void begin_csv(std::ostream& stream);
    /// The same as an object: "effect", "seed", "budget", "steps", "summary".
    void begin_json(std::ostream& stream);

    /// Notes the simulation's last step.
    void add(const Simulation& simulation);

    /// Writes what stands behind the rows.
    void end();

    /// A few lines for a person.
    void write_summary(std::ostream& stream) const;

    /// True if the 95th percentile of the step times, or the largest number of particles, pieces or bytes,
    /// exceeds its limit.
    bool is_over_budget() const { return !excesses().empty(); }

  private:
    void write_csv_row(double time_s, const Meters& meters);
    void write_json_row(double time_s, const Meters& meters);
    /// One sentence for each limit that was exceeded.
    std::vector<std::string> excesses() const;
    double step_ms_at(double share) const; // percentile of the step times

    std::string name_;
    uint32_t seed_;
    Budget budget_;
    std::vector<std::string> ids_;
    std::ostream* csv_ = nullptr;
    std::ostream* json_ = nullptr;
    std::vector<float> step_ms_;
    size_t most_particles_ = 0, most_bytes_ = 0, most_pieces_ = 0, most_awake_ = 0;
    float longest_linger_s_ = 0;
    uint64_t refused_ = 0;
};

} // namespace ember
