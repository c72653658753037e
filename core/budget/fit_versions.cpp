#include "core/budget/fit_versions.h"

#include "core/effect/edit.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace ember {

namespace {

constexpr double most_made_up = 4; // times as few

double number_in(const Value& value) {
    const auto* whole = std::get_if<int>(&value);
    return whole != nullptr ? *whole : double(std::get<float>(value));
}

double on_the_way(double from, double to, double share) {
    return from > 0 && to > 0 ? from * std::pow(to / from, share) : from + (to - from) * share;
}

// How many times more there were of a source: of its births, and of those that bear it.
double times_more(const Effect& before, const Effect& fitted, const std::string& id) {
    const auto births = [&](const Effect& effect) {
        const auto& emitter = std::get<Emitter>(find_element(effect, id)->body);
        if (!emitter.parent.empty()) {
            return double(emitter.when == ChildWhen::always ? emitter.per_parent_rate : emitter.chance);
        }
        return emitter.rate > 0 ? double(emitter.rate) : double(emitter.burst_count);
    };
    double times = births(fitted) > 0 ? births(before) / births(fitted) : 1;
    const std::string& parent = std::get<Emitter>(find_element(fitted, id)->body).parent;
    const Element* bears = parent.empty() || parent == id ? nullptr : find_element(fitted, parent);
    if (bears != nullptr && std::holds_alternative<Emitter>(bears->body)) {
        times *= times_more(before, fitted, parent);
    }
    return times;
}

} // namespace

const Parameter* parameter_of(const Effect& effect, const FitNumber& number) {
    const auto holder = find_holder(effect, number.holder);
    const Parameter* parameter = holder ? holder->find(number.parameter) : nullptr;
    const bool is_number = parameter != nullptr && (parameter->kind == ParameterKind::number ||
                                                    parameter->kind == ParameterKind::count);
    return is_number ? parameter : nullptr;
}

double value_of(const Effect& effect, const FitNumber& number) {
    return number_in(parameter_of(effect, number)->get(find_holder(effect, number.holder)->object));
}

Effect with_shares(const Effect& effect, const std::vector<FitNumber>& numbers,
                   const std::vector<double>& shares) {
    Effect fitted = effect;
    for (size_t i = 0; i < numbers.size(); ++i) {
        if (shares[i] <= 0) {
            continue;
        }
        const Parameter& parameter = *parameter_of(effect, numbers[i]);
        const double value = on_the_way(value_of(effect, numbers[i]), double(numbers[i].end), shares[i]);
        fitted = with_value(fitted, numbers[i].holder, parameter,
                            parameter.kind == ParameterKind::count ? Value(int(std::lround(value)))
                                                                   : Value(float(value)));
    }
    return fitted;
}

const char* strength_of(const Look& look) {
    return look.blend == Blend::add ? "glow" : "opacity";
}

Effect made_up(const Effect& before, Effect fitted, const MakeUp& make_up) {
    std::map<std::string, double> least; // of each look: of those that wear it, who lost the fewest
    for (Element& element : fitted.elements) {
        auto* emitter = std::get_if<Emitter>(&element.body);
        if (emitter == nullptr || !is_active(before, element)) {
            continue;
        }
        // A few that are blinding are not like many.
        const double times = std::min(times_more(before, fitted, element.id), most_made_up);
        if (times > 1 && make_up.size > 0) {
            const Parameter& parameter = *find_holder(fitted, element.id)->find(size_of_births);
            const auto larger = [&](float size) {
                return float(std::min(double(size) * std::pow(times, make_up.size), parameter.hard_high));
            };
            emitter->particle_size = {larger(emitter->particle_size.low),
                                      larger(emitter->particle_size.high)};
        }
        const auto [look, is_first] = least.try_emplace(emitter->look, times);
        look->second = std::min(look->second, times);
    }
    for (Look& look : fitted.looks) {
        const double times = std::pow(std::max(least[look.id], 1.0), make_up.strength);
        const double high = find_holder(fitted, look.id)->find(strength_of(look))->hard_high;
        if (times > 1 && look.blend == Blend::add) {
            look.glow = float(std::min(double(look.glow) * times, high));
        } else if (times > 1) {
            look.opacity = float(std::min(1 - std::pow(1 - double(look.opacity), times), high));
        }
    }
    return fitted;
}

} // namespace ember
