// The plane that lenses look at, which is moved through the effect.
#pragma once

#include "render/camera.h"

#include <QPointF>
#include <QPolygonF>
#include <QSize>

#include <optional>
#include <vector>

class QPainter;

namespace ember {

enum class Across { view, x, y, z }; // what the plane lies across

struct LensPlane {
    Vec3 middle, right, up; // half of its sides
    Vec3 normal;
};

/// As large as what is seen at the camera's target; `offset`: from there along the normal, in views.
LensPlane plane_of(Across across, float offset, const Camera& camera, QSize size);

/// Places on a plane, in columns and rows.
struct PlaneGrid {
    int columns, rows;

    size_t count() const { return size_t(columns) * size_t(rows); }
};

/// Row after row, from the upper left.
std::vector<Vec3> places_on(const LensPlane& plane, const PlaneGrid& grid);

/// Where the ray through a pixel meets the plane.
std::optional<Vec3> under(const QPointF& pixel, const LensPlane& plane, const Camera& camera, QSize size);

/// Where a place is on the picture; nothing if it is behind the camera.
std::optional<QPointF> on_picture(const Vec3& place, const Camera& camera, QSize size);

/// The part of the plane round one of its places.
std::optional<QPolygonF> cell_on_picture(const std::vector<Vec3>& places, const PlaneGrid& grid, size_t cell,
                                         const Camera& camera, QSize size);

/// A ring at a place, with what was read there.
void paint_probe(QPainter& painter, const Vec3& place, const QString& text, const Camera& camera, QSize size);

/// An arrow; a point if it is too short for one.
void paint_arrow(QPainter& painter, const QPointF& from, const QPointF& to);

} // namespace ember
