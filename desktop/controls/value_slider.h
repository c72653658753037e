// A slider with one knob, or two for a range: the bar between those moves both.
#pragma once

#include <QWidget>

#include <optional>
#include <utility>
#include <vector>

namespace ember {

class ValueSlider : public QWidget {
    Q_OBJECT

  public:
    /// Slides from `low` to `high`; `whole`: only whole numbers.
    ValueSlider(double low, double high, bool whole, QWidget* parent = nullptr);

    /// One or two values, ascending. Values beyond the ends are drawn at the end.
    void setValues(const std::vector<double>& values);
    const std::vector<double>& values() const { return values_; }

    /// The ranges that knobs are driven over; a driven knob is not moved by hand.
    void setBands(const std::vector<std::optional<std::pair<double, double>>>& bands);

    /// Where a knob is, for tests and painting.
    QPointF knobPlace(size_t knob) const;
    QSize sizeHint() const override { return {80, 20}; }

  signals:
    void moved(const std::vector<double>& values);
    /// The mouse or the keys have let go.
    void released();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;

  private:
    void paintWave(QPainter& painter, double low, double high) const;
    double placeOf(double value) const;
    double valueAt(double place) const;
    void move(size_t knob, double value);
    void moveBoth(double by);
    bool isDriven(size_t knob) const { return knob < bands_.size() && bands_[knob]; }

    double low_, high_;
    bool whole_;
    std::vector<double> values_;
    std::vector<std::optional<std::pair<double, double>>> bands_;
    size_t knob_ = 0; // that the keys move
    bool dragging_ = false;
    bool holds_bar_ = false;
    double grip_ = 0;      // from the mouse to the knob when it was taken
    double drag_from_ = 0; // of the mouse, for fine dragging
};

} // namespace ember
