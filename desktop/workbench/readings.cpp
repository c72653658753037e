#include "desktop/workbench/readings.h"

#include <QCoreApplication>

namespace ember {

const ElementMeter* Readings::find(const std::string& id) const {
    for (size_t i = 0; effect && i < effect->elements.size() && i < meters.elements.size(); ++i) {
        if (effect->elements[i].id == id) {
            return &meters.elements[i];
        }
    }
    return nullptr;
}

void SmoothedCosts::add(const Readings& readings) {
    constexpr double share = 0.06; // of a new picture in the mean
    const auto mix = [](double mean, double value) { return mean + (value - mean) * share; };
    // What costs nothing at all (muted, unlinked) says so at once.
    const auto mix_known = [&](double mean, double value) { return value == 0 ? 0 : mix(mean, value); };
    std::map<std::string, Cost> newest;
    for (size_t i = 0; i < readings.meters.elements.size(); ++i) {
        const std::string& id = readings.effect->elements[i].id;
        const Cost now = {readings.meters.elements[i].ms, readings.picture_ms(i)};
        const auto before = costs_.find(id);
        newest[id] = before == costs_.end() ? now
                                            : Cost{mix_known(before->second.step_ms, now.step_ms),
                                                   mix_known(before->second.picture_ms, now.picture_ms)};
    }
    costs_ = std::move(newest);
    frame_ms_ = frame_ms_ == 0 ? readings.frame_ms() : mix(frame_ms_, readings.frame_ms());
}

SmoothedCosts::Cost SmoothedCosts::of(const std::string& id) const {
    const auto found = costs_.find(id);
    return found == costs_.end() ? Cost() : found->second;
}

QString savings_words(const DebrisMeter& meter) {
    QString text = QCoreApplication::translate("Readings", "Pieces taken: %1, in the last ten seconds %2")
                       .arg(meter.taken)
                       .arg(meter.taken_lately);
    return text + (meter.saved_ms > 0
                       ? QCoreApplication::translate(
                             "Readings",
                             ": if those still moved as others do now, a step would take about %1 ms more.")
                             .arg(meter.saved_ms, 0, 'f', 2)
                       : QStringLiteral("."));
}

QString cut_words(const CutFacts& cut) {
    QString text =
        QCoreApplication::translate("Readings", "%1 pieces, %2 triangles").arg(cut.pieces).arg(cut.triangles);
    if (cut.slivers > 0) {
        text += cut.slivers == 1
                    ? QCoreApplication::translate("Readings", "; 1 sliver joined")
                    : QCoreApplication::translate("Readings", "; %1 slivers joined").arg(cut.slivers);
    }
    return text;
}

} // namespace ember
