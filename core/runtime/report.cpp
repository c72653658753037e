#include "core/runtime/report.h"

#include "core/effect/parameter.h"

#include <nlohmann/json.hpp>

#include <algorithm>
#include <numeric>

namespace ember {

Report::Report(const Effect& effect) : name_(effect.name), seed_(effect.seed), budget_(effect.budget) {
    for (const Element& element : effect.elements) {
        ids_.push_back(element.id);
    }
}

void Report::add(const Simulation& simulation) {
    lines_.push_back({simulation.time_s(), simulation.meters()});
}

double Report::step_ms_at(double share) const {
    if (lines_.empty()) {
        return 0;
    }
    std::vector<double> times;
    for (const Line& line : lines_) {
        times.push_back(line.meters.step_ms);
    }
    const auto at = times.begin() + std::ptrdiff_t(share * double(times.size() - 1));
    std::nth_element(times.begin(), at, times.end());
    return *at;
}

size_t Report::most_particles_seen() const {
    size_t most = 0;
    for (const Line& line : lines_) {
        most = std::max(most, line.meters.particles);
    }
    return most;
}

size_t Report::most_bytes_seen() const {
    size_t most = 0;
    for (const Line& line : lines_) {
        most = std::max(most, line.meters.bytes);
    }
    return most;
}

uint64_t Report::refused() const {
    if (lines_.empty()) {
        return 0;
    }
    const auto& elements = lines_.back().meters.elements;
    return std::accumulate(elements.begin(), elements.end(), uint64_t(0),
                           [](uint64_t sum, const ElementMeter& meter) { return sum + meter.refused; });
}

double Report::most(double (*value)(const Meters&)) const {
    double most = 0;
    for (const Line& line : lines_) {
        most = std::max(most, value(line.meters));
    }
    return most;
}

std::vector<std::string> Report::excesses() const {
    std::vector<std::string> excesses;
    const auto check = [&](const char* what, double value, double limit, const char* unit) {
        if (value > limit) {
            excesses.push_back(std::string(what) + " " + text_of(float(value)) + unit + ", limit " +
                               text_of(float(limit)) + unit);
        }
    };
    check("step, 95 of 100", step_ms_at(0.95), budget_.frame_ms, " ms");
    check("particles", double(most_particles_seen()), budget_.particles, "");
    check("pieces", most([](const Meters& m) { return double(m.debris.pieces); }), budget_.pieces, "");
    check("awake pieces", most([](const Meters& m) { return double(m.debris.awake); }), budget_.awake_pieces,
          "");
    check("linger time", most([](const Meters& m) { return double(m.debris.linger_longest_s); }),
          double(budget_.linger_s), " s");
    check("memory", double(most_bytes_seen()) / 1e6, budget_.memory_mb, " MB");
    return excesses;
}

void Report::write_csv(std::ostream& stream) const {
    stream
        << "time_s,step_ms,births_ms,forces_ms,collision_ms,smoke_ms,debris_ms,particles,pieces,awake,bytes";
    for (const std::string& id : ids_) {
        stream << "," << id << "_ms," << id << "_live," << id << "_refused";
    }
    stream << "\n";
    for (const auto& [time_s, meters] : lines_) {
        stream << time_s << "," << meters.step_ms << "," << meters.births_ms << "," << meters.forces_ms << ","
               << meters.collision_ms << "," << meters.smoke_ms << "," << meters.debris_ms << ","
               << meters.particles << "," << meters.debris.pieces << "," << meters.debris.awake << ","
               << meters.bytes;
        for (const ElementMeter& element : meters.elements) {
            stream << "," << element.ms << "," << element.live << "," << element.refused;
        }
        stream << "\n";
    }
}

void Report::write_json(std::ostream& stream) const {
    using Json = nlohmann::ordered_json;
    Json root;
    root["effect"] = name_;
    root["seed"] = seed_;
    root["budget"] = {{"frame_ms", budget_.frame_ms},         {"particles", budget_.particles},
                      {"memory_mb", budget_.memory_mb},       {"pieces", budget_.pieces},
                      {"awake_pieces", budget_.awake_pieces}, {"linger_s", budget_.linger_s}};
    root["summary"] = {{"steps", lines_.size()},          {"step_ms_median", step_ms_at(0.5)},
                       {"step_ms_95", step_ms_at(0.95)},  {"particles_most", most_particles_seen()},
                       {"bytes_most", most_bytes_seen()}, {"refused_births", refused()},
                       {"over_budget", excesses()}};
    root["steps"] = Json::array();
    for (const auto& [time_s, meters] : lines_) {
        Json elements = Json::object();
        for (size_t i = 0; i < meters.elements.size(); ++i) {
            const ElementMeter& element = meters.elements[i];
            elements[ids_[i]] = {{"ms", element.ms}, {"live", element.live}, {"refused", element.refused}};
        }
        root["steps"].push_back({{"time_s", time_s},
                                 {"step_ms", meters.step_ms},
                                 {"births_ms", meters.births_ms},
                                 {"forces_ms", meters.forces_ms},
                                 {"collision_ms", meters.collision_ms},
                                 {"smoke_ms", meters.smoke_ms},
                                 {"debris_ms", meters.debris_ms},
                                 {"pieces", meters.debris.pieces},
                                 {"awake", meters.debris.awake},
                                 {"particles", meters.particles},
                                 {"bytes", meters.bytes},
                                 {"elements", std::move(elements)}});
    }
    stream << root.dump(1, ' ', false, Json::error_handler_t::replace) << "\n";
}

void Report::write_summary(std::ostream& stream) const {
    stream << name_ << ", seed " << seed_ << ": " << lines_.size() << " steps\n  step "
           << text_of(float(step_ms_at(0.5))) << " ms (median), " << text_of(float(step_ms_at(0.95)))
           << " ms (95 of 100)\n  particles at most " << most_particles_seen() << ", memory for them at most "
           << text_of(float(double(most_bytes_seen()) / 1e6)) << " MB\n";
    if (const double pieces = most([](const Meters& m) { return double(m.debris.pieces); }); pieces > 0) {
        stream << "  pieces at most " << pieces << ", awake at most "
               << most([](const Meters& m) { return double(m.debris.awake); }) << "\n";
    }
    if (refused() > 0) {
        stream << "  " << refused() << " births refused by capacity\n";
    }
    for (const std::string& excess : excesses()) {
        stream << "  over budget: " << excess << "\n";
    }
}

} // namespace ember
