#include "desktop/strip/cost_history.h"

#include "core/budget/keeper.h"
#include "desktop/theme.h"

#include <QCoreApplication>

#include <algorithm>
#include <array>

namespace ember {

namespace {

constexpr double near_s = 1e-6;

QString tr(const char* text) {
    return QCoreApplication::translate("CostHistory", text);
}

CostSample sample_of(const Meters& meters, const EffectPtr& effect, double time_s, const Readings& readings) {
    CostSample sample;
    sample.time_s = time_s;
    sample.effect = effect;
    sample.births_ms = meters.births_ms;
    sample.forces_ms = meters.forces_ms;
    sample.collision_ms = meters.collision_ms;
    sample.smoke_ms = meters.smoke_ms;
    sample.debris_ms = meters.debris_ms;
    sample.draw_ms = readings.draw.total_ms;
    sample.stage_ms =
        readings.draw.stage_ms - readings.draw.lamps_ms + readings.draw.focus_ms + readings.draw.finishing_ms;
    sample.particles = double(meters.particles);
    sample.pieces = double(meters.debris.pieces);
    sample.awake = double(meters.debris.awake);
    sample.linger_s = double(meters.debris.linger_longest_s);
    sample.memory_mb = double(readings.bytes) / 1e6;
    const size_t count = effect ? std::min(meters.elements.size(), effect->elements.size()) : 0;
    const bool same = effect == readings.effect;
    for (size_t i = 0; i < count; ++i) {
        const ElementMeter& meter = meters.elements[i];
        sample.elements.push_back({float(meter.ms), same ? float(readings.picture_ms(i)) : 0, meter.born,
                                   uint32_t(meter.debris.pieces), uint32_t(meter.debris.faces_broken),
                                   meter.refused_lately > 0, meter.bursts, meter.fired});
        sample.cells += double(meter.smoke.active_cells);
    }
    return sample;
}

// Where an element of one sample stands in another.
const ElementCost* find(const CostSample& sample, const std::string& id) {
    for (size_t i = 0; i < sample.elements.size(); ++i) {
        if (sample.effect->elements[i].id == id) {
            return &sample.elements[i];
        }
    }
    return nullptr;
}

double median(std::vector<float>& values) {
    if (values.empty()) {
        return 0;
    }
    const auto middle = values.begin() + std::ptrdiff_t(values.size() / 2);
    std::nth_element(values.begin(), middle, values.end());
    return double(*middle);
}

struct LimitedFigure {
    QString name, unit;
    double value, limit;

    bool isOver() const { return value > limit; }
    QString figure(double number) const {
        return unit.isEmpty() ? theme::short_count(number) : QString::number(number, 'f', 1);
    }
    QString inUnit(const QString& figures) const { return unit.isEmpty() ? figures : figures + " " + unit; }
};

constexpr size_t frame_limit = 0;

std::array<LimitedFigure, 7> limited_figures(const CostSample& sample) {
    const Budget& budget = sample.effect->budget;
    return {{{tr("Frame"), tr("ms"), sample.frame_ms(), double(budget.frame_ms)},
             {tr("Particles"), {}, sample.particles, double(budget.particles)},
             {tr("Pieces"), {}, sample.pieces, double(budget.pieces)},
             {tr("Awake"), {}, sample.awake, double(budget.awake_pieces)},
             {tr("Smoke cells"), {}, sample.cells, double(budget.smoke_cells)},
             {tr("Linger"), tr("s"), sample.linger_s, double(budget.linger_s)},
             {tr("Memory"), tr("MB"), sample.memory_mb, double(budget.memory_mb)}}};
}

QStringList passed_limits(const CostSample& sample) {
    QStringList passed;
    for (const LimitedFigure& each : limited_figures(sample)) {
        if (each.isOver()) {
            passed << each.inUnit(
                tr("%1 %2 of %3").arg(each.name, each.figure(each.value), each.figure(each.limit)));
        }
    }
    return passed;
}

} // namespace

void CostHistory::clear() {
    *this = CostHistory();
}

void CostHistory::forget_after(double time_s) {
    while (!samples_.empty() && samples_.back().time_s > time_s + near_s) {
        samples_.pop_back();
    }
    while (!events_.empty() && events_.back().time_s > time_s + near_s) {
        events_.pop_back();
    }
}

// In the order of time; in place of the sample that is there.
void CostHistory::take(CostSample sample) {
    const auto place =
        std::lower_bound(samples_.begin(), samples_.end(), sample.time_s - near_s,
                         [](const CostSample& each, double time_s) { return each.time_s < time_s; });
    if (place != samples_.begin()) {
        note_events(*std::prev(place), sample);
    }
    if (place != samples_.end() && place->time_s < sample.time_s + near_s) {
        *place = std::move(sample);
    } else {
        samples_.insert(place, std::move(sample));
    }
}

void CostHistory::add(const Readings& readings, const std::vector<StepCost>& steps) {
    gone_back_to_.reset();
    const bool was_empty = samples_.empty();
    for (const StepCost& step : steps) {
        if (step.time_s < 0) {
            continue;
        }
        CostSample sample = sample_of(step.meters, step.effect, step.time_s, readings);
        sample.gives = step.gives;
        take(std::move(sample));
    }
    if (readings.time_s < readings.kept_to_s - near_s && !was_empty) {
        gone_back_to_ = readings.time_s; // it has been seen before
    } else if (steps.empty()) {
        CostSample sample = sample_of(readings.meters, readings.effect, readings.time_s, readings);
        sample.gives = readings.gives;
        take(std::move(sample));
    }
    // Steps may be newer than the picture: more of them were made while it was drawn.
    const double made_to_s = steps.empty() ? 0 : steps.back().time_s;
    forget_after(std::max({readings.kept_to_s, readings.time_s, made_to_s}));
    const double oldest = (samples_.empty() ? 0 : samples_.back().time_s) - span_s;
    while (!samples_.empty() && samples_.front().time_s < oldest) {
        samples_.pop_front();
    }
    while (!events_.empty() && events_.front().time_s < oldest) {
        events_.pop_front();
    }
}

// What breaks, bursts, goes off and becomes full, limits that are passed, and what the keeper does, from one
// step to the next. The frame limit is passed too often to be told: costs over it are hatched.
void CostHistory::note_events(const CostSample& before, const CostSample& now) {
    std::erase_if(events_, [&](const CostEvent& event) {
        return std::abs(event.time_s - now.time_s) < near_s; // as it was before it was made again
    });
    std::vector<CostEvent> found;
    for (size_t i = 0; i < now.elements.size(); ++i) {
        const Element& element = now.effect->elements[i];
        const QString name = QString::fromStdString(element.name);
        const ElementCost* old = find(before, element.id);
        if (old != nullptr && now.elements[i].faces_broken > old->faces_broken) {
            found.push_back({now.time_s, tr("%1 breaks").arg(name), true});
        }
        if (now.elements[i].is_full && (old == nullptr || !old->is_full)) {
            found.push_back({now.time_s, tr("%1 is full").arg(name)});
        }
        if (now.elements[i].bursts > 0) {
            found.push_back({now.time_s, tr("%1 bursts").arg(name)});
        }
        if (now.elements[i].fired > 0) {
            found.push_back({now.time_s, tr("%1 goes off").arg(name)});
        }
    }
    if (before.effect != nullptr && now.effect != nullptr) {
        const auto were = limited_figures(before), are = limited_figures(now);
        for (size_t i = frame_limit + 1; i < are.size(); ++i) {
            if (are[i].isOver() && !were[i].isOver()) {
                found.push_back(
                    {now.time_s,
                     are[i].inUnit(tr("%1 over %2").arg(are[i].name, are[i].figure(are[i].limit)))});
            }
        }
    }
    if (now.gives != before.gives) {
        const QString given = QString::fromStdString(words_of(now.effect->budget, now.gives));
        found.push_back(
            {now.time_s, given.isEmpty() ? tr("all is done again") : tr("gives way: %1").arg(given)});
    }
    for (CostEvent& event : found) {
        const auto place =
            std::upper_bound(events_.begin(), events_.end(), event.time_s,
                             [](double time_s, const CostEvent& each) { return time_s < each.time_s; });
        events_.insert(place, std::move(event));
    }
}

std::optional<Why> CostHistory::why(double time_s) const {
    constexpr double nearest_s = 0.1, before_s = 0.5;
    const CostSample* then = nullptr;
    for (const CostSample& sample : samples_) {
        if (then == nullptr || std::abs(sample.time_s - time_s) < std::abs(then->time_s - time_s)) {
            then = &sample;
        }
    }
    if (then == nullptr || !then->effect || std::abs(then->time_s - time_s) > nearest_s) {
        return std::nullopt;
    }
    Why why{then->time_s, then->frame_ms(), {}, passed_limits(*then), {}};
    std::vector<float> values;
    for (size_t i = 0; i < then->elements.size(); ++i) {
        const Element& element = then->effect->elements[i];
        values.clear();
        for (const CostSample& sample : samples_) {
            // As a rule it stands at the same place.
            const bool same = i < sample.elements.size() && sample.effect->elements[i].id == element.id;
            const ElementCost* cost = same ? &sample.elements[i] : find(sample, element.id);
            if (cost != nullptr) {
                values.push_back(cost->sum());
            }
        }
        why.parts.push_back({element.id, QString::fromStdString(element.name),
                             double(then->elements[i].sum()), median(values)});
    }
    values.clear();
    for (const CostSample& sample : samples_) {
        values.push_back(float(sample.stage_ms));
    }
    why.parts.push_back({{}, tr("Stage, bloom and tones"), then->stage_ms, median(values)});
    std::stable_sort(why.parts.begin(), why.parts.end(),
                     [](const Why::Part& a, const Why::Part& b) { return a.excess() > b.excess(); });

    // The newest sample that is half a second older.
    const CostSample* earlier = nullptr;
    for (const CostSample& sample : samples_) {
        earlier = sample.time_s <= then->time_s - before_s + near_s || earlier == nullptr ? &sample : earlier;
        if (sample.time_s > then->time_s - before_s) {
            break;
        }
    }
    struct Line {
        double weight;
        QString words;
    };
    std::vector<Line> lines;
    for (size_t i = 0; i < then->elements.size(); ++i) {
        const ElementCost& now = then->elements[i];
        const Element& element = then->effect->elements[i];
        const ElementCost* old = find(*earlier, element.id);
        const QString name = QString::fromStdString(element.name);
        if (old == nullptr) {
            continue;
        }
        if (now.faces_broken > old->faces_broken) {
            lines.push_back({1e9, tr("%1 broke at %2 faces, %3 pieces then")
                                      .arg(name)
                                      .arg(now.faces_broken - old->faces_broken)
                                      .arg(now.pieces)});
        }
        if (now.born > old->born) {
            lines.push_back({double(now.born - old->born),
                             tr("%1 bore %2").arg(name, theme::short_count(double(now.born - old->born)))});
        }
    }
    std::stable_sort(lines.begin(), lines.end(),
                     [](const Line& a, const Line& b) { return a.weight > b.weight; });
    constexpr size_t most_lines = 3;
    for (size_t i = 0; i < std::min(lines.size(), most_lines); ++i) {
        why.before << lines[i].words;
    }
    for (const CostEvent& event : events_) {
        if (event.time_s > then->time_s - before_s && event.time_s <= then->time_s + near_s &&
            !event.is_break) { // that has been said
            why.before << event.words;
        }
    }
    return why;
}

} // namespace ember
