// A slice through smoke: how dense it is, how it flows, and how far its pressure is from balance.
#pragma once

#include "core/scene/field.h"
#include "core/scene/smoke_meter.h"
#include "desktop/view/lens_plane.h"

class QString;

namespace ember {

/// Where it is read on the plane.
constexpr PlaneGrid smoke_grid = {108, 72};

/// Draws a reading of smoke over a picture of this size.
void paint_smoke(QPainter& painter, const FieldReading& reading, SmokeAspect aspect, const Camera& camera,
                 QSize size);

/// What the solver of a volume last did, for the corner of the picture.
QString solver_words(const SmokeMeter& meter);

} // namespace ember
