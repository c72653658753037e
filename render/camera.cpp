#include "render/camera.h"

#include <cmath>

namespace ember {

Camera camera_of(const Stage& stage) {
    return {stage.camera_target, stage.camera_distance, stage.camera_azimuth,
            stage.camera_height, stage.field_of_view,   {}};
}

ViewAxes axes_of(const Camera& camera) {
    ViewAxes view;
    const Vec3 back = direction_from(camera.azimuth, camera.height);
    view.eye = camera.target + back * camera.distance;
    view.forward = -back;
    view.right = normalized(cross(view.forward, {0, 1, 0}), {1, 0, 0});
    view.up = cross(view.right, view.forward);
    view.focal = 1 / (std::tan(camera.field_of_view * radians_per_degree / 2) * camera.seen);
    if (const PictureRows& rows = camera.rows; rows.of > 0) {
        view.focal *= float(rows.of) / float(rows.count);
        view.lowered = float(rows.of - 2 * rows.first) / float(rows.count) - 1;
    }
    return view;
}

} // namespace ember
