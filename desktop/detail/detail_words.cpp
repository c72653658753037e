#include "desktop/detail/detail_words.h"

#include "core/budget/expected.h"
#include "core/effect/sentence.h"
#include "core/effect/smoke_size.h"
#include "desktop/controls/parameter_text.h"

#include <QCoreApplication>

#include <algorithm>

namespace ember {

namespace {

QString said(const char* text) {
    return QCoreApplication::translate("DetailWords", text);
}

QString in_sentence(const std::optional<std::string>& expected) {
    return expected ? said("Expected: %1.").arg(QString::fromStdString(*expected)) : QString();
}

// What is expected of a source once the effect has settled; nothing if there is no such source.
std::optional<ExpectedCount> expected_of(const Effect& effect, const std::string& source_id) {
    const std::vector<ExpectedCount> counts = expected_counts(effect);
    for (size_t i = 0; i < counts.size(); ++i) {
        if (effect.elements[i].id == source_id) {
            return counts[i];
        }
    }
    return std::nullopt;
}

QString stage_words(const DrawMeters& draw) {
    return said("The picture costs %1 ms: stage %2, its focus %3, dots %4, bloom %5, glare %6, tones and "
                "grade "
                "%7.")
        .arg(draw.total_ms, 0, 'f', 1)
        .arg(draw.stage_ms, 0, 'f', 1)
        .arg(draw.focus_ms, 0, 'f', 1)
        .arg(draw.dots_ms, 0, 'f', 1)
        .arg(draw.finishing.bloom_ms, 0, 'f', 1)
        .arg(draw.finishing.glare_ms, 0, 'f', 1)
        .arg(draw.finishing.tone_ms, 0, 'f', 1);
}

QString modulator_words(const Effect& effect, const std::string& id, const Readings& readings) {
    QString text = said("Muted: what it drives keeps its own value.");
    for (const ModulatorValue& value : readings.modulators) {
        if (value.id == id) {
            text = said("Is at %1 now.").arg(double(value.value), 0, 'f', 2);
        }
    }
    const QStringList driven = driven_words(effect, id);
    return text + (driven.isEmpty() ? said(" It drives nothing yet: drag its chip onto a number.")
                                    : said(" It drives %1.").arg(driven.join(", ")));
}

QString expected_words(const Effect& effect, const Element& source) {
    const auto* emitter = std::get_if<Emitter>(&source.body);
    if (clip_of(source.body) != nullptr) {
        return said("as its clip says");
    }
    if (emitter != nullptr && emitter->for_ever) {
        return said("as many as there is room for");
    }
    const ExpectedCount expected = *expected_of(effect, source.id);
    const QString most = QString::number(qint64(std::min(expected.most(), 1e15)));
    return expected.is_about ? said("about %1").arg(most) : most;
}

QString taken_words(const SmoothedCosts::Cost& cost, const Budget& budget) {
    const QString share = QString::number(100 * cost.sum() / double(budget.frame_ms), 'f', 1);
    const QString step = QString::number(cost.step_ms, 'f', 2);
    return cost.picture_ms > 0
               ? said("Takes %1 ms of the step and %2 ms of the picture now, %3 % of the limit.")
                     .arg(step)
                     .arg(cost.picture_ms, 0, 'f', 2)
                     .arg(share)
               : said("Takes %1 ms of the step now, %2 % of the limit.").arg(step, share);
}

// What a breakable is cut into, what its pieces do, and how long they stay.
QString breakable_words(const Effect& effect, const Element& breakable, const ElementMeter& meter,
                        const SmoothedCosts::Cost& cost) {
    const DebrisMeter& now = meter.debris;
    if (clip_of(breakable.body) != nullptr) {
        return said("%1 pieces of its clip are in the picture. %2")
            .arg(now.pieces)
            .arg(taken_words(cost, effect.budget));
    }
    if (now.cut.pieces == 0) {
        return said("Is being cut, or cannot be: see what is said above the picture.");
    }
    QString text =
        said("Cut: %1.\n%2 in the picture, %9 expected: %3 move, %4 rest, %5 are light, %6 are parked. "
             "%7\n%8")
            .arg(cut_words(now.cut))
            .arg(now.pieces)
            .arg(now.awake)
            .arg(now.resting)
            .arg(now.light)
            .arg(now.parked)
            .arg(taken_words(cost, effect.budget), savings_words(now), expected_words(effect, breakable));
    if (now.faces > 0) {
        text += said("\n%1 of %2 faces between pieces are broken.").arg(now.faces_broken).arg(now.faces);
    }
    if (now.linger_longest_s > 0) {
        text += said("\nLoose pieces stayed %1 s (median), %2 s at most.")
                    .arg(double(now.linger_median_s), 0, 'f', 1)
                    .arg(double(now.linger_longest_s), 0, 'f', 1);
    }
    if (meter.refused > 0) {
        text += said("\n%1 pieces were not dropped: it may have at most so many.").arg(meter.refused);
    }
    return text;
}

// What a volume is made of, and where its time goes; before it plays, what it may take.
QString smoke_words(const Smoke& smoke, const ElementMeter* meter, const SmoothedCosts::Cost& cost,
                    const Budget& budget) {
    constexpr double ns_a_cell = 120; // measured on two cores (docs/performance.md), if no block is skipped
    const SmokeSize size = size_of(smoke);
    const auto cells = double(size.cells());
    QString text = said("%1 \u00d7 %2 \u00d7 %3 cells of %4 cm, %5 MB; estimated %6 ms a step on two cores.")
                       .arg(size.x)
                       .arg(size.y)
                       .arg(size.z)
                       .arg(double(size.cell) * 100, 0, 'f', 1)
                       .arg(cells * double(bytes_a_smoke_cell) / 1e6, 0, 'f', 0)
                       .arg(cells * ns_a_cell / 1e6 / double(smoke.moves_every), 0, 'f', 0);
    if (meter != nullptr && meter->smoke.cells > 0) {
        const SmokeMeter& now = meter->smoke;
        text += said("\n%1 %2 % of its cells hold smoke."
                     "\nEach move: carried %3 ms, pressure %4 ms, forces %5 ms, fed %6 ms, obstacles %7 ms.")
                    .arg(taken_words(cost, budget))
                    .arg(100.0 * double(now.active_cells) / double(now.cells), 0, 'f', 0)
                    .arg(now.carry_ms, 0, 'f', 1)
                    .arg(now.pressure_ms, 0, 'f', 1)
                    .arg(now.force_ms, 0, 'f', 1)
                    .arg(now.feed_ms, 0, 'f', 1)
                    .arg(now.obstacle_ms, 0, 'f', 1);
    }
    return text;
}

} // namespace

QString excess_words(const Effect& effect, const std::string& source_id) {
    const auto expected = expected_of(effect, source_id);
    const Element* source = find_element(effect, source_id);
    return expected ? in_sentence(expected_excess(effect, size_t(source - effect.elements.data()), *expected))
                    : QString();
}

QString caution_words(const Effect& effect, const std::string& selection) {
    if (const auto refusal = whole_refusal(effect)) {
        return said("Not done: %1.").arg(QString::fromStdString(*refusal));
    }
    const Element* selected = find_element(effect, selection);
    if (const auto* trigger = selected != nullptr ? std::get_if<Trigger>(&selected->body) : nullptr) {
        const auto why = why_never_done(effect, *trigger);
        return why ? QString::fromStdString(*why) + "." : QString();
    }
    if (const auto lack = selected != nullptr ? lack_of(*selected) : std::nullopt) {
        return said("It does nothing yet: it lacks %1.").arg(QString::fromStdString(*lack));
    }
    if (const auto why = selected != nullptr ? why_never_born(effect, *selected) : std::nullopt) {
        return in_sentence(why);
    }
    if (const auto why = selected != nullptr ? why_never_breaks(effect, *selected) : std::nullopt) {
        return in_sentence(why);
    }
    if (const auto why = selected != nullptr ? shared_room(effect, *selected) : std::nullopt) {
        return in_sentence(why);
    }
    const QString excess = excess_words(effect, selection);
    return excess.isEmpty() ? in_sentence(expected_over_budget(effect)) : excess;
}

QString cost_words(const Effect& effect, const std::string& selection, const Readings& readings,
                   const SmoothedCosts& costs) {
    const Element* element = find_element(effect, selection);
    if (element == nullptr) {
        return stage_words(readings.draw);
    }
    if (const auto* smoke = std::get_if<Smoke>(&element->body)) {
        return smoke_words(*smoke, readings.find(element->id), costs.of(element->id), effect.budget);
    }
    if (const auto* trigger = std::get_if<Trigger>(&element->body)) {
        return QString::fromStdString(sentence_of(effect, *trigger)) +
               said("\nA trigger costs next to nothing; what it sets going costs as ever.");
    }
    if (!can_be_soloed(*element) && family_of(element->body) != Family::smoke) {
        return family_of(element->body) == Family::mover
                   ? said("A mover costs next to nothing; what rides on it costs as ever.")
                   : modulator_words(effect, selection, readings);
    }
    const SmoothedCosts::Cost cost = costs.of(element->id);
    const double ms = cost.step_ms;
    const ElementMeter* own = readings.find(element->id);
    if (std::holds_alternative<Breakable>(element->body)) {
        return breakable_words(effect, *element, own != nullptr ? *own : ElementMeter(), cost);
    }
    if (std::holds_alternative<CleanupZone>(element->body)) {
        return said("Takes %1 ms of the step now. ").arg(ms, 0, 'f', 3) +
               savings_words(own != nullptr ? own->debris : DebrisMeter());
    }
    if (family_of(element->body) == Family::breaking) {
        return said("Costs next to nothing; the pieces that it acts on cost while they move.");
    }
    QString text = taken_words(cost, effect.budget);
    if (const ElementMeter* meter = readings.find(element->id);
        meter != nullptr && family_of(element->body) == Family::source) {
        text += said("\n%1 alive, %2 expected, %3 born, %4 could not be born.")
                    .arg(meter->live)
                    .arg(expected_words(effect, *element))
                    .arg(meter->born)
                    .arg(meter->refused);
    }
    return text;
}

QStringList driven_words(const Effect& effect, const std::string& modulator_id, const Drive* but) {
    QStringList driven;
    for (const Drive& drive : effect.drives) {
        if (drive.modulator == modulator_id && (but == nullptr || drive != *but)) {
            const Holder holder = *find_holder(effect, drive.holder);
            driven << QString::fromStdString(holder.name) + ": " +
                          qtext(holder.find(drive.parameter)->label).toLower();
        }
    }
    return driven;
}

QStringList look_sharers(const Effect& effect, const Element& source) {
    const std::string& look = std::get<Emitter>(source.body).look;
    QStringList others;
    for (const Element& element : effect.elements) {
        const auto* emitter = std::get_if<Emitter>(&element.body);
        if (emitter != nullptr && emitter->look == look && element.id != source.id) {
            others << QString::fromStdString(element.name);
        }
    }
    return others;
}

QString look_words(const Effect& effect, const Element& source) {
    const QStringList others = look_sharers(effect, source);
    const QString name = QString::fromStdString(find_look(effect, std::get<Emitter>(source.body).look)->name);
    return others.isEmpty() ? said("%1 \u2014 only this source uses this look.").arg(name)
                            : said("%1 \u2014 shared with %2: a change here shows there too.")
                                  .arg(name, others.join(", "));
}

} // namespace ember
