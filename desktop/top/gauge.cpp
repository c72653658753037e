#include "desktop/top/gauge.h"

#include "desktop/theme.h"

#include <QPainter>

#include <algorithm>

namespace ember {

Gauge::Gauge(const QString& name, const QString& tip, QWidget* parent) : QWidget(parent), name_(name) {
    setToolTip(tip);
    setAccessibleName(name);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setMaximumWidth(130);
}

void Gauge::setReading(double value, double limit, const QString& figure, const QString& limit_figure) {
    value_ = value;
    limit_ = limit;
    figure_ = figure;
    limit_figure_ = limit_figure;
    update();
}

void Gauge::setName(const QString& name) {
    name_ = name;
    setAccessibleName(name);
    update();
}

// Room for any figure, so that gauges stay where they are.
QSize Gauge::sizeHint() const {
    const auto width_of = [](const QFont& font, const QString& text) {
        return QFontMetrics(font).horizontalAdvance(text);
    };
    const int above =
        width_of(theme::text_font(8), name_) + width_of(theme::figure_font(8), QStringLiteral("88.8 k"));
    const int below = width_of(theme::text_font(7.5), theme::word_of(theme::Standing::within)) +
                      width_of(theme::figure_font(7.5), QStringLiteral("88.8 ms"));
    return {std::max(above, below) + 6, 40};
}

void Gauge::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const theme::Standing standing = theme::standing_of(value_, limit_);
    const QRect top(0, 0, width(), 16), bottom(0, 25, width(), 15);

    painter.setFont(theme::figure_font(8));
    const int room = width() - painter.fontMetrics().horizontalAdvance(figure_) - 4;
    painter.setFont(theme::text_font(8));
    painter.setPen(theme::quiet);
    painter.drawText(top, Qt::AlignLeft | Qt::AlignVCenter,
                     painter.fontMetrics().elidedText(name_, Qt::ElideRight, room));
    painter.setFont(theme::figure_font(8));
    painter.setPen(standing == theme::Standing::within ? theme::text : theme::colour_of(standing));
    painter.drawText(top, Qt::AlignRight | Qt::AlignVCenter, figure_);

    // The bar's limit is at four fifths, so that there is room to show by how much it is exceeded.
    const QRectF track(0, 18, width(), 5);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::raised);
    painter.drawRoundedRect(track, 2.5, 2.5);
    const double share = std::min(value_ / limit_ * 0.8, 1.0);
    if (share > 0) {
        theme::fill(painter,
                    QRectF(track.topLeft(), QSizeF(std::max(track.width() * share, 5.0), track.height())),
                    standing);
    }
    painter.setPen(QPen(theme::text, 1));
    const double mark = track.left() + track.width() * 0.8;
    painter.drawLine(QPointF(mark, track.top() - 2), QPointF(mark, track.bottom() + 2));

    painter.setFont(theme::text_font(7.5));
    painter.setPen(theme::colour_of(standing));
    painter.drawText(bottom, Qt::AlignLeft | Qt::AlignVCenter, theme::word_of(standing));
    painter.setFont(theme::figure_font(7.5));
    painter.setPen(theme::quiet);
    painter.drawText(bottom, Qt::AlignRight | Qt::AlignVCenter, limit_figure_);
}

} // namespace ember
