// A curve or a colour ramp over life, drawn in place.
#pragma once

#include "core/base/curve.h"

#include <QColor>
#include <QWidget>

#include <variant>

namespace ember {

/// Linear light as the screen shows it (sRGB); what is brighter than white keeps its tint.
QColor screen_colour(const Colour& colour);

class LifePreview : public QWidget {
    Q_OBJECT

  public:
    explicit LifePreview(QWidget* parent = nullptr);
    void setCurve(const Curve& curve);
    void setRamp(const Ramp& ramp);

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::variant<Curve, Ramp> shown_;
};

} // namespace ember
