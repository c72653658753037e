// What hands do on the board: press, drag, turn, type.
#include "desktop/board/board.h"

#include "core/effect/edit.h"
#include "core/effect/sentence.h"
#include "desktop/controls/modulator_drag.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QContextMenuEvent>
#include <QDrag>
#include <QKeyEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QSpinBox>

#include <algorithm>
#include <cmath>
#include <utility>

namespace ember {

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
        const Row& row = rows_[focus_row_];
        emit wordPressed(element(row).id, "when", mapToGlobal(placed(row).bottomLeft() + QPoint(28, 0)));
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
        const QRect seen(corner_, QSize(seenWidth(), height()));
        const std::string id = carrying_->id;
        if (!seen.contains(place) && family_of(find_element(*effect_, id)->body) == Family::modulator) {
            carrying_.reset();
            drop_.reset();
            carryOut(id);
        }
        return update();
    }
    if (!turning_) {
        return hover(event->position().toPoint());
    }
    if (turning_->weight < 0) {
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

// A modulator may be dropped on any number.
void Board::carryOut(const std::string& id) {
    auto* carried = new QMimeData;
    carried->setData(modulator_mime, QByteArray::fromStdString(id));
    const QPixmap chip = grab(placed(*rowOf(id)));
    auto* drag = new QDrag(this);
    drag->setMimeData(carried);
    drag->setPixmap(chip);
    drag->setHotSpot(QPoint(chip.width() / 2, chip.height() / 2));
    drag->exec(Qt::CopyAction);
}

// What the pointer is over shows its switches, its column and the weight of its dial.
void Board::hover(QPoint place) {
    const auto cell = cellAt(place);
    const std::string over = cell ? cell->influence : nameAt(place).value_or(std::string());
    const std::string source = cell ? cell->source : std::string();
    if (over != hovered_ || source != hovered_source_) {
        hovered_ = over;
        hovered_source_ = source;
        update();
    }
}

void Board::leaveEvent(QEvent*) {
    hover({-1, -1});
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
    case Qt::Key_Left: // the last source of the stair has the first dials
        return moveFocus(0, 1, event->modifiers());
    case Qt::Key_Right:
        return moveFocus(0, -1, event->modifiers());
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

} // namespace ember
