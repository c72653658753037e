// How the lanes of tracks look.
#include "desktop/strip/track_lanes.h"

#include "desktop/controls/parameter_text.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/strip/strip_parts.h"
#include "desktop/theme.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

namespace ember {

void TrackLanes::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    for (size_t i = 0; effect_ && i < effect_->tracks.size(); ++i) {
        paintLane(painter, i);
    }
}

void TrackLanes::paintLane(QPainter& painter, size_t index) const {
    const Track& track = effect_->tracks[index];
    const Parameter& parameter = parameterOf(track);
    const Scale scale = scaleOf(*effect_, index);
    const QRect& lane = scale.lane;
    const bool is_open = isOpen(track);
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ember);
    const QPointF mark = QRectF(markRect(index)).center();
    painter.drawPolygon(
        is_open ? QPolygonF({mark + QPointF(-4, -2), mark + QPointF(4, -2), mark + QPointF(0, 3)})
                : QPolygonF({mark + QPointF(-2, -4), mark + QPointF(3, 0), mark + QPointF(-2, 4)}));
    painter.setFont(theme::text_font(8));
    painter.setPen(theme::ember);
    const QRect label(14, lane.top(), strip::left_edge - 20, std::min(lane.height(), lane_height));
    painter.drawText(label, Qt::AlignVCenter | Qt::AlignLeft,
                     painter.fontMetrics().elidedText(nameOf(track), Qt::ElideRight, label.width()));
    if (is_open) { // the values at its edges
        painter.setFont(theme::figure_font(7.5));
        painter.setPen(theme::quiet);
        const QRect figures(14, lane.top() + lane_height, strip::left_edge - 20, lane.height() - lane_height);
        painter.drawText(figures, Qt::AlignTop | Qt::AlignRight, QString::number(scale.high, 'g', 3));
        painter.drawText(figures, Qt::AlignBottom | Qt::AlignRight, QString::number(scale.low, 'g', 3));
    }
    painter.fillRect(lane, theme::ground);
    painter.setClipRect(lane.adjusted(-4, 0, 4, 0));
    if (parameter.kind == ParameterKind::colour) {
        const int high = is_open ? 8 : lane.height() - 6;
        for (int x = lane.left(); x <= lane.right(); ++x) {
            const double time_s = axis_.first_s + (x - lane.left()) / double(lane.width()) * axis_.span_s;
            painter.fillRect(QRect(x, lane.top() + 3, 1, high),
                             screen_colour(std::get<Colour>(value_at(track, parameter, time_s))));
        }
    }
    const size_t parts = is_open ? track.curves.size() : 1;
    for (size_t part = 0; part < parts; ++part) {
        if (is_open || parameter.kind != ParameterKind::colour) {
            paintCurve(painter, scale, track, part);
        }
    }
    for (size_t part = 0; part < parts; ++part) {
        paintKeys(painter, scale, track, part);
    }
    painter.setPen(QPen(theme::text, 1));
    painter.drawLine(QPointF(axis_.xOf(axis_.now_s), lane.top()),
                     QPointF(axis_.xOf(axis_.now_s), lane.bottom()));
    painter.setClipping(false);
}

void TrackLanes::paintCurve(QPainter& painter, const Scale& scale, const Track& track, size_t part) const {
    const Curve& curve = track.curves[part];
    QPolygonF line;
    double before = 0;
    for (double x = scale.lane.left(); x <= scale.lane.right(); x += 1) {
        const double time_s = axis_.first_s + (x - scale.lane.left()) / scale.lane.width() * axis_.span_s;
        double value = double(curve.at(float(time_s)));
        if (switches(parameterOf(track))) {
            const auto next =
                std::find_if(curve.points.begin(), curve.points.end(),
                             [&](const Curve::Point& point) { return double(point.time) > time_s; });
            value =
                double(next == curve.points.begin() ? curve.points.front().value : std::prev(next)->value);
            if (!line.isEmpty() && value != before) {
                line << QPointF(x, scale.yOf(before));
            }
        }
        line << QPointF(x, scale.yOf(value));
        before = value;
    }
    // Parts can be told by their lines: whole, dashed, dotted.
    constexpr Qt::PenStyle styles[] = {Qt::SolidLine, Qt::DashLine, Qt::DotLine};
    painter.setPen(QPen(theme::ember, 1.3, styles[part % 3]));
    painter.setBrush(Qt::NoBrush);
    painter.drawPolyline(line);
}

void TrackLanes::paintKeys(QPainter& painter, const Scale& scale, const Track& track, size_t part) const {
    const Curve& curve = track.curves[part];
    const bool has_handles = isOpen(track) && !switches(parameterOf(track));
    for (size_t i = 0; i < curve.points.size(); ++i) {
        const Curve::Point& point = curve.points[i];
        const bool is_chosen = chosen_ && chosen_->holder == track.holder &&
                               chosen_->parameter == track.parameter &&
                               std::abs(chosen_->time_s - double(point.time)) < double(one_key_s) &&
                               (!isOpen(track) || chosen_->part == int(part));
        const QPointF place = placeOf(scale, point);
        if (is_chosen && has_handles) {
            for (const bool outgoing : {false, true}) {
                const QPointF end = handleEnd(scale, curve, i, outgoing);
                painter.setPen(QPen(theme::quiet, 1));
                painter.drawLine(place, end);
                painter.setPen(QPen(theme::text, 1));
                painter.setBrush(theme::ground);
                painter.drawRect(QRectF(end.x() - 2.5, end.y() - 2.5, 5, 5));
            }
        }
        painter.setPen(QPen(theme::ground, 1));
        painter.setBrush(is_chosen ? theme::text : theme::ember);
        painter.drawEllipse(place, 3.5, 3.5);
    }
}

} // namespace ember
