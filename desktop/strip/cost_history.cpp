#include "desktop/strip/cost_history.h"

#include <QCoreApplication>

#include <algorithm>
#include <functional>

namespace ember {

namespace {

constexpr double near_s = 1e-6;

CostSample sample_of(const Readings& readings) {
    constexpr size_t most_named = 5;
    const Meters& meters = readings.meters;
    CostSample sample;
    sample.time_s = readings.time_s;
    sample.effect = readings.effect;
    sample.births_ms = meters.births_ms;
    sample.forces_ms = meters.forces_ms;
    sample.collision_ms = meters.collision_ms;
    sample.smoke_ms = meters.smoke_ms;
    sample.debris_ms = meters.debris_ms;
    sample.draw_ms = readings.draw.total_ms;
    sample.particles = double(meters.particles);
    sample.pieces = double(meters.debris.pieces);
    sample.awake = double(meters.debris.awake);
    sample.linger_s = double(meters.debris.linger_longest_s);
    sample.memory_mb = double(readings.bytes) / 1e6;
    const size_t count =
        readings.effect ? std::min(meters.elements.size(), readings.effect->elements.size()) : 0;
    std::vector<std::pair<double, size_t>> order;
    for (size_t i = 0; i < count; ++i) {
        if (const double ms = meters.elements[i].ms + readings.picture_ms(i); ms > 0) {
            order.emplace_back(ms, i);
        }
    }
    const auto last = order.begin() + std::ptrdiff_t(std::min(order.size(), most_named));
    std::partial_sort(order.begin(), last, order.end(), std::greater());
    for (auto each = order.begin(); each != last; ++each) {
        sample.dearest.emplace_back(readings.effect->elements[each->second].name, float(each->first));
    }
    return sample;
}

} // namespace

void CostHistory::clear() {
    *this = CostHistory();
}

void CostHistory::add(const Readings& readings) {
    gone_back_to_.reset();
    if (readings.time_s < readings.kept_to_s - near_s && !samples_.empty()) {
        gone_back_to_ = readings.time_s; // it has been seen before
        return;
    }
    if (!samples_.empty() && samples_.back().time_s > readings.time_s + near_s) {
        broken_.clear();
        full_.clear();
    }
    while (!samples_.empty() && samples_.back().time_s > readings.time_s + near_s) {
        samples_.pop_back();
    }
    while (!events_.empty() && events_.back().time_s > readings.time_s + near_s) {
        events_.pop_back();
    }
    note_events(readings);
    CostSample sample = sample_of(readings);
    if (!samples_.empty() && readings.time_s == samples_.back().time_s) {
        samples_.back() = std::move(sample);
    } else {
        samples_.push_back(std::move(sample));
    }
    while (samples_.front().time_s < readings.time_s - span_s) {
        samples_.pop_front();
    }
    while (!events_.empty() && events_.front().time_s < readings.time_s - span_s) {
        events_.pop_front();
    }
}

// What breaks, and what becomes full, from one picture to the next.
void CostHistory::note_events(const Readings& readings) {
    const size_t count =
        readings.effect ? std::min(readings.meters.elements.size(), readings.effect->elements.size()) : 0;
    for (size_t i = 0; i < count; ++i) {
        const Element& element = readings.effect->elements[i];
        const ElementMeter& meter = readings.meters.elements[i];
        const QString name = QString::fromStdString(element.name);
        if (std::holds_alternative<Breakable>(element.body)) {
            // A breakable that is seen for the first time may have broken long before.
            const auto [before, is_new] = broken_.try_emplace(element.id, meter.debris.faces_broken);
            if (meter.debris.faces_broken > before->second) {
                events_.push_back(
                    {readings.time_s, QCoreApplication::translate("CostHistory", "%1 breaks").arg(name)});
            }
            before->second = meter.debris.faces_broken;
        }
        const bool is_full = meter.refused_lately > 0;
        if (is_full && !std::exchange(full_[element.id], is_full)) {
            events_.push_back(
                {readings.time_s, QCoreApplication::translate("CostHistory", "%1 is full").arg(name)});
        }
        full_[element.id] = is_full;
    }
}

} // namespace ember
