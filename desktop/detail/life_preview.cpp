#include "desktop/detail/life_preview.h"

#include "desktop/theme.h"

#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace ember {

QColor screen_colour(const Colour& colour) {
    const float brightest = std::max({colour.red, colour.green, colour.blue, 1.0f});
    const auto encoded = [brightest](float linear) {
        const float c = linear / brightest;
        return c <= 0.0031308f ? 12.92f * c : 1.055f * std::pow(c, 1 / 2.4f) - 0.055f;
    };
    return QColor::fromRgbF(encoded(colour.red), encoded(colour.green), encoded(colour.blue));
}

LifePreview::LifePreview(QWidget* parent) : QWidget(parent) {
    setFixedHeight(38);
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
    painter.setPen(QPen(theme::line, 1));
    painter.setBrush(theme::ground);
    painter.drawRoundedRect(frame, 4, 4);
    const QRectF inner = frame.adjusted(4, 4, -4, -4);

    if (const auto* curve = std::get_if<Curve>(&shown_)) {
        float highest = 1;
        for (const Curve::Point& point : curve->points) {
            highest = std::max(highest, point.value);
        }
        QPainterPath path;
        for (int x = 0; x <= int(inner.width()); ++x) {
            const float value = curve->at(float(x / inner.width()));
            const QPointF point(inner.left() + x, inner.bottom() - value / highest * inner.height());
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
