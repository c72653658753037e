#include "desktop/view/smoke_lens.h"

#include "desktop/theme.h"
#include "desktop/view/colour_scale.h"

#include <QCoreApplication>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

QString in_words(const char* text) {
    return QCoreApplication::translate("SmokeLens", text);
}

QString figure(float amount, SmokeAspect aspect) {
    const QString number = QString::number(double(amount), 'g', 3);
    return aspect == SmokeAspect::density ? number : number + QStringLiteral(" m/s");
}

// The amount that counts as strong: all but the strongest hundredth of what is more than nothing.
float strong_of(const std::vector<float>& amounts) {
    std::vector<float> sizes;
    for (const float amount : amounts) {
        if (std::fabs(amount) > 0) { // no number is not
            sizes.push_back(std::fabs(amount));
        }
    }
    if (sizes.empty()) {
        return 0;
    }
    const auto at = sizes.begin() + std::ptrdiff_t(double(sizes.size() - 1) * 0.99);
    std::nth_element(sizes.begin(), at, sizes.end());
    return *at;
}

void paint_flow(QPainter& painter, const FieldReading& reading, float strong, const Camera& camera,
                QSize size) {
    constexpr int every = 4;
    const std::vector<Vec3>& places = reading.order.places;
    const float side = length(places[1] - places[0]) * float(every);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(QPen(theme::ground, 1.5));
    for (int j = every / 2; j < smoke_grid.rows; j += every) {
        for (int i = every / 2; i < smoke_grid.columns; i += every) {
            const auto at = size_t(j * smoke_grid.columns + i);
            const float share = std::min(length(reading.vectors[at]) / strong, 1.3f);
            const auto from = on_picture(places[at], camera, size);
            const auto to = on_picture(
                places[at] + normalized(reading.vectors[at], {}) * (side * 0.9f * share), camera, size);
            if (from && to && share > 0.02f) {
                paint_arrow(painter, *from, *to);
            }
        }
    }
}

} // namespace

void paint_smoke(QPainter& painter, const FieldReading& reading, SmokeAspect aspect, const Camera& camera,
                 QSize size) {
    const size_t count = smoke_grid.count();
    const bool is_met =
        reading.amounts.size() >= count && std::any_of(reading.amounts.begin(), reading.amounts.end(),
                                                       [](float amount) { return !std::isnan(amount); });
    if (!is_met) {
        painter.setPen(theme::text);
        painter.drawText(QRect(QPoint(0, 0), size).adjusted(14, 44, -14, -10), Qt::AlignTop | Qt::AlignLeft,
                         in_words("The plane meets no volume of smoke."));
        return;
    }
    const std::vector<Vec3>& places = reading.order.places;
    const float strong = strong_of(reading.amounts);
    painter.setRenderHint(QPainter::Antialiasing, false);
    painter.setPen(Qt::NoPen);
    for (size_t i = 0; i < count; ++i) {
        const auto cell = std::isnan(reading.amounts[i])
                              ? std::nullopt
                              : cell_on_picture(places, smoke_grid, i, camera, size);
        if (cell) {
            const float share = strong > 0 ? std::fabs(reading.amounts[i]) / strong : 0;
            QColor colour = scale_colour(share);
            colour.setAlphaF(0.12f + 0.7f * std::min(share * 4, 1.0f));
            painter.setBrush(colour);
            painter.drawPolygon(*cell);
        }
    }
    if (aspect == SmokeAspect::flow && strong > 0) {
        paint_flow(painter, reading, strong, camera, size);
    }
    painter.setRenderHint(QPainter::Antialiasing);
    paint_scale(painter, size, figure(strong, aspect));
    if (reading.amounts.size() > count && !std::isnan(reading.amounts[count])) {
        paint_probe(painter, places[count], figure(reading.amounts[count], aspect), camera, size);
    }
}

QString solver_words(const SmokeMeter& meter) {
    return in_words("%1 rounds of pressure leave %2 of the mean difference of velocity in a cell")
        .arg(meter.pressure_rounds)
        .arg(meter.remains, 0, 'g', 2);
}

} // namespace ember
