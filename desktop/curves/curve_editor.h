// The plot of a curve with what is typed rather than dragged: a point's time, value and bend, and ready
// shapes.
#pragma once

#include "desktop/curves/curve_plot.h"

class QComboBox;
class QLabel;
class QToolButton;

namespace ember {

class NumberField;

class CurveEditor : public QWidget {
    Q_OBJECT

  public:
    explicit CurveEditor(const ValueLimits& limits, QWidget* parent = nullptr);

    CurvePlot* plot() const { return plot_; }
    void setCurve(const Curve& curve);
    NumberField* timeField() const { return time_; }
    NumberField* valueField() const { return value_; }
    QComboBox* bendBox() const { return bend_; }
    QToolButton* windowButton() const { return window_; }

  signals:
    /// Into a window of its own, or back.
    void windowAsked();

  private:
    void showSelection();
    void typed();
    void applyPreset(const Curve& shape);

    ValueLimits limits_;
    CurvePlot* plot_;
    QLabel* time_label_;
    QLabel* value_label_;
    NumberField* time_;
    NumberField* value_;
    QComboBox* bend_;
    QToolButton* window_;
};

} // namespace ember
