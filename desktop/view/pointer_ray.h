// What lies below the pointer.
#pragma once

#include "core/scene/prepared.h"
#include "render/camera.h"

#include <QPointF>
#include <QSize>

#include <algorithm>

namespace ember {

/// The line of sight through a place of a picture that is shown in `size`.
inline PointerRay ray_through(QPointF place, const Camera& camera, QSize size) {
    const ViewAxes view = axes_of(camera);
    const double half = double(view.focal) * std::max(size.height(), 1) / 2;
    const auto x = float((place.x() - size.width() / 2.0) / half),
               y = float((place.y() - size.height() / 2.0) / half);
    return {view.eye, view.forward + view.right * x - view.up * y};
}

} // namespace ember
