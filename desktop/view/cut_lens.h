// The cut of breakables, seen in the live view: pieces apart, tinted, and what they are as figures.
#pragma once

#include "core/scene/meters.h"

#include <QSize>
#include <QString>

class QPainter;

namespace ember {

/// Words and a histogram of sizes of one breakable's cut, over the lower left corner of the picture.
/// `draw_ms`: what drawing all bodies takes now.
void paint_cut(QPainter& painter, QSize size, const QString& name, const CutFacts& cut, double draw_ms);

} // namespace ember
