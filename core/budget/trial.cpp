#include "core/budget/trial.h"

#include "core/effect/drive.h"
#include "core/effect/edit.h"
#include "core/effect/track.h"

#include <algorithm>
#include <cmath>

namespace ember {

Trial::Trial(EffectPtr effect, const Assets& assets, double until_s) {
    simulation_.set_effect(std::move(effect), assets);
    last_step_ =
        simulation_.warm_up_steps() + uint64_t(std::llround(std::max(until_s, 0.0) / simulation_.step_s()));
}

bool Trial::step() {
    if (simulation_.steps() >= last_step_) {
        return false;
    }
    simulation_.step();
    const Meters& meters = simulation_.meters();
    figures_.particles_then = meters.particles;
    figures_.pieces_then = meters.debris.pieces;
    figures_.particles_most = std::max(figures_.particles_most, meters.particles);
    figures_.pieces_most = std::max(figures_.pieces_most, meters.debris.pieces);
    if (simulation_.time_s() > 0) {
        step_ms_.push_back(float(meters.step_ms));
        if (meters.step_ms > figures_.dearest_ms) {
            figures_.dearest_ms = meters.step_ms;
            figures_.at_s = simulation_.time_s();
        }
    }
    return true;
}

double Trial::progress() const {
    return last_step_ == 0 ? 1 : double(simulation_.steps()) / double(last_step_);
}

TrialFigures Trial::figures() const {
    TrialFigures figures = figures_;
    if (!step_ms_.empty()) {
        std::vector<float> sorted = step_ms_;
        const auto middle = sorted.begin() + std::ptrdiff_t(sorted.size() / 2);
        std::nth_element(sorted.begin(), middle, sorted.end());
        figures.median_ms = double(*middle);
    }
    return figures;
}

std::optional<std::string> refusal_of(const Effect& effect, const TriedNumber& number) {
    const auto holder = find_holder(effect, number.holder);
    const Parameter* parameter = holder ? holder->find(number.parameter) : nullptr;
    if (parameter == nullptr) {
        return "there is no " + number.holder + "." + number.parameter;
    }
    if (driven_parts(*parameter) <= number.part || number.part < 0) {
        return number.holder + "." + number.parameter + " is no number";
    }
    const auto is_in = [&](float value) {
        return std::isfinite(value) && double(value) >= parameter->hard_low &&
               double(value) <= parameter->hard_high;
    };
    if (!is_in(number.from) || !is_in(number.to)) {
        return "expected for both ends " + expectation_of(*parameter);
    }
    if (number.count < 2 || number.count > 100) {
        return "expected 2 to 100 tries";
    }
    return std::nullopt;
}

Effect with_try(const Effect& effect, const TriedNumber& number, int index) {
    Effect changed = without_track(effect, number.holder, number.parameter);
    std::erase_if(changed.drives, [&](const Drive& drive) {
        return drive.holder == number.holder && drive.parameter == number.parameter &&
               drive.part == number.part;
    });
    const Holder holder = *find_holder(changed, number.holder);
    const Parameter& parameter = *holder.find(number.parameter);
    const float tried = number.at(index);
    Value value = parameter.get(holder.object);
    if (auto* range = std::get_if<Range>(&value)) {
        (number.part == 0 ? range->low : range->high) = tried;
        // The other end gives way.
        if (range->low > range->high) {
            (number.part == 0 ? range->high : range->low) = tried;
        }
    } else if (auto* vector = std::get_if<Vec3>(&value)) {
        (number.part == 0 ? vector->x : number.part == 1 ? vector->y : vector->z) = tried;
    } else if (std::holds_alternative<int>(value)) {
        value = int(std::lround(tried));
    } else {
        value = tried;
    }
    return with_value(changed, number.holder, parameter, value);
}

} // namespace ember
