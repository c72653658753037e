// The colours by which lenses show amounts, and the scale that says what they mean.
#pragma once

#include <QColor>
#include <QSize>
#include <QString>

class QPainter;

namespace ember {

/// The colour of a share, 0 to 1, of the largest amount.
QColor scale_colour(float share);

/// In the lower right corner of a picture; `largest` with its unit.
void paint_scale(QPainter& painter, QSize size, const QString& largest);

/// A line of figures in the lower left corner.
void paint_figures(QPainter& painter, QSize size, const QString& text);

} // namespace ember
