// A curve or a colour ramp over life, drawn in place.
#pragma once

#include "core/base/curve.h"

#include <QWidget>

#include <variant>

namespace ember {

class LifePreview : public QWidget {
    Q_OBJECT

  public:
    explicit LifePreview(QWidget* parent = nullptr);
    void setCurve(const Curve& curve);
    void setRamp(const Ramp& ramp);
    /// Whether an editor is open below.
    void setOpen(bool open);

  signals:
    /// By the mouse, or with Space or Enter.
    void pressed();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    std::variant<Curve, Ramp> shown_;
    bool open_ = false;
};

} // namespace ember
