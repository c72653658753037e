// Outlines of what is chosen, over the picture.
#pragma once

#include "core/base/axes.h"
#include "core/effect/effect.h"
#include "render/camera.h"

#include <QLineF>
#include <QSize>

#include <vector>

class QPainter;
class QPen;

namespace ember {

/// Double lines, pale over dark, which are seen on sparks, snow and night alike. Line by line: stroking them
/// as one path takes ten times as long.
void draw_double(QPainter& painter, const std::vector<QLineF>& lines, const QPen& pale);

/// Lines in space as they stand on a picture.
class Outline {
  public:
    Outline(const Camera& camera, QSize size) : camera_(camera), size_(size) {}

    void line(const Vec3& a, const Vec3& b);
    void box(const Placement& p, const Vec3& half);
    void birth(const Emitter& emitter, const Placement& p);
    void path(const PathShape& path, const Placement& p);
    /// Of a reach that is so much wider (m).
    void reach(const Reach& reach, const Placement& p, float wider);

    const std::vector<QLineF>& drawn() const { return drawn_; }

  private:
    void ellipse(const Vec3& middle, const Vec3& a, const Vec3& b);
    void ball(const Placement& p, const Vec3& half);

    const Camera& camera_;
    QSize size_;
    std::vector<QLineF> drawn_;
};

} // namespace ember
