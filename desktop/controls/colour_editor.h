// A colour of light that is chosen by hand, in place: a field of tints, a strength that may exceed 1, what
// was chosen lately, and the picture to pick from.
#pragma once

#include "core/base/curve.h"
#include "desktop/controls/own_keys.h"

#include <QColor>
#include <QImage>
#include <QWidget>

class QPushButton;

namespace ember {

class NumberField;

/// All tints: hue from left to right, pure above and pale below. Arrows move, with Shift by larger steps.
class TintField : public QWidget {
    Q_OBJECT

  public:
    explicit TintField(QWidget* parent = nullptr);

    /// A tint without colour keeps the hue that was there.
    void setTint(const QColor& tint);
    QColor tint() const { return QColor::fromHsvF(float(hue_), float(purity_), 1); }
    /// Where a tint lies, for tests.
    QPointF placeOf(double hue, double purity) const;
    QSize sizeHint() const override { return {240, 58}; }

  signals:
    void chosen(const QColor& tint, bool continues);
    void gestureEnded();

  protected:
    bool event(QEvent* event) override { return claims_editing_keys(event) || QWidget::event(event); }
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void choose(double hue, double purity, bool continues);
    void chooseAt(QPointF place);

    double hue_ = 0, purity_ = 0;               // 0 to 1
    double hue_before_ = 0, purity_before_ = 0; // the drag
    bool dragging_ = false;
    QImage field_; // as wide and high as it was drawn last
};

/// What was chosen lately, newest first, in this run and those before it. A press takes it.
class LateTints : public QWidget {
    Q_OBJECT

  public:
    explicit LateTints(QWidget* parent = nullptr);

    static void add(const QColor& tint);
    QRectF rectOf(int index) const;
    QSize sizeHint() const override { return {120, 16}; }

  signals:
    void taken(const QColor& tint);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
};

class ColourEditor : public QWidget {
    Q_OBJECT

  public:
    explicit ColourEditor(QWidget* parent = nullptr);

    /// Linear light. Its opacity is kept as it is.
    void setColour(const Colour& colour);
    /// The tint of a colour; strength and opacity stay.
    void takeTint(const Colour& colour);

    TintField* field() const { return field_; }
    LateTints* lateTints() const { return late_; }
    NumberField* strengthField() const { return strength_; }
    QPushButton* pickButton() const { return pick_; }

  signals:
    void edited(const ember::Colour& colour, bool continues);
    void gestureEnded();
    /// The next press in the live view shall give its colour to takeTint().
    void pickRequested();

  private:
    void handIn(bool continues);

    TintField* field_;
    LateTints* late_;
    NumberField* strength_;
    QPushButton* pick_;
    Colour colour_;
};

} // namespace ember
