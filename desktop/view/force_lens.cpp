#include "desktop/view/force_lens.h"

#include "desktop/theme.h"
#include "desktop/view/colour_scale.h"
#include "desktop/view/smoke_lens.h"

#include <QCoreApplication>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

PlaneGrid grid_of(ForceLens::Kind kind) {
    return kind == ForceLens::Kind::smoke   ? smoke_grid
           : kind == ForceLens::Kind::slice ? PlaneGrid{48, 32}
                                            : PlaneGrid{24, 16};
}
constexpr PlaneGrid seed_grid = {14, 9};
constexpr int line_steps = 32;

// The length that counts as strong: all but the strongest twentieth.
float strong_of(const std::vector<Vec3>& vectors) {
    std::vector<float> lengths;
    for (const Vec3& vector : vectors) {
        lengths.push_back(length(vector));
    }
    const auto at = lengths.begin() + std::ptrdiff_t(double(lengths.size() - 1) * 0.95);
    std::nth_element(lengths.begin(), at, lengths.end());
    return std::max(*at, 1e-6f);
}

QString figures(const Vec3& v) {
    const auto figure = [](float a) { return QString::number(double(a), 'g', 3); };
    return QStringLiteral("%1 m/s\u00b2  (%2, %3, %4)")
        .arg(figure(length(v)), figure(v.x), figure(v.y), figure(v.z));
}

} // namespace

FieldOrder ForceLens::order(const Camera& camera, QSize size, const std::optional<QPointF>& pointer) const {
    const LensPlane plane = plane_of(across, offset, camera, size);
    FieldOrder order;
    order.influence = influence;
    order.source = source;
    order.places = places_on(plane, grid_of(kind));
    if (kind == Kind::smoke) {
        order.smoke = aspect;
    }
    if (kind == Kind::streamlines) {
        order.seeds = places_on(plane, seed_grid);
        order.line_steps = line_steps;
        order.line_step = 2 * length(plane.right) / 90;
    }
    const auto probed = pointer ? under(*pointer, plane, camera, size) : std::nullopt;
    if (probed) {
        order.places.push_back(*probed);
    }
    return order;
}

void ForceLens::paint(QPainter& painter, const FieldReading& reading, const Camera& camera,
                      QSize size) const {
    if (kind == Kind::smoke) {
        return paint_smoke(painter, reading, aspect, camera, size);
    }
    const PlaneGrid grid = grid_of(kind);
    const size_t count = grid.count();
    if (reading.vectors.size() < count) {
        painter.setPen(theme::text);
        painter.drawText(
            QRect(QPoint(0, 0), size).adjusted(14, 44, -14, -10), Qt::AlignTop | Qt::AlignLeft,
            QCoreApplication::translate("ForceLens", "Nothing that is chosen acts on a source."));
        return;
    }
    const float strong = strong_of(reading.vectors);
    const std::vector<Vec3>& places = reading.order.places;
    const float side = length(places[1] - places[0]);
    painter.setRenderHint(QPainter::Antialiasing, kind != Kind::slice);
    if (kind == Kind::slice) {
        painter.setPen(Qt::NoPen);
        for (size_t i = 0; i < count; ++i) {
            if (const auto cell = cell_on_picture(places, grid, i, camera, size)) {
                QColor colour = scale_colour(length(reading.vectors[i]) / strong);
                colour.setAlphaF(0.62f);
                painter.setBrush(colour);
                painter.drawPolygon(*cell);
            }
        }
        painter.setRenderHint(QPainter::Antialiasing);
    }
    if (kind == Kind::streamlines) {
        const size_t stride = size_t(reading.order.line_steps) + 1;
        for (size_t line = 0; line + stride <= reading.line_points.size(); line += stride) {
            for (size_t i = 1; i < stride; ++i) {
                const auto from = on_picture(reading.line_points[line + i - 1], camera, size);
                const auto to = on_picture(reading.line_points[line + i], camera, size);
                // From faint to clear: that is the way it goes.
                QColor colour = theme::text;
                colour.setAlphaF(0.12f + 0.75f * float(i) / float(stride));
                painter.setPen(QPen(colour, 0.8 + 1.2 * double(i) / double(stride)));
                if (from && to) {
                    painter.drawLine(*from, *to);
                }
            }
        }
    } else {
        // On a slice every other arrow, in one colour.
        const int every = kind == Kind::slice ? 3 : 1;
        for (int j = every / 2; j < grid.rows; j += every) {
            for (int i = every / 2; i < grid.columns; i += every) {
                const auto at = size_t(j * grid.columns + i);
                const float share = length(reading.vectors[at]) / strong;
                const Vec3 tip = places[at] + normalized(reading.vectors[at], {}) *
                                                  (side * float(every) * 0.9f * std::min(share, 1.3f));
                const auto from = on_picture(places[at], camera, size);
                const auto to = on_picture(tip, camera, size);
                painter.setPen(QPen(kind == Kind::slice ? theme::ground : scale_colour(share), 1.5));
                if (from && to) {
                    paint_arrow(painter, *from, *to);
                }
            }
        }
    }

    // What the colours mean, and the probe.
    if (kind != Kind::streamlines) {
        paint_scale(painter, size, QStringLiteral("%1 m/s\u00b2").arg(double(strong), 0, 'g', 3));
    }
    if (reading.vectors.size() > count) {
        paint_probe(painter, places[count], figures(reading.vectors[count]), camera, size);
    }
}

} // namespace ember
