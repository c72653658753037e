#include "desktop/view/colour_scale.h"

#include "desktop/theme.h"

#include <QPainter>

#include <algorithm>

namespace ember {

namespace {

QColor see_through_ground() {
    QColor back = theme::ground;
    back.setAlpha(200);
    return back;
}

} // namespace

QColor scale_colour(float share) {
    const auto mixed = [](const QColor& a, const QColor& b, float t) {
        const auto part = [t](float from, float to) { return from + (to - from) * t; };
        return QColor::fromRgbF(part(a.redF(), b.redF()), part(a.greenF(), b.greenF()),
                                part(a.blueF(), b.blueF()));
    };
    share = std::clamp(share, 0.0f, 1.0f);
    static const QColor low(0x3a, 0x55, 0x78);
    return share < 0.5f ? mixed(low, theme::ember, share * 2)
                        : mixed(theme::ember, theme::text, share * 2 - 1);
}

void paint_scale(QPainter& painter, QSize size, const QString& largest) {
    const QRectF box(size.width() - 178, size.height() - 38, 170, 30);
    painter.fillRect(box, see_through_ground());
    for (int x = 0; x < 154; ++x) {
        painter.fillRect(QRectF(box.left() + 8 + x, box.bottom() - 11, 1, 6), scale_colour(float(x) / 153));
    }
    painter.setFont(theme::figure_font(8.5));
    painter.setPen(theme::text);
    const QRectF line = box.adjusted(8, 2, -8, -12);
    painter.drawText(line, Qt::AlignLeft | Qt::AlignVCenter, QStringLiteral("0"));
    painter.drawText(line, Qt::AlignRight | Qt::AlignVCenter, largest);
}

void paint_figures(QPainter& painter, QSize size, const QString& text) {
    painter.setFont(theme::figure_font(8.5));
    const int width = painter.fontMetrics().horizontalAdvance(text) + 16;
    const QRectF box(8, size.height() - 30, width, 22);
    painter.fillRect(box, see_through_ground());
    painter.setPen(theme::text);
    painter.drawText(box, Qt::AlignCenter, text);
}

} // namespace ember
