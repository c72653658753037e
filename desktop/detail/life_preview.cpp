#include "desktop/detail/life_preview.h"

#include "desktop/controls/screen_colour.h"
#include "desktop/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>

namespace ember {

LifePreview::LifePreview(QWidget* parent) : QWidget(parent) {
    setFixedHeight(38);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
}

void LifePreview::setOpen(bool open) {
    open_ = open;
    update();
}

void LifePreview::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) {
        emit pressed();
    }
}

void LifePreview::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Space || event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
        return emit pressed();
    }
    QWidget::keyPressEvent(event);
}

void LifePreview::setCurve(const Curve& curve) {
    shown_ = curve;
    update();
}

void LifePreview::setRamp(const Ramp& ramp) {
    shown_ = ramp;
    update();
}

void LifePreview::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF frame = QRectF(rect()).adjusted(0.5, 2.5, -0.5, -2.5);
    painter.setPen(QPen(hasFocus() ? theme::ember : open_ ? theme::quiet : theme::line, 1));
    painter.setBrush(theme::ground);
    painter.drawRoundedRect(frame, 4, 4);
    const QRectF inner = frame.adjusted(4, 4, -4, -4);

    if (const auto* curve = std::get_if<Curve>(&shown_)) {
        float lowest = 0, highest = 1;
        for (int x = 0; x <= int(inner.width()); ++x) {
            lowest = std::min(lowest, curve->at(float(x / inner.width())));
            highest = std::max(highest, curve->at(float(x / inner.width())));
        }
        QPainterPath path;
        for (int x = 0; x <= int(inner.width()); ++x) {
            const float value = curve->at(float(x / inner.width()));
            const QPointF point(inner.left() + x,
                                inner.bottom() - (value - lowest) / (highest - lowest) * inner.height());
            x == 0 ? path.moveTo(point) : path.lineTo(point);
        }
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(theme::ember, 1.5));
        painter.drawPath(path);
        return;
    }
    // Opacity shows as the height of the band.
    const Ramp& ramp = std::get<Ramp>(shown_);
    for (int x = 0; x < int(inner.width()); ++x) {
        const Colour colour = ramp.at(float(x / inner.width()));
        const double height = inner.height() * std::max(double(colour.alpha), 0.06);
        painter.fillRect(QRectF(inner.left() + x, inner.bottom() - height, 1, height), screen_colour(colour));
    }
}

} // namespace ember
