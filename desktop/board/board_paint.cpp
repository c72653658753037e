// How the board looks.
#include "desktop/board/board.h"

#include "core/effect/parameter.h"
#include "core/effect/sentence.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>

namespace ember {

namespace {

// A crossed-out circle.
void paint_mute(QPainter& painter, const QRectF& rect, bool on) {
    painter.setPen(QPen(on ? theme::close : theme::quiet, on ? 2 : 1));
    painter.setBrush(Qt::NoBrush);
    const QRectF circle = rect.adjusted(4, 4, -4, -4);
    painter.drawEllipse(circle);
    painter.drawLine(QPointF(circle.left() + 1.5, circle.bottom() - 1.5),
                     QPointF(circle.right() - 1.5, circle.top() + 1.5));
}

// A small flame.
void paint_solo(QPainter& painter, const QRectF& rect, bool on) {
    const QRectF r = rect.adjusted(5, 3, -5, -3);
    QPainterPath flame(QPointF(r.center().x(), r.top()));
    flame.cubicTo(r.right() + 2, r.center().y(), r.right(), r.bottom(), r.center().x(), r.bottom());
    flame.cubicTo(r.left(), r.bottom(), r.left() - 2, r.center().y(), r.center().x(), r.top());
    painter.setPen(QPen(on ? theme::ember : theme::quiet, 1));
    painter.setBrush(on ? QBrush(theme::ember) : QBrush(Qt::NoBrush));
    painter.drawPath(flame);
}

QString elided(const QPainter& painter, const std::string& text, int width) {
    return painter.fontMetrics().elidedText(QString::fromStdString(text), Qt::ElideRight, width);
}

} // namespace

void Board::paintEvent(QPaintEvent* event) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    if (!effect_) {
        return;
    }
    // Dials below names, names below the header: what is scrolled goes under what stays in sight.
    const QRect below_header(0, corner_.y() + m_.header_height, width(), height());
    painter.setClipRect(below_header.adjusted(corner_.x() + m_.name_width, 0, 0, 0));
    const QRegion& due = event->region();
    for (const Slot& row : rows_) {
        if (due.intersects(QRect(m_.name_width, row.at, width(), m_.row_height))) {
            paintDials(painter, row);
        }
    }
    painter.setClipRect(below_header & due.boundingRect());
    paintHeadings(painter);
    for (const Slot& row : rows_) {
        if (due.intersects(QRect(corner_.x(), row.at, width(), m_.row_height))) {
            paintRowName(painter, row);
        }
    }
    painter.setClipRect(QRect(corner_.x() + m_.name_width - 4, corner_.y(), width(), m_.header_height));
    for (const Slot& column : columns_) {
        if (due.intersects(countsRect(column))) {
            paintCounts(painter, column);
        }
    }
    if (due.intersects(QRect(corner_.x(), corner_.y(), width(), m_.header_height - 60)) ||
        due.intersects(QRect(corner_.x(), corner_.y() + m_.header_height - 24, width(), 20))) {
        for (const Slot& column : columns_) {
            paintColumnName(painter, column);
        }
    }
    painter.setClipping(false);
    if (drop_) {
        painter.setPen(QPen(theme::ember, 2));
        painter.drawLine(drop_->mark);
    }
}

void Board::paintHeadings(QPainter& painter) const {
    for (const Heading& heading : headings_) {
        const QRect rect = headingRect(heading.family, heading.group).adjusted(m_.left_margin, 0, 0, 0);
        painter.setFont(theme::text_font(7.5, QFont::Medium));
        painter.setPen(theme::quiet);
        QString text = (heading.family == Family::force      ? tr("Forces")
                        : heading.family == Family::collider ? tr("Collision")
                        : heading.family == Family::breaking ? tr("Breaking")
                        : heading.family == Family::mover    ? tr("Movers")
                        : heading.family == Family::light    ? tr("Lights")
                        : heading.family == Family::smoke    ? tr("Smoke")
                        : heading.family == Family::trigger  ? tr("Triggers")
                                                             : tr("Modulators"))
                           .toUpper();
        if (!heading.group.empty()) {
            painter.setPen(theme::text);
            text = QString::fromStdString(heading.group);
        }
        if (heading.hidden > 0) {
            text += tr("  +%1 hidden").arg(heading.hidden);
        }
        text = painter.fontMetrics().elidedText(text, Qt::ElideRight, rect.width());
        painter.drawText(rect, Qt::AlignVCenter | Qt::AlignLeft, text);
        const int right = rect.left() + painter.fontMetrics().horizontalAdvance(text) + 10;
        painter.setPen(theme::line);
        const int middle = rect.center().y();
        painter.drawLine(right, middle, width() - m_.left_margin, middle);
    }
}

void Board::paintColumnName(QPainter& painter, const Slot& column) const {
    const Element& source = element(column);
    const bool active = is_active(*effect_, source);
    const bool is_selected = isChosen(source.id);
    const int top = corner_.y() + m_.header_height;
    const int middle = column.at + m_.column_width / 2;

    painter.save();
    painter.translate(middle - 4, top - 64);
    painter.rotate(-40);
    painter.setFont(theme::text_font(9.5, is_selected ? QFont::Medium : QFont::Normal));
    painter.setPen(is_selected ? theme::ember : active ? theme::text : theme::quiet);
    painter.drawText(0, 0, elided(painter, source.name, 108));
    if (source.muted) {
        painter.drawLine(0, -4, painter.fontMetrics().horizontalAdvance(elided(painter, source.name, 108)),
                         -4);
    }
    painter.restore();
    paintSwitches(painter, source);
}

void Board::paintCounts(QPainter& painter, const Slot& column) const {
    const Element& source = element(column);
    const bool active = is_active(*effect_, source);
    const int top = corner_.y() + m_.header_height;
    const auto counted = m_.is_narrow() ? theme::shortest_count : theme::short_count;
    const ElementMeter* meter = readings_.find(source.id);
    painter.setFont(theme::figure_font(8));
    painter.setPen(active ? theme::text : theme::quiet);
    painter.drawText(QRect(column.at - 4, top - 58, m_.column_width + 8, 16), Qt::AlignCenter,
                     counted(meter != nullptr ? double(meter->live) : 0));
    // What it comes to in the long run, or that it is full.
    if (std::holds_alternative<Breakable>(source.body)) {
        painter.setFont(theme::figure_font(7));
        painter.setPen(theme::quiet);
        painter.drawText(QRect(column.at - 8, top - 43, m_.column_width + 16, 14), Qt::AlignCenter,
                         QStringLiteral("\u25b8%1").arg(meter != nullptr ? meter->debris.awake : 0));
        return;
    }
    const bool is_full = meter != nullptr && meter->refused_lately > 0 && active;
    const bool exceeds = expected_excess(*effect_, column.element, expected_[column.element]).has_value();
    painter.setFont(is_full ? theme::text_font(7, QFont::Medium) : theme::figure_font(7));
    painter.setPen(is_full || exceeds ? theme::close : theme::quiet);
    painter.drawText(QRect(column.at - 6, top - 43, m_.column_width + 12, 14), Qt::AlignCenter,
                     is_full ? tr("full")
                             : QStringLiteral("\u2192") + counted(expected_[column.element].most()));
}

void Board::paintRowName(QPainter& painter, const Slot& row) const {
    const Element& each = element(row);
    const bool idles = has_links(each) && actsOnNothing(each);
    const bool active = is_active(*effect_, each) && !idles;
    if (isChosen(each.id)) {
        painter.setPen(QPen(theme::ember, 1, each.id == selection_ ? Qt::SolidLine : Qt::DashLine));
        painter.setBrush(QColor(255, 127, 69, 16));
        painter.drawRoundedRect(
            QRectF(corner_.x() + 5.5, row.at + 0.5, width() - corner_.x() - 11, m_.row_height - 2), 6, 6);
    }
    const QRect name = nameRect(each.id);
    painter.setFont(theme::text_font(9.5));
    painter.setPen(active ? theme::text : theme::quiet);
    const QString text = elided(painter, each.name, name.width());
    painter.drawText(QRect(name.left(), row.at + 1, name.width(), 17), Qt::AlignVCenter | Qt::AlignLeft,
                     text);
    if (each.muted) {
        painter.drawLine(name.left(), row.at + 10,
                         name.left() + painter.fontMetrics().horizontalAdvance(text), row.at + 10);
    }
    paintSwitches(painter, each);
    const QRect below = figuresRect(row);
    if (!has_links(each)) {
        painter.setFont(theme::text_font(8));
        painter.setPen(theme::quiet);
        painter.drawText(below, Qt::AlignVCenter | Qt::AlignLeft,
                         each.muted ? tr("muted: stands still") : qtext(type_of(each.body).label));
        return;
    }

    // The bar's full length is the whole frame's limit.
    const double ms = costs_.element_ms(each.id);
    const QRectF track(below.left(), below.center().y() - 1, 66, 4);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ground);
    painter.drawRoundedRect(track, 2, 2);
    const double share = std::min(ms / effect_->budget.frame_ms, 1.0);
    if (ms > 0) {
        painter.setBrush(theme::cost);
        painter.drawRoundedRect(QRectF(track.left(), track.top(), std::max(track.width() * share, 2.0), 4), 2,
                                2);
    }
    painter.setFont(theme::figure_font(8));
    painter.setPen(active ? theme::cost : theme::quiet);
    painter.drawText(below, Qt::AlignVCenter | Qt::AlignRight,
                     each.muted ? tr("muted")
                     : idles    ? tr("unused")
                     : !active  ? tr("silenced")
                                : QString::number(ms, 'f', 2) + " ms");
}

void Board::paintDials(QPainter& painter, const Slot& row) const {
    const Element& influence = element(row);
    if (const auto* trigger = std::get_if<Trigger>(&influence.body)) {
        return paintSentence(painter, row, *trigger);
    }
    if (!has_links(influence)) {
        return;
    }
    const bool active = is_active(*effect_, influence) && !actsOnNothing(influence);
    for (const Slot& column : columns_) {
        const Element& source = element(column);
        const QRect cell(column.at, row.at, m_.column_width, m_.row_height);
        if (!can_link(influence, source)) {
            continue;
        }
        paintDial(painter, cell, find_link(influence, source.id), isChosen(influence.id),
                  active && is_active(*effect_, source));
        const bool has_cursor =
            hasFocus() && row.at == rows_[focus_row_].at && column.at == columns_[focus_column_].at;
        if (has_cursor) {
            painter.setPen(QPen(theme::text, 1, Qt::DotLine));
            painter.setBrush(Qt::NoBrush);
            painter.drawRoundedRect(QRectF(cell).adjusted(2.5, 1.5, -2.5, -2.5), 5, 5);
        }
    }
}

// Where other rows have their dials.
void Board::paintSentence(QPainter& painter, const Slot& row, const Trigger& trigger) const {
    const bool does_something = !element(row).muted && !why_never_done(*effect_, trigger);
    painter.setFont(theme::text_font(8));
    for (const Word& word : wordsOf(row)) {
        painter.setPen(does_something ? theme::text : theme::quiet);
        painter.drawText(word.rect, Qt::AlignVCenter | Qt::AlignLeft, word.text);
        if (!word.key.empty()) {
            painter.setPen(QPen(theme::ember, 1, Qt::DotLine));
            const int below = word.rect.bottom() - 1;
            painter.drawLine(word.rect.left(), below,
                             word.rect.left() + painter.fontMetrics().horizontalAdvance(word.text), below);
        }
    }
}

void Board::paintSwitches(QPainter& painter, const Element& each) const {
    paint_mute(painter, muteRect(each.id), each.muted);
    if (const QRect solo = soloRect(each.id); !solo.isEmpty()) {
        paint_solo(painter, solo, each.solo);
    }
}

void Board::paintDial(QPainter& painter, const QRect& rect, const Link* link, bool lively,
                      bool active) const {
    const QPointF middle = QRectF(rect).center();
    if (link == nullptr) {
        painter.setPen(Qt::NoPen);
        painter.setBrush(theme::quiet);
        painter.drawEllipse(middle, 1.8, 1.8);
        return;
    }
    // The arc opens downwards: 270 degrees from lower left to lower right.
    const QRectF circle(middle.x() - m_.dial_radius, middle.y() - m_.dial_radius, 2 * m_.dial_radius,
                        2 * m_.dial_radius);
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::line, 3, Qt::SolidLine, Qt::FlatCap));
    painter.drawArc(circle, 225 * 16, -270 * 16);
    const QColor colour = !active ? theme::quiet : lively ? theme::ember : theme::text;
    painter.setPen(QPen(colour, 3, active ? Qt::SolidLine : Qt::DotLine, Qt::FlatCap));
    painter.drawArc(circle, 225 * 16, int(-270 * 16 * link->weight));
    painter.setFont(theme::figure_font(7.5));
    painter.setPen(active ? theme::text : theme::quiet);
    painter.drawText(circle, Qt::AlignCenter, QString::number(link->weight * 100, 'f', 0));
}

} // namespace ember
