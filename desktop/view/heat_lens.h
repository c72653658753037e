// Cost heat, seen in the live view: where on the picture the milliseconds go.
#pragma once

#include "render/renderer.h"

#include <QSize>

class QPainter;

namespace ember {

/// A running mean over about half a second, so that a tile does not flash when the machine was busy
/// elsewhere.
class HeatLens {
  public:
    void add(const HeatMap& heat, double frame_ms);
    void clear() { mean_ = {}; }
    void paint(QPainter& painter, QSize size) const;
    const HeatMap& mean() const { return mean_; }

  private:
    HeatMap mean_;
    double frame_ms_ = 0;
};

} // namespace ember
