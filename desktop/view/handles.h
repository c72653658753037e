// Handles in the live view: what is selected is moved, sized and aimed where it stands.
#pragma once

#include "core/base/axes.h"
#include "core/effect/parameter.h"
#include "render/camera.h"

#include <QPointF>
#include <QSize>
#include <QString>

#include <optional>
#include <vector>

class QPainter;

namespace ember {

/// Something to take hold of. It changes a vector, a number or one of the points of the selected element.
struct Handle {
    enum class Kind {
        move,  // a vector, freely across the view
        along, // one number, along an axis
        aim,   // a direction, freely across the view
    };

    Kind kind = Kind::move;
    std::string key;  // of the parameter
    int part = 0;     // of a vector, for `along`
    Vec3 place;       // where it is, m
    Vec3 axis;        // the way that it goes, length 1
    Vec3 root;        // where a line to it begins
    Axes axes;        // that the parameter is given in
    float factor = 1; // change of the number for each metre
    int point = -1;   // of a path
};

/// The handles of an element, from its tables: place, reach, extent, radius, fade, direction and the points
/// of its path.
/// `placements`: of all elements (Frame::placements).
std::vector<Handle> handles_of(const Effect& effect, const std::string& id,
                               const std::vector<Placement>& placements);

/// Where a handle is drawn and taken: those that move along an axis, and aims, stand off by an arrow's
/// length.
Vec3 knob_of(const Handle& handle, const Camera& camera, QSize size);

/// The effect with a handle dragged from one pixel to another. `snaps`: numbers end on even steps. The value
/// stays within what the parameter can be.
Effect dragged(const Effect& effect, const std::string& id, const Handle& handle, QPointF from, QPointF to,
               bool snaps, const Camera& camera, QSize size);

/// The effect with a point more on a path, halfway to the next one, or without the point.
Effect with_point_after(const Effect& effect, const std::string& id, const Handle& point);
Effect without_point(const Effect& effect, const std::string& id, const Handle& point);

/// "Position 1.25 0 -3 m".
QString figure_of(const Effect& effect, const std::string& id, const Handle& handle);

/// Draws outlines of birth shape, path and reach, and the handles; `held`: the one under the pointer, or -1.
void paint_handles(QPainter& painter, const Effect& effect, const std::string& id,
                   const std::vector<Placement>& placements, int held, const Camera& camera, QSize size);

/// The handle within reach of a pixel, or -1.
int handle_at(const std::vector<Handle>& handles, QPointF pixel, const Camera& camera, QSize size);

} // namespace ember
