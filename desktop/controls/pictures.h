// Pictures of the core and the renderer for Qt.
#pragma once

#include "core/budget/seen.h"
#include "render/finishing.h"

#include <QImage>

namespace ember {

/// Copies; null if there is none.
QImage image_of(const Picture& picture);
QImage image_of(const SmallPicture& picture);

/// Where two pictures of one size differ: black where they are alike, brighter by how much they are not, four
/// times over.
QImage difference_of(const QImage& a, const QImage& b);

} // namespace ember
