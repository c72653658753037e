#include "desktop/strip/why_card.h"

#include "desktop/theme.h"

#include <QEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>

namespace ember {

namespace {

constexpr int margin = 12, line_height = 17, card_width = 324;
constexpr size_t most_parts = 5;
constexpr double least_ms = 0.01; // of excess that is worth a line

} // namespace

WhyCard::WhyCard(QWidget* view) : QWidget(view) {
    setAccessibleName(tr("Why this moment cost what it cost"));
    setToolTip(
        tr("What was dearer than in the median of the last seconds, the dearest first: bright is how much "
           "it was dearer. Press a name to select it. It goes when the effect plays on."));
    view->installEventFilter(this);
    hide();
}

void WhyCard::setWhy(const std::optional<Why>& why) {
    why_ = why;
    setVisible(why_.has_value());
    if (why_) {
        place();
        update();
    }
}

// What limit was passed, and by how much; or that none was.
QStringList WhyCard::heading() const {
    QStringList lines;
    for (const QString& passed : why_->passed) {
        lines << tr("over: %1").arg(passed);
    }
    return lines.isEmpty() ? QStringList(tr("within all limits")) : lines;
}

size_t WhyCard::partCount() const {
    const auto usual = std::find_if(why_->parts.begin(), why_->parts.end(),
                                    [](const Why::Part& part) { return part.excess() < least_ms; });
    return std::min(size_t(usual - why_->parts.begin()), most_parts);
}

QRect WhyCard::partRect(size_t part) const {
    const int above = 1 + int(heading().size());
    return {margin, margin + (above + int(part)) * line_height + 6, card_width - 2 * margin, line_height};
}

QRect WhyCard::rectOf(const std::string& id) const {
    for (size_t i = 0; why_ && i < partCount(); ++i) {
        if (why_->parts[i].id == id) {
            return partRect(i);
        }
    }
    return {};
}

void WhyCard::place() {
    const int before = why_->before.isEmpty() ? 0 : int(why_->before.size()) + 1;
    const int lines = 1 + int(heading().size()) + std::max(int(partCount()), 1) + before;
    resize(card_width, 2 * margin + lines * line_height + (before > 0 ? 12 : 6));
    move(10, parentWidget()->height() - height() - 10);
}

bool WhyCard::eventFilter(QObject* view, QEvent* event) {
    if (event->type() == QEvent::Resize && why_) {
        place();
    }
    return QWidget::eventFilter(view, event);
}

void WhyCard::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    QColor ground = theme::panel;
    ground.setAlphaF(0.93f);
    painter.setPen(QPen(theme::line, 1));
    painter.setBrush(ground);
    painter.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
    const QRect room = rect().adjusted(margin, margin, -margin, -margin);
    int y = room.top();
    const auto write = [&](const QString& text, const QColor& colour, int flags = Qt::AlignLeft) {
        painter.setPen(colour);
        painter.drawText(QRect(room.left(), y, room.width(), line_height), flags | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(text, Qt::ElideRight, room.width()));
    };
    painter.setFont(theme::text_font(9.5, QFont::DemiBold));
    write(tr("Why %1 ms at %2 s?").arg(why_->frame_ms, 0, 'f', 1).arg(why_->time_s, 0, 'f', 2), theme::text);
    y += line_height;
    painter.setFont(theme::text_font(8.5));
    for (const QString& line : heading()) {
        write(line, why_->passed.isEmpty() ? theme::within : theme::over);
        y += line_height;
    }
    y += 6;
    const size_t parts = partCount();
    if (parts == 0) {
        write(tr("Nothing was dearer than usual."), theme::quiet);
        y += line_height;
    }
    double most = 1e-9;
    for (size_t i = 0; i < parts; ++i) {
        most = std::max(most, why_->parts[i].ms);
    }
    QColor pale = theme::cost;
    pale.setAlphaF(0.4f);
    for (size_t i = 0; i < parts; ++i) {
        const Why::Part& part = why_->parts[i];
        const QRect line = partRect(i);
        painter.setFont(theme::figure_font(8));
        const QString figures = tr("%1 ms, +%2").arg(part.ms, 0, 'f', 2).arg(part.excess(), 0, 'f', 2);
        constexpr int bar = 60, figures_width = 106;
        painter.setPen(theme::cost);
        painter.drawText(line, Qt::AlignRight | Qt::AlignVCenter, figures);
        const double share = part.ms / most, usual = std::max(part.usual_ms, 0.0) / most;
        const QRectF whole(line.right() - figures_width - bar - 4, line.center().y() - 2, bar, 5);
        painter.fillRect(QRectF(whole.left(), whole.top(), bar * usual, 5), pale);
        painter.fillRect(QRectF(whole.left() + bar * usual, whole.top(), bar * (share - usual), 5),
                         theme::ember);
        painter.setFont(theme::text_font(8.5));
        painter.setPen(part.id.empty() ? theme::quiet : theme::text);
        const int wide = int(whole.left()) - line.left() - 6;
        painter.drawText(QRect(line.left(), line.top(), wide, line_height), Qt::AlignLeft | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(part.name, Qt::ElideRight, wide));
        y += line_height;
    }
    if (!why_->before.isEmpty()) {
        y += 6;
        painter.setFont(theme::text_font(8.5, QFont::Medium));
        write(tr("In the half second before"), theme::quiet);
        y += line_height;
        painter.setFont(theme::text_font(8.5));
        for (const QString& line : why_->before) {
            write(line, theme::text);
            y += line_height;
        }
    }
}

void WhyCard::mousePressEvent(QMouseEvent* event) {
    for (size_t i = 0; why_ && i < partCount(); ++i) {
        if (partRect(i).contains(event->position().toPoint()) && !why_->parts[i].id.empty()) {
            return emit selected(why_->parts[i].id);
        }
    }
}

} // namespace ember
