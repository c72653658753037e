#include "desktop/board/board.h"

#include "core/effect/sentence.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QHelpEvent>
#include <QToolTip>

#include <algorithm>

namespace ember {

Board::Board(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName(tr("Board"));
}

void Board::setEffect(const EffectPtr& effect) {
    effect_ = effect;
    expected_ = expected_counts(*effect);
    std::erase_if(also_chosen_, [&](const std::string& id) { return find_element(*effect, id) == nullptr; });
    turning_ =
        turning_ && find_element(*effect, turning_->cell.influence) != nullptr ? turning_ : std::nullopt;
    carrying_.reset();
    layOut();
    update();
}

void Board::setFilter(const QString& text) {
    filter_ = text.trimmed();
    layOut();
    update();
}

// An influence without a link of any weight to a source that runs.
bool Board::actsOnNothing(const Element& influence) const {
    const auto is_smoke = [](const Element& each) {
        return std::holds_alternative<Smoke>(each.body) && !each.muted;
    };
    const bool holds_smoke = surface_of(influence.body) != nullptr &&
                             std::any_of(effect_->elements.begin(), effect_->elements.end(), is_smoke);
    return !holds_smoke &&
           std::none_of(influence.links.begin(), influence.links.end(), [this](const Link& link) {
               return link.weight > 0 && is_active(*effect_, *find_element(*effect_, link.source));
           });
}

void Board::setReadings(const Readings& readings, const SmoothedCosts& costs) {
    readings_ = readings;
    costs_ = costs;
    // Only what shows figures: dials are dear to draw.
    for (const Row& row : rows_) {
        const Element& each = element(row);
        if (has_links(each) || costs.of(each.id).step_ms > 0) {
            update(has_links(each) ? figuresRect(placed(row)) : placed(row));
        }
    }
    for (const Column& column : columns_) {
        update(figuresRect(placed(column)));
    }
}

void Board::setSeenFrom(QPoint corner) {
    corner_ = corner;
    update();
}

void Board::setSelection(const std::string& id) {
    if (!isChosen(id)) {
        also_chosen_.clear();
    }
    selection_ = id;
    for (size_t i = 0; i < rows_.size(); ++i) {
        if (element(rows_[i]).id == id) {
            focus_row_ = i;
        }
    }
    for (size_t i = 0; i < columns_.size(); ++i) {
        if (element(columns_[i]).id == id) {
            focus_column_ = i;
        }
    }
    update();
}

bool Board::isChosen(const std::string& id) const {
    return id == selection_ || std::find(also_chosen_.begin(), also_chosen_.end(), id) != also_chosen_.end();
}

std::vector<std::string> Board::chosen() const {
    std::vector<std::string> ids;
    for (const Element& each : effect_->elements) {
        if (isChosen(each.id)) {
            ids.push_back(each.id);
        }
    }
    return ids;
}

void Board::setChosen(const std::vector<std::string>& ids) {
    also_chosen_ = ids;
    update();
}

// Control takes one to the others or away from them, Shift takes all up to it.
void Board::choose(const std::string& id, Qt::KeyboardModifiers keys) {
    std::vector<std::string> others = chosen();
    if (keys & Qt::ShiftModifier) {
        const auto take_up_to = [&](const auto& side) {
            const auto at = [&](const std::string& wanted) {
                return std::find_if(side.begin(), side.end(),
                                    [&](const auto& slot) { return element(slot).id == wanted; });
            };
            const auto from = at(selection_), to = at(id);
            if (from != side.end() && to != side.end()) {
                for (auto slot = std::min(from, to); slot <= std::max(from, to); ++slot) {
                    others.push_back(element(*slot).id);
                }
            }
        };
        take_up_to(rows_);
        take_up_to(columns_);
    } else if (isChosen(id) && others.size() > 1) {
        std::erase(others, id);
        also_chosen_ = others;
        selection_ = others.back();
        return emit selected(others.back());
    }
    also_chosen_ = others;
    also_chosen_.push_back(id);
    emit selected(id);
}

std::vector<Board::Cell> Board::cellsWith(const Cell& cell) const {
    const auto with = [this](const std::string& id, bool sources) {
        std::vector<std::string> ids = {id};
        if (isChosen(id)) {
            ids = chosen();
            std::erase_if(ids, [&](const std::string& each) {
                const Element& other = *find_element(*effect_, each);
                return sources ? !takes_links(other.body) : !has_links(other);
            });
        }
        return ids;
    };
    std::vector<Cell> cells;
    for (const std::string& influence : with(cell.influence, false)) {
        for (const std::string& source : with(cell.source, true)) {
            cells.push_back({influence, source});
        }
    }
    return cells;
}

std::vector<Board::Cell> Board::wholeRow(const Cell& cell) const {
    std::vector<Cell> cells;
    for (const Column& column : columns_) {
        cells.push_back({cell.influence, element(column).id});
    }
    return cells;
}

std::vector<Board::Cell> Board::wholeColumn(const Cell& cell) const {
    std::vector<Cell> cells;
    for (const Element& each : effect_->elements) {
        if (has_links(each)) {
            cells.push_back({each.id, cell.source});
        }
    }
    return cells;
}

// Line by line.
std::vector<Board::Word> Board::wordsOf(const Trigger& trigger, QPoint corner, int width) const {
    constexpr int indent = 28, line_gap = 2;
    const QFontMetrics metrics(theme::text_font(8.5));
    std::vector<Word> words;
    int x = 0, y = corner.y() + 4;
    for (const SentencePart& part : parts_of_sentence(*effect_, trigger)) {
        // With the spaces between, so that a line may end at any of them.
        for (QString rest = QString::fromStdString(part.text); !rest.isEmpty();) {
            const auto space = rest.indexOf(' ');
            const QString word = space < 0 ? rest : rest.left(space + 1);
            rest.remove(0, word.size());
            if (x > 0 && x + metrics.horizontalAdvance(word.trimmed()) > width) {
                x = 0;
                y += metrics.height() + line_gap;
            }
            const int wide = metrics.horizontalAdvance(word);
            words.push_back({QRect(corner.x() + indent + x, y, wide, metrics.height()), word, part.key});
            x += wide;
        }
    }
    return words;
}

// What it rides on, feeds or drives; else what it is.
QString Board::factOf(const Element& each) const {
    if (family_of(each.body) == Family::modulator) {
        const auto drives = std::count_if(effect_->drives.begin(), effect_->drives.end(),
                                          [&](const Drive& drive) { return drive.modulator == each.id; });
        return drives > 0 ? tr("drives %1").arg(drives) : tr("drives nothing yet");
    }
    if (const auto* dropper = std::get_if<Dropper>(&each.body)) {
        const Element* what = find_element(*effect_, dropper->drops);
        return what != nullptr ? tr("drops %1").arg(QString::fromStdString(what->name))
                               : tr("drops nothing yet");
    }
    const Place* place = place_of(each.body);
    const Element* under = place != nullptr ? find_element(*effect_, place->rides_on) : nullptr;
    return under != nullptr ? tr("on %1").arg(QString::fromStdString(under->name))
                            : qtext(type_of(each.body).label).toLower();
}

QString Board::nameAndFact(const Element& each) const {
    const QString name = QString::fromStdString(each.name), fact = factOf(each);
    // Its name alone often says what it is.
    return fact.compare(name, Qt::CaseInsensitive) != 0 ? name + " \u00b7 " + fact : name;
}

QString Board::chipText(const Element& each) const {
    constexpr double least_ms = 0.005;
    const double ms = costs_.of(each.id).sum();
    const QString text = nameAndFact(each);
    return ms >= least_ms ? text + QStringLiteral(" \u00b7 %1 ms").arg(ms, 0, 'f', 2) : text;
}

std::optional<Board::PressedWord> Board::wordAt(QPoint place) const {
    for (const Row& row : rows_) {
        const auto* trigger = std::get_if<Trigger>(&element(row).body);
        if (trigger == nullptr || place.y() < corner_.y() + m_.header_height) {
            continue;
        }
        for (const Word& word : wordsOf(*trigger, placed(row).topLeft(), seenWidth() - 48)) {
            if (!word.key.empty() && word.rect.contains(place)) {
                return PressedWord{&element(row), word};
            }
        }
    }
    return std::nullopt;
}

QString Board::elementTip(const Element& each) const {
    const ElementType& type = type_of(each.body);
    QString tip =
        QString::fromStdString(each.name) + " \u2014 " + qtext(type.label) + "\n" + qtext(type.help);
    const SmoothedCosts::Cost cost = costs_.of(each.id);
    tip += cost.picture_ms > 0 ? tr("\nTakes %1 ms of the step and %2 ms of the picture now.")
                                     .arg(cost.step_ms, 0, 'f', 2)
                                     .arg(cost.picture_ms, 0, 'f', 2)
                               : tr("\nTakes %1 ms of the step now.").arg(cost.step_ms, 0, 'f', 2);
    const ElementMeter* meter = readings_.find(each.id);
    if (meter != nullptr && std::holds_alternative<Breakable>(each.body)) {
        const DebrisMeter& now = meter->debris;
        tip += tr("\n%1 pieces in the picture: %2 move, %3 rest, %4 are light, %5 are parked.")
                   .arg(now.pieces)
                   .arg(now.awake)
                   .arg(now.resting)
                   .arg(now.light)
                   .arg(now.parked);
        tip += QLatin1Char('\n') + savings_words(now);
        if (meter->refused > 0) {
            tip += tr("\n%1 pieces were not dropped: it may have at most so many.").arg(meter->refused);
        }
    } else if (meter != nullptr && std::holds_alternative<CleanupZone>(each.body)) {
        tip += QLatin1Char('\n') + savings_words(meter->debris);
    } else if (meter != nullptr && family_of(each.body) == Family::source) {
        const size_t index = size_t(&each - effect_->elements.data());
        tip += tr("\n%1 particles alive, about %2 expected, %3 born so far.")
                   .arg(meter->live)
                   .arg(theme::short_count(expected_[index].most()))
                   .arg(meter->born);
        if (meter->refused > 0) {
            tip += tr("\n%1 could not be born: raise the capacity, or lower rate or lifetime.")
                       .arg(meter->refused);
        }
    }
    if (meter != nullptr && std::holds_alternative<Smoke>(each.body)) {
        tip += tr("\n%1 of %2 cells hold smoke.").arg(meter->smoke.active_cells).arg(meter->smoke.cells);
    }
    return tip;
}

QString Board::tipAt(QPoint place) const {
    if (switchAt(place, &Board::muteRect)) {
        return tr("Mute: the effect runs as if this were not there, and it costs nothing (M).");
    }
    if (switchAt(place, &Board::soloRect)) {
        return tr("Solo: only the soloed ones of this side of the board act (S).");
    }
    if (const auto cell = crossingAt(place)) {
        const Element& influence = *find_element(*effect_, cell->influence);
        const Element& source = *find_element(*effect_, cell->source);
        const QString names = QString::fromStdString(influence.name + " \u2192 " + source.name);
        if (const char* refusal = link_refusal(influence, source)) {
            return tr("%1: no dial; %2.").arg(names, qtext(refusal));
        }
        const Link* link = find_link(influence, source.id);
        if (link == nullptr) {
            return tr("%1: not linked.\nClick to link (Space).").arg(names);
        }
        const QString weight = QString::number(link->weight * 100, 'f', 0);
        const QString meaning = family_of(influence.body) == Family::collider
                                    ? (std::holds_alternative<Smoke>(source.body)
                                           ? tr("%1: %2 % tight; less lets the gas seep through.")
                                           : tr("%1: %2 % of the particles or bodies are stopped."))
                                          .arg(names, weight)
                                    : tr("%1: acts with %2 % of its strength.").arg(names, weight);
        return meaning + tr("\nDrag up or down to turn, with Shift finely (+ and -), with Alt the whole row, "
                            "with Control the whole column; click to unlink (Space); type a weight (Enter).");
    }
    for (const Row& row : rows_) {
        const auto* trigger = std::get_if<Trigger>(&element(row).body);
        if (trigger != nullptr && placed(row).contains(place) &&
            place.y() >= corner_.y() + m_.header_height) {
            const auto word = wordAt(place);
            const Parameter* parameter = word ? holder_of(*word->trigger).find(word->word.key) : nullptr;
            const QString sentence = QString::fromStdString(sentence_of(*effect_, *trigger));
            return parameter == nullptr
                       ? sentence
                       : sentence + tr("\nPress to change: %1. %2")
                                        .arg(qtext(parameter->label).toLower(), qtext(parameter->help));
        }
    }
    if (const auto name = nameAt(place)) {
        return elementTip(*find_element(*effect_, *name));
    }
    if (const Heading* heading = headingAt(place)) {
        return heading->group.empty()
                   ? tr("Press to hide or show these rows; they act all the same.")
                   : tr("A group: press to hide or show its rows, double-click to rename it.");
    }
    return {};
}

bool Board::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        QToolTip::showText(help->globalPos(), tipAt(help->pos()), this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace ember
