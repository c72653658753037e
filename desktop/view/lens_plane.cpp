#include "desktop/view/lens_plane.h"

#include "desktop/theme.h"

#include <QPainter>

#include <algorithm>
#include <cmath>

namespace ember {

LensPlane plane_of(Across across, float offset, const Camera& camera, QSize size) {
    const ViewAxes view = axes_of(camera);
    const float half_height = camera.distance / view.focal;
    const float half_width = half_height * float(size.width()) / float(std::max(size.height(), 1));
    LensPlane plane;
    switch (across) {
    case Across::view:
        plane = {{}, view.right * half_width, view.up * half_height, view.forward};
        break;
    case Across::x:
        plane = {{}, {0, 0, half_width}, {0, half_height, 0}, {1, 0, 0}};
        break;
    case Across::y:
        plane = {{}, {half_width, 0, 0}, {0, 0, half_width}, {0, 1, 0}};
        break;
    case Across::z:
        plane = {{}, {half_width, 0, 0}, {0, half_height, 0}, {0, 0, 1}};
        break;
    }
    plane.middle = camera.target + plane.normal * (offset * half_height);
    return plane;
}

std::vector<Vec3> places_on(const LensPlane& plane, const PlaneGrid& grid) {
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
std::optional<Vec3> under(const QPointF& pixel, const LensPlane& plane, const Camera& camera, QSize size) {
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

std::optional<QPolygonF> cell_on_picture(const std::vector<Vec3>& places, const PlaneGrid& grid, size_t cell,
                                         const Camera& camera, QSize size) {
    const Vec3 right = (places[1] - places[0]) * 0.5f;
    const Vec3 up = (places[0] - places[size_t(grid.columns)]) * 0.5f;
    const auto a = on_picture(places[cell] - right - up, camera, size);
    const auto b = on_picture(places[cell] + right - up, camera, size);
    const auto c = on_picture(places[cell] + right + up, camera, size);
    const auto d = on_picture(places[cell] - right + up, camera, size);
    return a && b && c && d ? std::optional(QPolygonF{*a, *b, *c, *d}) : std::nullopt;
}

void paint_probe(QPainter& painter, const Vec3& place, const QString& text, const Camera& camera,
                 QSize size) {
    const auto probe = on_picture(place, camera, size);
    if (!probe) {
        return;
    }
    QColor back = theme::ground;
    back.setAlpha(200);
    painter.setFont(theme::figure_font(8.5));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::text, 1.2));
    painter.drawEllipse(*probe, 5, 5);
    const int width = painter.fontMetrics().horizontalAdvance(text);
    const QRectF box(std::min(probe->x() + 10, size.width() - width - 14.0), probe->y() - 26, width + 10, 18);
    painter.fillRect(box, back);
    painter.drawText(box, Qt::AlignCenter, text);
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

} // namespace ember
