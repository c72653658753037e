// Forces, seen in the live view: as arrows, as streamlines or as a coloured slice, on a plane that is moved
// through the effect.
#pragma once

#include "core/runtime/field.h"
#include "render/camera.h"

#include <QPointF>
#include <QSize>

#include <optional>

class QPainter;

namespace ember {

struct ForceLens {
    /// The last three are lenses, too, though not on forces: age of particles, contacts, cost heat.
    enum class Kind { none, arrows, streamlines, slice, age, contacts, heat, cut };

    enum class Across { view, x, y, z }; // what the plane lies across

    Kind kind = Kind::none;
    Across across = Across::view;
    float offset = 0;      // along that direction from the camera's target, in views
    float apart = 0;       // of the pieces of a cut, in shares of the body
    std::string influence; // see FieldOrder
    std::string source;
    bool operator==(const ForceLens&) const = default;

    bool shows_forces() const {
        return kind == Kind::arrows || kind == Kind::streamlines || kind == Kind::slice;
    }

    /// What has to be read for a view of this size; `pointer` adds the place under it as the last one.
    FieldOrder order(const Camera& camera, QSize size, const std::optional<QPointF>& pointer) const;

    /// Draws a reading over a picture of this size.
    void paint(QPainter& painter, const FieldReading& reading, const Camera& camera, QSize size) const;
};

/// Where a place is on the picture; nothing if it is behind the camera.
std::optional<QPointF> on_picture(const Vec3& place, const Camera& camera, QSize size);

} // namespace ember
