// Forces and smoke, seen in the live view: as arrows, as streamlines or as a coloured slice, on a plane that
// is moved through the effect.
#pragma once

#include "core/scene/field.h"
#include "desktop/view/lens_plane.h"

class QPainter;

namespace ember {

struct ForceLens {
    /// From `smoke` on they are lenses, too, though not on forces.
    enum class Kind { none, arrows, streamlines, slice, smoke, age, contacts, heat, cut };

    Kind kind = Kind::none;
    Across across = Across::view;
    float offset = 0;      // along that direction from the camera's target, in views
    float apart = 0;       // of the pieces of a cut, in shares of the body
    std::string influence; // see FieldOrder
    std::string source;
    SmokeAspect aspect = SmokeAspect::density; // of smoke
    bool operator==(const ForceLens&) const = default;

    bool shows_forces() const {
        return kind == Kind::arrows || kind == Kind::streamlines || kind == Kind::slice;
    }
    /// Whether it looks at a plane.
    bool has_plane() const { return shows_forces() || kind == Kind::smoke; }

    /// What has to be read for a view of this size; `pointer` adds the place under it as the last one.
    FieldOrder order(const Camera& camera, QSize size, const std::optional<QPointF>& pointer) const;

    /// Draws a reading over a picture of this size.
    void paint(QPainter& painter, const FieldReading& reading, const Camera& camera, QSize size) const;
};

} // namespace ember
