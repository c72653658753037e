#include "desktop/board/board.h"

#include "core/effect/edit.h"
#include "core/effect/sentence.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QContextMenuEvent>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QSpinBox>
#include <QToolTip>

#include <algorithm>
#include <cmath>
#include <utility>

namespace ember {

Board::Board(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
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
    for (const Slot& row : rows_) {
        if (has_links(element(row))) {
            update(figuresRect(row));
        }
    }
    for (const Slot& column : columns_) {
        update(countsRect(column));
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
        for (const std::vector<Slot>* side : {&rows_, &columns_}) {
            const auto at = [&](const std::string& wanted) {
                return std::find_if(side->begin(), side->end(),
                                    [&](const Slot& slot) { return element(slot).id == wanted; });
            };
            auto from = at(selection_), to = at(id);
            if (from != side->end() && to != side->end()) {
                for (auto slot = std::min(from, to); slot <= std::max(from, to); ++slot) {
                    others.push_back(element(*slot).id);
                }
            }
        }
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
                return sources ? family_of(other.body) != Family::source : !has_links(other);
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
    for (const Slot& column : columns_) {
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

void Board::focusOn(const Cell& cell) {
    for (size_t i = 0; i < columns_.size(); ++i) {
        focus_column_ = element(columns_[i]).id == cell.source ? i : focus_column_;
    }
    emit selected(cell.influence);
    setSelection(cell.influence);
}

void Board::toggleLink(const Cell& cell) {
    const bool linked = find_link(*find_element(*effect_, cell.influence), cell.source) != nullptr;
    Effect changed = *effect_;
    for (const Cell& each : cellsWith(cell)) {
        changed =
            with_link(changed, each.influence, each.source, linked ? std::nullopt : std::optional(1.0f));
    }
    emit edited(changed, linked ? tr("unlink") : tr("link"), {});
}

void Board::setWeights(const std::vector<Cell>& cells, float weight, const QString& gesture) {
    Effect changed = *effect_;
    for (const Cell& cell : cells) {
        if (find_link(*find_element(*effect_, cell.influence), cell.source) != nullptr) {
            changed = with_link(changed, cell.influence, cell.source, std::clamp(weight, 0.0f, 1.0f));
        }
    }
    emit edited(changed, cells.size() > 1 ? tr("turn dials") : tr("turn a dial"), gesture);
}

void Board::linkWith(const Cell& cell, float weight) {
    Effect changed = *effect_;
    for (const Cell& each : cellsWith(cell)) {
        changed = with_link(changed, each.influence, each.source, weight);
    }
    emit edited(changed, tr("type a weight"), {});
}

std::optional<std::pair<std::string, std::string>> Board::parameterAt(QPoint place) const {
    const auto word = wordAt(place);
    return word ? std::optional(std::pair(word->trigger->id, word->word.key)) : std::nullopt;
}

// Of the row that has the keyboard, if it is one.
void Board::editSentence() {
    if (!rows_.empty() && std::holds_alternative<Trigger>(element(rows_[focus_row_]).body)) {
        const Slot& row = rows_[focus_row_];
        emit wordPressed(element(row).id, "when",
                         mapToGlobal(QPoint(corner_.x() + m_.name_width + 4, row.at + m_.row_height)));
    }
}

void Board::typeWeight(const Cell& cell) {
    const Link* link = find_link(*find_element(*effect_, cell.influence), cell.source);
    delete weight_editor_;
    auto* editor = new QSpinBox(this);
    weight_editor_ = editor;
    editor->setRange(0, 100);
    editor->setSuffix(QStringLiteral(" %"));
    editor->setValue(link != nullptr ? int(std::lround(link->weight * 100)) : 100);
    editor->setFont(theme::figure_font(8.5));
    const QRect rect = cellRect(cell.influence, cell.source);
    editor->setGeometry(rect.center().x() - 28, rect.center().y() - 13, 56, 26);
    editor->selectAll();
    editor->show();
    editor->setFocus();
    connect(editor, &QSpinBox::editingFinished, this, [this, editor, cell] {
        editor->blockSignals(true);
        editor->deleteLater();
        setFocus();
        linkWith(cell, float(editor->value()) / 100);
    });
}

void Board::mousePressEvent(QMouseEvent* event) {
    const QPoint place = event->position().toPoint();
    if (event->button() != Qt::LeftButton) {
        return;
    }
    if (const auto id = switchAt(place, &Board::muteRect)) {
        const bool muted = find_element(*effect_, *id)->muted;
        emit edited(with_muted(*effect_, *id, !muted), muted ? tr("unmute") : tr("mute"), {});
    } else if (const auto solo_id = switchAt(place, &Board::soloRect)) {
        const bool solo = find_element(*effect_, *solo_id)->solo;
        emit edited(with_solo(*effect_, *solo_id, !solo), tr("solo"), {});
    } else if (const auto cell = cellAt(place)) {
        const Link* link = find_link(*find_element(*effect_, cell->influence), cell->source);
        turning_ = {*cell, event->position(), link != nullptr ? link->weight : -1, false};
        ++gestures_;
        focusOn(*cell);
    } else if (const auto pressed = wordAt(place)) {
        const std::string trigger = pressed->trigger->id;
        emit selected(trigger);
        emit wordPressed(trigger, pressed->word.key, mapToGlobal(pressed->word.rect.bottomLeft()));
    } else if (const auto name = nameAt(place)) {
        pressName(*name, place, event->modifiers());
    } else if (const Heading* heading = headingAt(place)) {
        // Hidden rows act all the same.
        const std::pair key(heading->family, heading->group);
        collapsed_.erase(key) == 0 ? void(collapsed_.insert(key)) : void();
        layOut();
        update();
    }
}

void Board::pressName(const std::string& id, QPoint place, Qt::KeyboardModifiers keys) {
    if (keys & (Qt::ControlModifier | Qt::ShiftModifier)) {
        return choose(id, keys);
    }
    carrying_ = {id, place, isChosen(id) && !also_chosen_.empty(), false};
    emit selected(id);
}

void Board::mouseMoveEvent(QMouseEvent* event) {
    if (carrying_) {
        const QPoint place = event->position().toPoint();
        carrying_->moved = carrying_->moved || (place - carrying_->start).manhattanLength() > 6;
        drop_ = carrying_->moved ? dropAt(place) : std::nullopt;
        return update();
    }
    if (!turning_ || turning_->weight < 0) {
        return;
    }
    const double way = turning_->start.y() - event->position().y();
    turning_->moved = turning_->moved || std::abs(way) >= 3;
    if (turning_->moved) {
        const Qt::KeyboardModifiers keys = event->modifiers();
        const double per_pixel = keys & Qt::ShiftModifier ? 0.002 : 0.01;
        const auto weight = float(std::round((turning_->weight + way * per_pixel) * 200) / 200);
        const Cell& cell = turning_->cell;
        setWeights(keys & Qt::AltModifier       ? wholeRow(cell)
                   : keys & Qt::ControlModifier ? wholeColumn(cell)
                                                : cellsWith(cell),
                   weight, QStringLiteral("dial %1").arg(gestures_));
    }
}

void Board::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) {
        return;
    }
    if (carrying_) {
        const Carrying done = *std::exchange(carrying_, std::nullopt);
        const auto drop = std::exchange(drop_, std::nullopt);
        update();
        if (drop && !isChosen(drop->neighbour)) {
            const Effect placed = with_placed(*effect_, chosen(), drop->neighbour, drop->behind);
            return placed != *effect_ ? emit edited(placed, tr("move elements"), {}) : void();
        }
        if (!done.moved && done.keeps_choice) {
            also_chosen_.clear();
        }
        return;
    }
    if (!turning_) {
        return;
    }
    const Turning done = *std::exchange(turning_, std::nullopt);
    if (done.moved) {
        emit gestureEnded();
    } else if (cellAt(event->position().toPoint()) == done.cell) {
        toggleLink(done.cell);
    }
}

void Board::mouseDoubleClickEvent(QMouseEvent* event) {
    const QPoint place = event->position().toPoint();
    const auto name = nameAt(place);
    if (name && !cellAt(place) && !switchAt(place, &Board::muteRect) && !switchAt(place, &Board::soloRect)) {
        emit renameRequested(*name);
    } else if (const Heading* heading = headingAt(place); heading != nullptr && !heading->group.empty()) {
        emit groupRenameRequested(heading->group);
    } else {
        mousePressEvent(event);
    }
}

void Board::wheelEvent(QWheelEvent* event) {
    const auto cell = cellAt(event->position().toPoint());
    const Link* link = cell ? find_link(*find_element(*effect_, cell->influence), cell->source) : nullptr;
    // The wheel turns the dial that has been clicked; over any other it scrolls the board.
    if (link == nullptr || cell != focusCell() || !hasFocus()) {
        event->ignore();
        return;
    }
    setWeights(cellsWith(*cell), link->weight + float(event->angleDelta().y()) / 120 * 0.05f,
               QStringLiteral("wheel %1").arg(gestures_));
}

std::optional<Board::Cell> Board::focusCell() const {
    if (rows_.empty() || columns_.empty() || !has_links(element(rows_[focus_row_]))) {
        return std::nullopt;
    }
    return Cell{element(rows_[focus_row_]).id, element(columns_[focus_column_]).id};
}

void Board::moveFocus(int rows, int columns, Qt::KeyboardModifiers keys) {
    const auto moved = [](size_t from, int by, size_t count) {
        return count == 0 ? 0 : size_t(std::clamp(int(from) + by, 0, int(count) - 1));
    };
    focus_row_ = moved(focus_row_, rows, rows_.size());
    focus_column_ = moved(focus_column_, columns, columns_.size());
    ++gestures_;
    const auto go_to = [&](const std::string& id) {
        keys& Qt::ShiftModifier ? choose(id, keys) : emit selected(id);
    };
    if (rows != 0 && !rows_.empty()) {
        go_to(element(rows_[focus_row_]).id);
    } else if (columns != 0 && !columns_.empty()) {
        go_to(element(columns_[focus_column_]).id);
    }
    update();
}

void Board::keyPressEvent(QKeyEvent* event) {
    const auto cell = focusCell();
    const Link* link = cell ? find_link(*find_element(*effect_, cell->influence), cell->source) : nullptr;
    const auto turn = [&](float by) {
        if (link != nullptr) {
            const float step = event->modifiers() & Qt::AltModifier ? 0.01f : 0.05f;
            setWeights(cellsWith(*cell), link->weight + by * step, QStringLiteral("keys %1").arg(gestures_));
        }
    };
    switch (event->key()) {
    case Qt::Key_Left:
        return moveFocus(0, -1, event->modifiers());
    case Qt::Key_Right:
        return moveFocus(0, 1, event->modifiers());
    case Qt::Key_Up:
        return moveFocus(-1, 0, event->modifiers());
    case Qt::Key_Down:
        return moveFocus(1, 0, event->modifiers());
    case Qt::Key_Plus:
    case Qt::Key_Equal:
        return turn(1);
    case Qt::Key_Minus:
        return turn(-1);
    case Qt::Key_Space:
        return cell ? toggleLink(*cell) : void();
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return cell ? typeWeight(*cell) : editSentence();
    case Qt::Key_Escape:
        carrying_.reset();
        drop_.reset();
        return setChosen({selection_});
    default:
        QWidget::keyPressEvent(event);
    }
}

void Board::contextMenuEvent(QContextMenuEvent* event) {
    if (const auto name = nameAt(event->pos())) {
        isChosen(*name) ? void() : emit selected(*name);
        emit menuRequested(*name, event->globalPos());
    }
}

// Line by line, in the middle of the row. What has no room is left to the tip.
std::vector<Board::Word> Board::wordsOf(const Slot& row) const {
    const auto* trigger = std::get_if<Trigger>(&element(row).body);
    if (trigger == nullptr) {
        return {};
    }
    const int seen = parentWidget() != nullptr ? parentWidget()->width() : width();
    const QRect room(corner_.x() + m_.name_width + 4, row.at, seen - m_.name_width - 10, m_.row_height - 2);
    const QFontMetrics metrics(theme::text_font(8));
    const int most_lines = std::max(room.height() / metrics.height(), 1),
              dots = metrics.horizontalAdvance("\u2026");
    std::vector<Word> words;
    int x = 0, line = 0;
    for (const SentencePart& part : parts_of_sentence(*effect_, *trigger)) {
        // With the spaces between, so that a line may end at any of them.
        for (QString rest = QString::fromStdString(part.text); !rest.isEmpty();) {
            const auto space = rest.indexOf(' ');
            const QString word = space < 0 ? rest : rest.left(space + 1);
            rest.remove(0, word.size());
            const int wide = metrics.horizontalAdvance(word);
            const int least = metrics.horizontalAdvance(word.trimmed());
            const bool is_last_line = line + 1 == most_lines;
            if (x > 0 && x + least + (is_last_line ? dots : 0) > room.width()) {
                if (is_last_line) {
                    words.push_back(
                        {QRect(room.left() + x, line, dots, metrics.height()), QStringLiteral("\u2026"), {}});
                    rest.clear();
                    x = -1;
                    break;
                }
                x = 0;
                ++line;
            }
            words.push_back({QRect(room.left() + x, line, wide, metrics.height()), word, part.key});
            x += wide;
        }
        if (x < 0) {
            break;
        }
    }
    const int top = room.center().y() - (line + 1) * metrics.height() / 2;
    for (Word& word : words) {
        word.rect.moveTop(top + word.rect.top() * metrics.height());
    }
    return words;
}

std::optional<Board::PressedWord> Board::wordAt(QPoint place) const {
    for (const Slot& row : rows_) {
        for (const Word& word : wordsOf(row)) {
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
    tip += tr("\nTakes %1 ms of the step now.").arg(costs_.element_ms(each.id), 0, 'f', 2);
    if (const ElementMeter* meter = readings_.find(each.id);
        meter != nullptr && std::holds_alternative<Breakable>(each.body)) {
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
        tip += tr("\n%1 particles alive, %2 born so far.").arg(meter->live).arg(meter->born);
        if (meter->refused > 0) {
            tip += tr("\n%1 could not be born: raise the capacity, or lower rate or lifetime.")
                       .arg(meter->refused);
        }
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
    if (const auto cell = cellAt(place)) {
        const Element& influence = *find_element(*effect_, cell->influence);
        const Element& source = *find_element(*effect_, cell->source);
        const QString names = QString::fromStdString(influence.name + " \u2192 " + source.name);
        const Link* link = find_link(influence, source.id);
        if (link == nullptr) {
            return tr("%1: not linked.\nClick to link (Space).").arg(names);
        }
        const QString weight = QString::number(link->weight * 100, 'f', 0);
        const QString meaning =
            family_of(influence.body) == Family::collider
                ? tr("%1: %2 % of the particles or bodies are stopped.").arg(names, weight)
                : tr("%1: acts with %2 % of its strength.").arg(names, weight);
        return meaning + tr("\nDrag up or down to turn, with Shift finely (+ and -), with Alt the whole row, "
                            "with Control the whole column; click to unlink (Space); type a weight (Enter).");
    }
    for (const Slot& row : rows_) {
        const auto* trigger = std::get_if<Trigger>(&element(row).body);
        if (trigger != nullptr && place.y() >= row.at && place.y() < row.at + m_.row_height) {
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
