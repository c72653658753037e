#include "desktop/board/board.h"

#include "core/effect/edit.h"
#include "desktop/board/board_measures.h"
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

namespace ember {

using namespace board_measures;

bool Board::has_links(const Element& each) {
    return reach_of(each.body) != nullptr;
}

Board::Board(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Board"));
}

void Board::setEffect(const EffectPtr& effect) {
    effect_ = effect;
    expected_ = expected_counts(*effect);
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
    return std::none_of(influence.links.begin(), influence.links.end(), [this](const Link& link) {
        return link.weight > 0 && is_active(*effect_, *find_element(*effect_, link.source));
    });
}

QRect Board::headingRect(Family family) const {
    for (const Heading& heading : headings_) {
        if (heading.family == family) {
            return {0, heading.top, width(), heading_height};
        }
    }
    return {};
}

void Board::setReadings(const Readings& readings, const SmoothedCosts& costs) {
    readings_ = readings;
    costs_ = costs;
    update();
}

void Board::setSelection(const std::string& id) {
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

void Board::layOut() {
    rows_.clear();
    columns_.clear();
    headings_.clear();
    int left = name_width;
    int top = header_height;
    for (size_t i = 0; i < effect_->elements.size(); ++i) {
        const Element& each = effect_->elements[i];
        const Family family = family_of(each.body);
        if (family == Family::source) {
            columns_.push_back({i, left});
            left += column_width;
            continue;
        }
        if (headings_.empty() || headings_.back().family != family) {
            headings_.push_back({family, top, 0});
            top += heading_height;
        }
        const bool fits = QString::fromStdString(each.name).contains(filter_, Qt::CaseInsensitive);
        if (!fits || (filter_.isEmpty() && collapsed_.contains(family))) {
            ++headings_.back().hidden;
            continue;
        }
        rows_.push_back({i, top});
        top += row_height;
    }
    bottom_ = top;
    focus_row_ = std::min(focus_row_, rows_.empty() ? 0 : rows_.size() - 1);
    focus_column_ = std::min(focus_column_, columns_.empty() ? 0 : columns_.size() - 1);
    updateGeometry();
    resize(sizeHint().expandedTo(parentWidget() != nullptr ? parentWidget()->size() : QSize()));
}

QSize Board::sizeHint() const {
    return {name_width + int(columns_.size()) * column_width + right_margin, bottom_ + 8};
}

QRect Board::cellRect(const std::string& influence, const std::string& source) const {
    for (const Slot& row : rows_) {
        for (const Slot& column : columns_) {
            if (element(row).id == influence && element(column).id == source && has_links(element(row))) {
                return {column.at, row.at, column_width, row_height};
            }
        }
    }
    return {};
}

QRect Board::nameRect(const std::string& id) const {
    for (const Slot& row : rows_) {
        if (element(row).id == id) {
            return {left_margin, row.at, name_width - left_margin - 2 * switch_size - 6, row_height};
        }
    }
    for (const Slot& column : columns_) {
        if (element(column).id == id) {
            return {column.at, header_height - 62, column_width, 36};
        }
    }
    return {};
}

QRect Board::muteRect(const std::string& id) const {
    for (const Slot& row : rows_) {
        if (element(row).id == id) {
            return {name_width - 2 * switch_size - 4, row.at + 2, switch_size, switch_size};
        }
    }
    for (const Slot& column : columns_) {
        if (element(column).id == id) {
            return {column.at + column_width / 2 - switch_size, header_height - 24, switch_size, switch_size};
        }
    }
    return {};
}

QRect Board::soloRect(const std::string& id) const {
    const QRect mute = muteRect(id);
    const Element* each = find_element(*effect_, id);
    const bool has_solo = each != nullptr && can_be_soloed(*each);
    return has_solo ? mute.translated(switch_size, 0) : QRect();
}

std::optional<Board::Cell> Board::cellAt(QPoint place) const {
    for (const Slot& row : rows_) {
        for (const Slot& column : columns_) {
            const Cell cell = {element(row).id, element(column).id};
            // Movers have no cells.
            if (cellRect(cell.influence, cell.source).contains(place)) {
                return cell;
            }
        }
    }
    return std::nullopt;
}

std::optional<std::string> Board::nameAt(QPoint place) const {
    for (const Slot& row : rows_) {
        if (QRect(0, row.at, name_width, row_height).contains(place)) {
            return element(row).id;
        }
    }
    for (const Slot& column : columns_) {
        // Names lean to the right: a place belongs to the column at whose foot its slanted line ends.
        const int foot = place.x() - int((header_height - 62 - place.y()) * 1.2);
        const int x = place.y() < header_height - 62 ? foot : place.x();
        if (place.y() < header_height && x >= column.at && x < column.at + column_width) {
            return element(column).id;
        }
    }
    return std::nullopt;
}

std::optional<std::string> Board::switchAt(QPoint place,
                                           QRect (Board::*rect)(const std::string&) const) const {
    for (const Element& each : effect_->elements) {
        if ((this->*rect)(each.id).contains(place)) {
            return each.id;
        }
    }
    return std::nullopt;
}

void Board::toggleLink(const Cell& cell) {
    const Element* influence = find_element(*effect_, cell.influence);
    const bool linked = find_link(*influence, cell.source) != nullptr;
    emit edited(with_link(*effect_, cell.influence, cell.source, linked ? std::nullopt : std::optional(1.0f)),
                linked ? tr("unlink") : tr("link"), {});
}

void Board::setWeight(const Cell& cell, float weight, const QString& gesture) {
    emit edited(with_link(*effect_, cell.influence, cell.source, std::clamp(weight, 0.0f, 1.0f)),
                tr("turn a dial"), gesture);
}

void Board::setRowWeight(const std::string& influence, float weight, const QString& gesture) {
    Effect edited_effect = *effect_;
    for (const Link& link : find_element(*effect_, influence)->links) {
        edited_effect = with_link(edited_effect, influence, link.source, std::clamp(weight, 0.0f, 1.0f));
    }
    emit edited(edited_effect, tr("turn the dials of a row"), gesture);
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
        setWeight(cell, float(editor->value()) / 100, {});
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
        emit selected(cell->influence);
        setSelection(cell->source);
        setSelection(cell->influence);
    } else if (const auto name = nameAt(place)) {
        emit selected(*name);
    } else {
        for (const Heading& heading : headings_) {
            if (headingRect(heading.family).contains(place)) {
                // Hidden rows act all the same.
                const Family family = heading.family;
                collapsed_.erase(family) == 0 ? void(collapsed_.insert(family)) : void();
                layOut();
                return update();
            }
        }
    }
}

void Board::mouseMoveEvent(QMouseEvent* event) {
    if (!turning_ || turning_->weight < 0) {
        return;
    }
    const double way = turning_->start.y() - event->position().y();
    turning_->moved = turning_->moved || std::abs(way) >= 3;
    if (turning_->moved) {
        const double per_pixel = event->modifiers() & Qt::ShiftModifier ? 0.002 : 0.01;
        const auto weight = float(std::round((turning_->weight + way * per_pixel) * 200) / 200);
        const QString gesture = QStringLiteral("dial %1").arg(gestures_);
        event->modifiers() & Qt::AltModifier ? setRowWeight(turning_->cell.influence, weight, gesture)
                                             : setWeight(turning_->cell, weight, gesture);
    }
}

void Board::mouseReleaseEvent(QMouseEvent* event) {
    if (!turning_ || event->button() != Qt::LeftButton) {
        return;
    }
    const Turning done = *turning_;
    turning_.reset();
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
    setWeight(*cell, link->weight + float(event->angleDelta().y()) / 120 * 0.05f,
              QStringLiteral("wheel %1").arg(gestures_));
}

std::optional<Board::Cell> Board::focusCell() const {
    if (rows_.empty() || columns_.empty() || !has_links(element(rows_[focus_row_]))) {
        return std::nullopt;
    }
    return Cell{element(rows_[focus_row_]).id, element(columns_[focus_column_]).id};
}

void Board::moveFocus(int rows, int columns) {
    const auto moved = [](size_t from, int by, size_t count) {
        return count == 0 ? 0 : size_t(std::clamp(int(from) + by, 0, int(count) - 1));
    };
    focus_row_ = moved(focus_row_, rows, rows_.size());
    focus_column_ = moved(focus_column_, columns, columns_.size());
    ++gestures_;
    if (rows != 0 && !rows_.empty()) {
        emit selected(element(rows_[focus_row_]).id);
    } else if (columns != 0 && !columns_.empty()) {
        emit selected(element(columns_[focus_column_]).id);
    }
    update();
}

void Board::keyPressEvent(QKeyEvent* event) {
    const auto cell = focusCell();
    const Link* link = cell ? find_link(*find_element(*effect_, cell->influence), cell->source) : nullptr;
    const auto turn = [&](float by) {
        if (link != nullptr) {
            const float step = event->modifiers() & Qt::AltModifier ? 0.01f : 0.05f;
            setWeight(*cell, link->weight + by * step, QStringLiteral("keys %1").arg(gestures_));
        }
    };
    switch (event->key()) {
    case Qt::Key_Left:
        return moveFocus(0, -1);
    case Qt::Key_Right:
        return moveFocus(0, 1);
    case Qt::Key_Up:
        return moveFocus(-1, 0);
    case Qt::Key_Down:
        return moveFocus(1, 0);
    case Qt::Key_Plus:
    case Qt::Key_Equal:
        return turn(1);
    case Qt::Key_Minus:
        return turn(-1);
    case Qt::Key_Space:
        return cell ? toggleLink(*cell) : void();
    case Qt::Key_Return:
    case Qt::Key_Enter:
        return cell ? typeWeight(*cell) : void();
    default:
        QWidget::keyPressEvent(event);
    }
}

void Board::contextMenuEvent(QContextMenuEvent* event) {
    if (const auto name = nameAt(event->pos())) {
        emit selected(*name);
        emit menuRequested(*name, event->globalPos());
    }
}

QString Board::elementTip(const Element& each) const {
    const ElementType& type = type_of(each.body);
    QString tip =
        QString::fromStdString(each.name) + " \u2014 " + qtext(type.label) + "\n" + qtext(type.help);
    tip += tr("\nTakes %1 ms of the step now.").arg(costs_.element_ms(each.id), 0, 'f', 2);
    if (const ElementMeter* meter = readings_.find(each.id);
        meter != nullptr && family_of(each.body) == Family::source) {
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
        const QString meaning = family_of(influence.body) == Family::collider
                                    ? tr("%1: %2 % of the particles are stopped.").arg(names, weight)
                                    : tr("%1: acts with %2 % of its strength.").arg(names, weight);
        return meaning + tr("\nDrag up or down to turn, with Shift finely (+ and -), with Alt the whole row; "
                            "click to unlink "
                            "(Space); type a weight (Enter).");
    }
    if (const auto name = nameAt(place)) {
        return elementTip(*find_element(*effect_, *name));
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
