#include "core/runtime/report.h"

#include "core/base/markup.h"
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

void Report::begin_csv(std::ostream& stream) {
    csv_ = &stream;
    stream
        << "time_s,step_ms,births_ms,forces_ms,collision_ms,smoke_ms,debris_ms,particles,pieces,awake,bytes";
    for (const std::string& id : ids_) {
        for (const char* what : {"_ms", "_live", "_refused"}) {
            stream << "," << csv_cell(id + what);
        }
    }
    stream << "\n";
}

namespace {

using Json = nlohmann::ordered_json;

std::string text_of_json(const Json& json) {
    return json.dump(-1, ' ', false, Json::error_handler_t::replace);
}

} // namespace

void Report::begin_json(std::ostream& stream) {
    json_ = &stream;
    const Json budget = {{"frame_ms", budget_.frame_ms},         {"particles", budget_.particles},
                         {"memory_mb", budget_.memory_mb},       {"pieces", budget_.pieces},
                         {"awake_pieces", budget_.awake_pieces}, {"linger_s", budget_.linger_s}};
    stream << "{\n \"effect\": " << text_of_json(name_) << ",\n \"seed\": " << seed_
           << ",\n \"budget\": " << text_of_json(budget) << ",\n \"steps\": [";
}

void Report::add(const Simulation& simulation) {
    const Meters& meters = simulation.meters();
    if (csv_ != nullptr) {
        write_csv_row(simulation.time_s(), meters);
    }
    if (json_ != nullptr) {
        write_json_row(simulation.time_s(), meters);
    }
    step_ms_.push_back(float(meters.step_ms));
    most_particles_ = std::max(most_particles_, meters.particles);
    most_bytes_ = std::max(most_bytes_, meters.bytes);
    most_pieces_ = std::max(most_pieces_, meters.debris.pieces);
    most_awake_ = std::max(most_awake_, meters.debris.awake);
    longest_linger_s_ = std::max(longest_linger_s_, meters.debris.linger_longest_s);
    refused_ = std::accumulate(meters.elements.begin(), meters.elements.end(), uint64_t(0),
                               [](uint64_t sum, const ElementMeter& meter) { return sum + meter.refused; });
}

void Report::write_csv_row(double time_s, const Meters& meters) {
    *csv_ << time_s << "," << meters.step_ms << "," << meters.births_ms << "," << meters.forces_ms << ","
          << meters.collision_ms << "," << meters.smoke_ms << "," << meters.debris_ms << ","
          << meters.particles << "," << meters.debris.pieces << "," << meters.debris.awake << ","
          << meters.bytes;
    for (const ElementMeter& element : meters.elements) {
        *csv_ << "," << element.ms << "," << element.live << "," << element.refused;
    }
    *csv_ << "\n";
}

void Report::write_json_row(double time_s, const Meters& meters) {
    Json elements = Json::object();
    for (size_t i = 0; i < meters.elements.size(); ++i) {
        const ElementMeter& element = meters.elements[i];
        elements[ids_[i]] = {{"ms", element.ms}, {"live", element.live}, {"refused", element.refused}};
    }
    const Json row = {{"time_s", time_s},
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
                      {"elements", std::move(elements)}};
    *json_ << (step_ms_.empty() ? "\n  " : ",\n  ") << text_of_json(row);
}

void Report::end() {
    if (json_ == nullptr) {
        return;
    }
    const Json summary = {{"steps", step_ms_.size()},       {"step_ms_median", step_ms_at(0.5)},
                          {"step_ms_95", step_ms_at(0.95)}, {"particles_most", most_particles_},
                          {"bytes_most", most_bytes_},      {"refused_births", refused_},
                          {"over_budget", excesses()}};
    *json_ << "\n ],\n \"summary\": " << text_of_json(summary) << "\n}\n";
}

double Report::step_ms_at(double share) const {
    if (step_ms_.empty()) {
        return 0;
    }
    std::vector<float> times = step_ms_;
    const auto at = times.begin() + std::ptrdiff_t(share * double(times.size() - 1));
    std::nth_element(times.begin(), at, times.end());
    return double(*at);
}

std::vector<std::string> Report::excesses() const {
    std::vector<std::string> excesses;
    const auto check = [&](const char* what, double value, double limit, const char* unit) {
        if (value > limit) {
            excesses.push_back(std::string(what) + " " + text_of(float(value)) + unit + ", limit " +
                               text_of(float(limit)) + unit);
        }
    };
    check("step, 95 of 100", step_ms_at(0.95), double(budget_.frame_ms), " ms");
    check("particles", double(most_particles_), budget_.particles, "");
    check("pieces", double(most_pieces_), budget_.pieces, "");
    check("awake pieces", double(most_awake_), budget_.awake_pieces, "");
    check("linger time", double(longest_linger_s_), double(budget_.linger_s), " s");
    check("memory", double(most_bytes_) / 1e6, double(budget_.memory_mb), " MB");
    return excesses;
}

void Report::write_summary(std::ostream& stream) const {
    stream << name_ << ", seed " << seed_ << ": " << step_ms_.size() << " steps\n  step "
           << text_of(float(step_ms_at(0.5))) << " ms (median), " << text_of(float(step_ms_at(0.95)))
           << " ms (95 of 100)\n  particles at most " << most_particles_ << ", memory for them at most "
           << text_of(float(double(most_bytes_) / 1e6)) << " MB\n";
    if (most_pieces_ > 0) {
        stream << "  pieces at most " << most_pieces_ << ", awake at most " << most_awake_ << "\n";
    }
    if (refused_ > 0) {
        stream << "  " << refused_ << " births refused by capacity\n";
    }
    for (const std::string& excess : excesses()) {
        stream << "  over budget: " << excess << "\n";
    }
}

} // namespace ember
