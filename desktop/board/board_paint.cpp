// How the board looks.
#include "desktop/board/board.h"

#include "core/effect/parameter.h"
#include "core/effect/sentence.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QPaintEvent>
#include <QPainter>

#include <algorithm>

namespace ember {

namespace {

// One among others that are hardly there.
void paint_solo(QPainter& painter, const QRectF& rect, bool on) {
    const QColor colour = on ? theme::ember : theme::text;
    painter.setPen(Qt::NoPen);
    painter.setBrush(colour);
    painter.drawEllipse(rect.center(), 3.2, 3.2);
    QColor faint = colour;
    faint.setAlphaF(0.5f);
    painter.setBrush(faint);
    painter.drawEllipse(rect.center() - QPointF(6, 0), 1.3, 1.3);
    painter.drawEllipse(rect.center() + QPointF(6, 0), 1.3, 1.3);
}

// Particles are a grain, pieces a block, smoke a ring of it.
void paint_kind(QPainter& painter, QPointF middle, const Element& source, const QColor& colour) {
    painter.setPen(Qt::NoPen);
    painter.setBrush(colour);
    if (std::holds_alternative<Breakable>(source.body)) {
        painter.drawRect(QRectF(middle.x() - 3.5, middle.y() - 3.5, 7, 7));
    } else if (std::holds_alternative<Smoke>(source.body)) {
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(colour, 2));
        painter.drawEllipse(middle, 3.2, 3.2);
    } else {
        painter.drawEllipse(middle, 3.5, 3.5);
    }
}

QString elided(const QPainter& painter, const std::string& text, int width) {
    return painter.fontMetrics().elidedText(QString::fromStdString(text), Qt::ElideRight, width);
}

void paint_struck(QPainter& painter, const QRect& rect, const QString& text) {
    const int middle = rect.center().y() + 1;
    painter.drawLine(rect.left(), middle, rect.left() + painter.fontMetrics().horizontalAdvance(text),
                     middle);
}

QString section_name(Family family) {
    switch (family) {
    case Family::source:
        break;
    case Family::force:
        return Board::tr("Forces");
    case Family::collider:
        return Board::tr("Collision");
    case Family::breaking:
        return Board::tr("Breaking");
    case Family::mover:
    case Family::light:
    case Family::modulator:
        return Board::tr("Moves, lights, rhythms");
    case Family::smoke:
        return Board::tr("Smoke");
    case Family::trigger:
        return Board::tr("Triggers");
    }
    return {};
}

} // namespace

void Board::paintEvent(QPaintEvent* event) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (!effect_) {
        return;
    }
    // What is scrolled goes under what stays in sight: dials under names, rows under the stair.
    const QRegion& due = event->region();
    const QRect below_stair(0, corner_.y() + m_.header_height, width(), height());
    painter.setClipRect(below_stair.adjusted(corner_.x() + m_.name_width, 0, 0, 0));
    for (const Row& row : rows_) {
        if (due.intersects(QRect(m_.name_width, row.rect.top(), width(), row.rect.height()))) {
            paintDials(painter, row);
        }
    }
    painter.setClipRect(below_stair & due.boundingRect());
    paintHeadings(painter);
    for (const Row& row : rows_) {
        if (due.intersects(QRect(corner_.x(), row.rect.top(), width(), row.rect.height()))) {
            paintRow(painter, row);
        }
    }
    const QRect stair(corner_.x(), corner_.y(), width(), m_.header_height);
    for (const Column& column : columns_) {
        painter.setClipRect(stair.adjusted(m_.name_width - 6, 0, 0, 0));
        if (due.intersects(stair.adjusted(m_.name_width - 6, 0, 0, 0))) {
            paintSteps(painter, column);
        }
        painter.setClipRect(stair);
        if (due.intersects(placed(column))) {
            paintSource(painter, column);
        }
    }
    painter.setClipping(false);
    if (drop_) {
        painter.setPen(QPen(theme::ember, 2));
        painter.drawLine(drop_->mark);
    }
}

void Board::paintHeadings(QPainter& painter) const {
    bool has_unit = false;
    for (const Heading& heading : headings_) {
        const QRect rect = headingRect(heading.family, heading.group).adjusted(m_.left_margin, 2, 0, 0);
        painter.setFont(theme::text_font(8.5, QFont::Medium));
        painter.setPen(heading.group.empty() ? theme::quiet : theme::text);
        QString text =
            heading.group.empty() ? section_name(heading.family) : QString::fromStdString(heading.group);
        if (heading.hidden > 0) {
            text += tr("  +%1 hidden").arg(heading.hidden);
        }
        const QRect room(rect.left(), rect.top(), seenWidth() - 2 * m_.left_margin, rect.height());
        text = painter.fontMetrics().elidedText(text, Qt::ElideRight, room.width());
        painter.drawText(room, Qt::AlignVCenter | Qt::AlignLeft, text);
        if (!has_unit && heading.family < Family::mover) { // said once
            has_unit = true;
            painter.setFont(theme::figure_font(8));
            painter.setPen(theme::quiet);
            painter.drawText(costRect(rect.translated(-m_.left_margin, 0)), Qt::AlignVCenter | Qt::AlignRight,
                             tr("ms"));
        }
    }
}

void Board::paintChosen(QPainter& painter, const QRect& rect, const std::string& id) const {
    if (!isChosen(id) && id != hovered_) {
        return;
    }
    QColor ground = theme::raised;
    ground.setAlphaF(isChosen(id) ? 1.0f : 0.5f);
    painter.setPen(Qt::NoPen);
    painter.setBrush(ground);
    painter.drawRoundedRect(rect, 5, 5);
    if (isChosen(id)) {
        painter.setBrush(theme::ember);
        painter.drawRect(
            QRectF(rect.left(), rect.top() + 4, id == selection_ ? 2.5 : 1.5, rect.height() - 8));
    }
}

// From the line of a source to its dials.
void Board::paintSteps(QPainter& painter, const Column& column) const {
    const std::string& id = element(column).id;
    const bool is_bright = isChosen(id) || id == hovered_ || id == hovered_source_;
    const QRect line = placed(column);
    const double y = line.center().y() + 0.5, x = column.left + m_.column_width / 2 + 0.5;
    painter.setPen(QPen(is_bright ? theme::ember : theme::line, is_bright ? 1.6 : 1.2));
    painter.drawPolyline(QPolygonF({{double(line.left() + m_.name_width - 4), y},
                                    {x, y},
                                    {x, double(corner_.y() + m_.header_height - 3)}}));
}

void Board::paintSource(QPainter& painter, const Column& column) const {
    const Element& source = element(column);
    const bool active = is_active(*effect_, source);
    const QRect line = placed(column);
    paintChosen(painter, line.adjusted(4, 1, -4, -1), source.id);
    const QColor ink = active ? theme::text : theme::quiet;
    paint_kind(painter, {line.left() + m_.left_margin + 4.0, line.center().y() + 0.5}, source, ink);
    if (source.muted || source.solo || source.id == hovered_) { // over its line
        painter.fillRect(muteRect(source.id).united(soloRect(source.id)), theme::panel);
        paintSwitches(painter, source);
    }
    const QRect name = nameRect(source.id);
    painter.setFont(theme::text_font(9, isChosen(source.id) ? QFont::Medium : QFont::Normal));
    painter.setPen(ink);
    const QString text = elided(painter, source.name, name.width());
    painter.drawText(name, Qt::AlignVCenter | Qt::AlignLeft, text);
    if (source.muted) {
        paint_struck(painter, name, text);
    }

    const auto counted = m_.is_narrow() ? theme::shortest_count : theme::short_count;
    const ElementMeter* meter = readings_.find(source.id);
    const bool is_smoke = std::holds_alternative<Smoke>(source.body);
    const double count = meter == nullptr ? 0
                         : is_smoke       ? double(meter->smoke.active_cells)
                                          : double(meter->live);
    const bool is_full = meter != nullptr && meter->refused_lately > 0 && active;
    const bool exceeds = expected_excess(*effect_, column.element, expected_[column.element]).has_value();
    painter.setFont(is_full ? theme::text_font(8, QFont::Medium) : theme::figure_font(8));
    painter.setPen(is_full || exceeds ? theme::close : ink);
    painter.drawText(countRect(line), Qt::AlignVCenter | Qt::AlignRight,
                     is_full ? tr("full") : counted(count));
    painter.setFont(theme::figure_font(8));
    painter.setPen(active ? theme::cost : theme::quiet);
    painter.drawText(costRect(line), Qt::AlignVCenter | Qt::AlignRight,
                     active ? sourceCost(source.id) : QStringLiteral("\u2013"));
}

// Of the step and of the picture, or both in one where there is little room.
QString Board::sourceCost(const std::string& id) const {
    const SmoothedCosts::Cost cost = costs_.of(id);
    const auto figure = [](double ms) { return QString::number(ms, 'f', ms < 9.95 ? 1 : 0); };
    return m_.is_narrow() ? figure(cost.sum()) : figure(cost.step_ms) + "+" + figure(cost.picture_ms);
}

void Board::paintRow(QPainter& painter, const Row& row) const {
    if (const auto* trigger = std::get_if<Trigger>(&element(row).body)) {
        paintSentence(painter, row, *trigger);
    } else {
        has_links(element(row)) ? paintName(painter, row) : paintChip(painter, row);
    }
}

void Board::paintName(QPainter& painter, const Row& row) const {
    const Element& each = element(row);
    const bool idles = actsOnNothing(each);
    const bool active = is_active(*effect_, each) && !idles;
    const QRect rect = placed(row);
    paintChosen(painter, rect.adjusted(4, 1, -4, -1), each.id);
    paintSwitches(painter, each);
    const QRect name = nameRect(each.id);
    const bool shows_switches = each.muted || each.solo || each.id == hovered_;
    painter.setFont(theme::text_font(9));
    painter.setPen(active ? theme::text : theme::quiet);
    const QString text = elided(painter, each.name,
                                shows_switches ? muteRect(each.id).left() - name.left() - 2 : name.width());
    painter.drawText(name.adjusted(0, 0, 0, -2), Qt::AlignVCenter | Qt::AlignLeft, text);
    if (each.muted) {
        paint_struck(painter, name.adjusted(0, 0, 0, -2), text);
    }
    // The bar's full length is the whole frame's limit.
    const double ms = costs_.of(each.id).step_ms;
    const double share = std::min(ms / effect_->budget.frame_ms, 1.0);
    if (ms > 0) {
        const double full = m_.name_width - m_.left_margin - 10;
        painter.fillRect(QRectF(name.left(), rect.bottom() - 2, std::max(full * share, 2.0), 1.5),
                         theme::cost);
    }
    // Over a dial the figure is its weight.
    const Link* link =
        each.id == hovered_ && !hovered_source_.empty() ? find_link(each, hovered_source_) : nullptr;
    painter.setFont(theme::figure_font(8));
    painter.setPen(link != nullptr ? theme::text : active ? theme::cost : theme::quiet);
    painter.drawText(costRect(rect).adjusted(-26, 0, 0, -2), Qt::AlignVCenter | Qt::AlignRight,
                     link != nullptr ? QString::number(link->weight * 100, 'f', 0) + " %"
                     : each.muted    ? tr("muted")
                     : idles         ? tr("unused")
                     : !active       ? tr("silenced")
                                     : QString::number(ms, 'f', 2));
}

void Board::paintDials(QPainter& painter, const Row& row) const {
    const Element& influence = element(row);
    if (!has_links(influence)) {
        return;
    }
    const bool active = is_active(*effect_, influence) && !actsOnNothing(influence);
    const bool has_row_focus = hasFocus() && row.element == rows_[focus_row_].element;
    for (const Column& column : columns_) {
        const Element& source = element(column);
        const QRect cell(column.left, row.rect.top(), m_.column_width, m_.row_height);
        if (!can_link(influence, source)) {
            continue;
        }
        const bool lively = isChosen(influence.id) || isChosen(source.id);
        paintDial(painter, cell, find_link(influence, source.id), lively,
                  active && is_active(*effect_, source));
        if (has_row_focus && column.element == columns_[focus_column_].element) {
            painter.setPen(QPen(theme::text, 1, Qt::DotLine));
            painter.setBrush(Qt::NoBrush);
            painter.drawRoundedRect(QRectF(cell).adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
        }
    }
}

void Board::paintChip(QPainter& painter, const Row& chip) const {
    const Element& each = element(chip);
    const QRect rect = placed(chip);
    const bool is_lit = isChosen(each.id);
    painter.setPen(QPen(is_lit ? theme::ember : theme::line, 1));
    painter.setBrush(theme::raised);
    painter.drawRoundedRect(QRectF(rect).adjusted(0.5, 0.5, -0.5, -0.5), 10, 10);
    painter.setFont(theme::text_font(8.5));
    painter.setPen(each.muted ? theme::quiet : theme::text);
    const bool shows_switch = each.muted || each.id == hovered_;
    const QRect words = rect.adjusted(11, 0, shows_switch ? -m_.switch_size - 2 : -8, 0);
    const QString name = elided(painter, each.name, words.width());
    painter.drawText(words, Qt::AlignVCenter | Qt::AlignLeft, name);
    if (each.muted) {
        paint_struck(painter, words, name);
    }
    const int wide = painter.fontMetrics().horizontalAdvance(name);
    painter.setPen(theme::quiet);
    painter.drawText(words.adjusted(wide, 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft,
                     painter.fontMetrics().elidedText(chipText(each).mid(qsizetype(each.name.size())),
                                                      Qt::ElideRight, words.width() - wide));
    paintSwitches(painter, each);
}

void Board::paintSentence(QPainter& painter, const Row& row, const Trigger& trigger) const {
    const Element& each = element(row);
    const bool does_something = !each.muted && !why_never_done(*effect_, trigger);
    const QRect rect = placed(row);
    paintChosen(painter, rect.adjusted(4, 1, -4, -1), each.id);
    // A sign that points from what happens to what is done.
    const QPointF mark(rect.left() + m_.left_margin + 3, rect.top() + 12);
    painter.setPen(Qt::NoPen);
    painter.setBrush(does_something ? theme::ember : theme::quiet);
    painter.drawPolygon(QPolygonF({mark + QPointF(-3, -4), mark + QPointF(4, 0), mark + QPointF(-3, 4)}));
    painter.setFont(theme::text_font(8.5));
    for (const Word& word : wordsOf(trigger, rect.topLeft(), seenWidth() - 48)) {
        painter.setPen(does_something ? theme::text : theme::quiet);
        painter.drawText(word.rect, Qt::AlignVCenter | Qt::AlignLeft, word.text);
        if (!word.key.empty()) {
            painter.setPen(QPen(theme::quiet, 1, Qt::DotLine));
            const int below = word.rect.bottom() - 1;
            painter.drawLine(word.rect.left(), below,
                             word.rect.left() + painter.fontMetrics().horizontalAdvance(word.text), below);
        }
    }
    paintSwitches(painter, each);
}

// While the pointer is there, and as long as one is on.
void Board::paintSwitches(QPainter& painter, const Element& each) const {
    const bool is_hovered = each.id == hovered_;
    if (each.muted || is_hovered) {
        theme::paint_mute(painter, muteRect(each.id), each.muted);
    }
    if (const QRect solo = soloRect(each.id); !solo.isEmpty() && (each.solo || is_hovered)) {
        paint_solo(painter, solo, each.solo);
    }
}

void Board::paintDial(QPainter& painter, const QRect& rect, const Link* link, bool lively,
                      bool active) const {
    const QPointF middle = QRectF(rect).center();
    if (link == nullptr) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme::quiet);
        painter.drawEllipse(middle, 1.5, 1.5);
        return;
    }
    // The arc opens downwards: 270 degrees from lower left to lower right.
    const double radius = m_.dial_radius - 1;
    const QRectF circle(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::line, 2.6, Qt::SolidLine, Qt::FlatCap));
    painter.drawArc(circle, 225 * 16, -270 * 16);
    const QColor colour = !active ? theme::quiet : lively ? theme::ember : theme::text;
    painter.setPen(QPen(colour, 2.6, active ? Qt::SolidLine : Qt::DotLine, Qt::FlatCap));
    painter.drawArc(circle, 225 * 16, int(-270 * 16 * link->weight));
}

} // namespace ember
