#include "desktop/view/force_lens.h"

#include "desktop/theme.h"
#include "desktop/view/colour_scale.h"

#include <QCoreApplication>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// Places on the plane, in columns and rows.
struct Grid {
    int columns, rows;
};

Grid grid_of(ForceLens::Kind kind) {
    return kind == ForceLens::Kind::slice ? Grid{48, 32} : Grid{24, 16};
}
constexpr Grid seed_grid = {14, 9};
constexpr int line_steps = 32;

struct Plane3 {
    Vec3 middle, right, up; // half of its sides
    Vec3 normal;
};

Plane3 plane_of(const ForceLens& lens, const Camera& camera, QSize size) {
    const ViewAxes view = axes_of(camera);
    const float half_height = camera.distance / view.focal;
    const float half_width = half_height * float(size.width()) / float(std::max(size.height(), 1));
    Plane3 plane;
    switch (lens.across) {
    case ForceLens::Across::view:
        plane = {{}, view.right * half_width, view.up * half_height, view.forward};
        break;
    case ForceLens::Across::x:
        plane = {{}, {0, 0, half_width}, {0, half_height, 0}, {1, 0, 0}};
        break;
    case ForceLens::Across::y:
        plane = {{}, {half_width, 0, 0}, {0, 0, half_width}, {0, 1, 0}};
        break;
    case ForceLens::Across::z:
        plane = {{}, {half_width, 0, 0}, {0, half_height, 0}, {0, 0, 1}};
        break;
    }
    plane.middle = camera.target + plane.normal * (lens.offset * half_height);
    return plane;
}

std::vector<Vec3> places_on(const Plane3& plane, const Grid& grid) {
    std::vector<Vec3> places;
    for (int j = 0; j < grid.rows; ++j) {
        for (int i = 0; i < grid.columns; ++i) {
            const float u = (float(i) + 0.5f) / float(grid.columns) * 2 - 1;
            const float v = 1 - (float(j) + 0.5f) / float(grid.rows) * 2;
            places.push_back(plane.middle + plane.right * u + plane.up * v);
        }
    }
    return places;
}

// Where the ray through a pixel meets the plane.
std::optional<Vec3> under(const QPointF& pixel, const Plane3& plane, const Camera& camera, QSize size) {
    const ViewAxes view = axes_of(camera);
    const float scale = 2 / (float(size.height()) * view.focal);
    const Vec3 ray = view.forward + view.right * ((float(pixel.x()) - float(size.width()) * 0.5f) * scale) +
                     view.up * ((float(size.height()) * 0.5f - float(pixel.y())) * scale);
    const float slope = dot(ray, plane.normal);
    const float distance = dot(plane.middle - view.eye, plane.normal) / slope;
    if (std::fabs(slope) < 1e-4f || !(distance > 0)) {
        return std::nullopt;
    }
    return view.eye + ray * distance;
}

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

void paint_arrow(QPainter& painter, const QPointF& from, const QPointF& to) {
    const QPointF way = to - from;
    const double size = std::hypot(way.x(), way.y());
    if (size < 1.5) {
        painter.drawPoint(from);
        return;
    }
    const QPointF along = way / size * std::min(5.0, size * 0.5);
    const QPointF aside(-along.y() * 0.6, along.x() * 0.6);
    painter.drawLine(from, to);
    painter.drawLine(to, to - along + aside);
    painter.drawLine(to, to - along - aside);
}

} // namespace

std::optional<QPointF> on_picture(const Vec3& place, const Camera& camera, QSize size) {
    const ViewAxes view = axes_of(camera);
    const Vec3 away = place - view.eye;
    const float depth = dot(away, view.forward);
    if (!(depth > 0.01f)) {
        return std::nullopt;
    }
    const float scale = view.focal * float(size.height()) * 0.5f / depth;
    return QPointF(size.width() / 2.0 + double(dot(away, view.right) * scale),
                   size.height() / 2.0 - double(dot(away, view.up) * scale));
}

FieldOrder ForceLens::order(const Camera& camera, QSize size, const std::optional<QPointF>& pointer) const {
    const Plane3 plane = plane_of(*this, camera, size);
    FieldOrder order;
    order.influence = influence;
    order.source = source;
    order.places = places_on(plane, grid_of(kind));
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
    const Grid grid = grid_of(kind);
    const auto count = size_t(grid.columns * grid.rows);
    if (reading.vectors.size() < count) {
        painter.setPen(theme::text);
        painter.drawText(
            QRect(QPoint(0, 0), size).adjusted(14, 44, -14, -10), Qt::AlignTop | Qt::AlignLeft,
            QCoreApplication::translate("ForceLens", "Nothing that is chosen acts on a source."));
        return;
    }
    const float strong = strong_of(reading.vectors);
    const std::vector<Vec3>& places = reading.order.places;
    const float cell = length(places[1] - places[0]);
    painter.setRenderHint(QPainter::Antialiasing, kind != Kind::slice);
    if (kind == Kind::slice) {
        painter.setPen(Qt::NoPen);
        const Vec3 right = (places[1] - places[0]) * 0.5f;
        const Vec3 up = (places[0] - places[size_t(grid.columns)]) * 0.5f;
        for (size_t i = 0; i < count; ++i) {
            const auto a = on_picture(places[i] - right - up, camera, size);
            const auto b = on_picture(places[i] + right - up, camera, size);
            const auto c = on_picture(places[i] + right + up, camera, size);
            const auto d = on_picture(places[i] - right + up, camera, size);
            if (a && b && c && d) {
                QColor colour = scale_colour(length(reading.vectors[i]) / strong);
                colour.setAlphaF(0.62f);
                painter.setBrush(colour);
                painter.drawPolygon(QPolygonF{*a, *b, *c, *d});
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
                                                  (cell * float(every) * 0.9f * std::min(share, 1.3f));
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
    QColor back = theme::ground;
    back.setAlpha(200);
    painter.setFont(theme::figure_font(8.5));
    if (kind != Kind::streamlines) {
        paint_scale(painter, size, QStringLiteral("%1 m/s\u00b2").arg(double(strong), 0, 'g', 3));
    }
    if (reading.vectors.size() > count) {
        if (const auto probe = on_picture(places[count], camera, size)) {
            painter.setBrush(Qt::NoBrush);
            painter.setPen(QPen(theme::text, 1.2));
            painter.drawEllipse(*probe, 5, 5);
            const QString text = figures(reading.vectors[count]);
            const int width = painter.fontMetrics().horizontalAdvance(text);
            const QRectF box(std::min(probe->x() + 10, size.width() - width - 14.0), probe->y() - 26,
                             width + 10, 18);
            painter.fillRect(box, back);
            painter.drawText(box, Qt::AlignCenter, text);
        }
    }
}

} // namespace ember
