#include "core/budget/trial.h"

#include "core/effect/drive.h"
#include "core/effect/edit.h"
#include "core/effect/track.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// The value below which such a share of them lie; 0 if there are none.
double at_share(std::vector<float> values, double share) {
    if (values.empty()) {
        return 0;
    }
    const auto wanted = values.begin() + std::ptrdiff_t(double(values.size() - 1) * share);
    std::nth_element(values.begin(), wanted, values.end());
    return double(*wanted);
}

} // namespace

Trial::Trial(EffectPtr effect, const Assets& assets, const Span& span, DrawMoment draw, int moments)
    : draw_(std::move(draw)), moments_(std::max(moments, 1)) {
    simulation_.set_effect(std::move(effect), assets);
    const auto step_at = [&](double time_s) {
        return simulation_.warm_up_steps() +
               uint64_t(std::llround(std::max(time_s, 0.0) / simulation_.step_s()));
    };
    first_step_ = step_at(span.from_s);
    last_step_ = std::max(step_at(span.to_s), first_step_);
    set_machine(same_machine);
    const size_t elements = simulation_.effect()->elements.size();
    figures_.element_ms.resize(elements);
    figures_.element_most.resize(elements);
}

void Trial::set_machine(const MachineRatio& ratio) {
    ratio_ = ratio;
    element_ratios_ = ratios_of(*simulation_.effect(), ratio);
}

bool Trial::step() {
    if (is_drawing_) {
        draw();
        return true;
    }
    if (simulation_.steps() >= last_step_) {
        return false;
    }
    simulation_.step();
    if (simulation_.steps() > first_step_) {
        measure();
    }
    const uint64_t steps = last_step_ - first_step_;
    const auto due = [&](uint64_t step) {
        return step > first_step_ ? (step - first_step_) * uint64_t(moments_) / steps : 0;
    };
    if (draw_ && due(simulation_.steps()) > due(simulation_.steps() - 1)) {
        simulation_.write_frame(frame_);
        draw();
    }
    return true;
}

void Trial::draw() {
    std::optional<SeenMoment> moment = draw_(frame_);
    is_drawing_ = !moment;
    if (!moment) {
        return;
    }
    moment->ms = 0;
    for (size_t i = 0; i < moment->parts_ms.size(); ++i) {
        const Work kind = Work(kinds_of_step + i);
        moment->parts_ms[i] *= kind == Work::things ? things_ratio_of(*frame_.now, moment->element_ms,
                                                                      moment->element_readied_ms, ratio_)
                                                    : ratio_[kind];
        moment->ms += moment->parts_ms[i];
        work_ms_[kinds_of_step + i].push_back(float(moment->parts_ms[i]));
    }
    seen_.push_back(std::move(*moment));
}

void Trial::measure() {
    const Meters meters = predicted(simulation_.meters(), element_ratios_, ratio_);
    const double parts[] = {meters.births_ms, meters.forces_ms, meters.collision_ms, meters.smoke_ms,
                            meters.debris_ms};
    for (size_t i = 0; i < kinds_of_step; ++i) {
        work_ms_[i].push_back(float(parts[i]));
    }
    figures_.particles_then = meters.particles;
    figures_.pieces_then = meters.debris.pieces;
    figures_.particles_most = std::max(figures_.particles_most, meters.particles);
    figures_.pieces_most = std::max(figures_.pieces_most, meters.debris.pieces);
    figures_.awake_most = std::max(figures_.awake_most, meters.debris.awake);
    figures_.linger_most_s = std::max(figures_.linger_most_s, double(meters.debris.linger_longest_s));
    size_t cells = 0;
    for (size_t i = 0; i < meters.elements.size(); ++i) {
        const ElementMeter& meter = meters.elements[i];
        cells += meter.smoke.active_cells;
        figures_.element_ms[i] += meter.ms; // their sum, until they are asked for
        figures_.element_most[i] =
            std::max({figures_.element_most[i], meter.live, meter.debris.pieces, meter.smoke.active_cells});
    }
    figures_.cells_most = std::max(figures_.cells_most, cells);
    figures_.bytes_most = std::max(figures_.bytes_most, meters.bytes);
    step_ms_.push_back(float(meters.step_ms));
    if (meters.step_ms > figures_.dearest_ms) {
        figures_.dearest_ms = meters.step_ms;
        figures_.at_s = simulation_.time_s();
    }
}

double Trial::progress() const {
    return last_step_ == 0 ? 1 : double(simulation_.steps()) / double(last_step_);
}

TrialFigures Trial::figures() const {
    TrialFigures figures = figures_;
    figures.median_ms = at_share(step_ms_, 0.5);
    figures.high_ms = at_share(step_ms_, 0.95);
    for (double& ms : figures.element_ms) {
        ms /= double(std::max(step_ms_.size(), size_t(1)));
    }
    std::vector<float> picture_ms;
    for (const SeenMoment& moment : seen_) {
        picture_ms.push_back(float(moment.ms));
    }
    figures.picture_ms = at_share(std::move(picture_ms), 0.5);
    for (size_t i = 0; i < kinds_of_work; ++i) {
        figures.work_ms[i] = at_share(work_ms_[i], 0.5);
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
