#include "desktop/top/gauge.h"

#include "desktop/theme.h"

#include <QPainter>

#include <algorithm>

namespace ember {

Gauge::Gauge(const QString& name, const QString& tip, QWidget* parent) : QWidget(parent), name_(name) {
    setToolTip(tip);
    setAccessibleName(name);
    setFixedSize(sizeHint());
}

void Gauge::setReading(double value, double limit, const QString& figures) {
    value_ = value;
    limit_ = limit;
    figures_ = figures;
    update();
}

void Gauge::setCompact(bool compact) {
    compact_ = compact;
    setFixedSize(sizeHint());
    update();
}

void Gauge::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const theme::Standing standing = theme::standing_of(value_, limit_);

    painter.setFont(theme::text_font(8.5));
    painter.setPen(theme::quiet);
    painter.drawText(QRect(0, 0, 60, compact_ ? height() : 16), Qt::AlignLeft | Qt::AlignVCenter, name_);
    painter.setFont(theme::figure_font(8));
    painter.setPen(standing == theme::Standing::within ? theme::text : theme::colour_of(standing));
    painter.drawText(QRect(40, 0, width() - 40, compact_ ? height() : 16), Qt::AlignRight | Qt::AlignVCenter,
                     figures_);

    // The bar's limit is at four fifths, so that there is room to show by how much it is exceeded.
    const double full = compact_ ? 24 : width() - 42;
    const QRectF track = compact_ ? QRectF(54, 7, full, 7) : QRectF(0, 22, full, 8);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::raised);
    painter.drawRoundedRect(track, 4, 4);
    const double share = std::min(value_ / limit_ * 0.8, 1.0);
    if (share > 0) {
        theme::fill(painter, QRectF(track.topLeft(), QSizeF(std::max(full * share, 8.0), track.height())),
                    standing);
    }
    painter.setPen(QPen(theme::text, 1));
    const double mark = track.left() + full * 0.8;
    painter.drawLine(QPointF(mark, track.top() - 3), QPointF(mark, track.bottom() + 3));
    if (compact_) {
        return; // the figures' colour and the bar's hatch say how it stands
    }
    painter.setFont(theme::text_font(7.5));
    painter.setPen(theme::colour_of(standing));
    painter.drawText(QRect(width() - 40, 18, 40, 16), Qt::AlignRight | Qt::AlignVCenter,
                     theme::word_of(standing));
}

} // namespace ember
