#include "core/budget/fit_versions.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr float usual_end = 0.2f; // of what a number was

} // namespace

std::vector<FitNumber> numbers_to_fit(const Effect& effect) {
    std::vector<FitNumber> numbers;
    // Once, of a look that several wear.
    const auto offer_all = [&](std::string_view holder, const std::string& parameter, float end) {
        const FitNumber number{std::string(holder), parameter, end, 1};
        if (value_of(effect, number) > double(end) &&
            std::find(numbers.begin(), numbers.end(), number) == numbers.end()) {
            numbers.push_back(number);
        }
    };
    const auto offer = [&](const std::string& holder, const char* parameter, float least) {
        const double value = value_of(effect, {holder, parameter});
        offer_all(holder, parameter, float(std::max(value * double(usual_end), double(least))));
    };
    for (const Element& element : effect.elements) {
        if (!is_active(effect, element)) {
            continue;
        }
        if (const auto* emitter = std::get_if<Emitter>(&element.body)) {
            if (emitter->parent.empty()) {
                offer(element.id, "rate", 0);
                offer(element.id, "burst_count", 1);
            } else {
                offer(element.id, emitter->when == ChildWhen::always ? "per_parent_rate" : "chance", 0);
            }
            const Look* look = find_look(effect, emitter->look);
            if (look != nullptr && look->copies > 0) {
                offer(look->id, "copies", 0);
            }
            for (size_t i = 0; look != nullptr && has_layers(look->drawn_as) && i < look->layers.size();
                 ++i) {
                const Layer& layer = look->layers[i];
                if (layer.from != LayerFrom::none && layer.combine == Combine::add) {
                    offer_all(look->id, "layer" + std::to_string(i + 1) + "_gain", 0);
                }
            }
        } else if (std::holds_alternative<Smoke>(element.body)) {
            offer(element.id, "resolution", 16);
        } else if (std::holds_alternative<Turbulence>(element.body)) {
            offer_all(element.id, "octaves", 1);
        } else if (const auto* breakable = std::get_if<Breakable>(&element.body)) {
            if (breakable->pattern != CutPattern::courses) {
                offer(element.id, "pieces", 4);
            }
            offer(element.id, "again", 0);
            offer(element.id, "capacity", 10);
        }
    }
    offer_all(stage_id, "bloom", 0);
    offer_all(stage_id, "glare", 0);
    return numbers;
}

std::optional<std::string> refusal_of(const Effect& effect, const FitNumber& number) {
    const Parameter* parameter = parameter_of(effect, number);
    if (parameter == nullptr) {
        return "there is no number " + number.holder + "." + number.parameter;
    }
    const double end = number.end;
    if (!std::isfinite(end) || end < parameter->hard_low || end > parameter->hard_high) {
        return "expected for its end " + expectation_of(*parameter);
    }
    if (!(number.dearness > 0) || !std::isfinite(number.dearness)) {
        return "expected a dearness above 0";
    }
    return std::nullopt;
}

std::vector<LimitReading> readings_of(const Effect& effect, const TrialFigures& figures) {
    const Budget& budget = effect.budget;
    std::vector<LimitReading> readings = {
        {"Frame", "ms", double(budget.frame_ms), figures.frame_ms()},
        {"Particles", "", double(budget.particles), double(figures.particles_most)},
        {"Memory", "MB", double(budget.memory_mb), double(figures.bytes_most) / 1e6}};
    const auto has = [&](auto is_one) {
        return std::any_of(effect.elements.begin(), effect.elements.end(), is_one);
    };
    if (has([](const Element& each) { return std::holds_alternative<Breakable>(each.body); })) {
        readings.push_back({"Pieces", "", double(budget.pieces), double(figures.pieces_most)});
        readings.push_back({"Awake pieces", "", double(budget.awake_pieces), double(figures.awake_most)});
        readings.push_back({"Linger time", "s", double(budget.linger_s), figures.linger_most_s});
    }
    if (has([](const Element& each) { return std::holds_alternative<Smoke>(each.body); })) {
        readings.push_back({"Smoke cells", "", double(budget.smoke_cells), double(figures.cells_most)});
    }
    return readings;
}

} // namespace ember
