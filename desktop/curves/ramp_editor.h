// A colour ramp that is set by hand: stops along a band, each with a tint, a strength that may exceed 1, and
// an opacity.
#pragma once

#include "core/base/curve.h"
#include "desktop/controls/own_keys.h"

#include <QWidget>

#include <optional>

namespace ember {

class ColourEditor;
class NumberField;

/// The band with its stops. Press on the band for a new stop, drag stops, Delete removes.
class RampBand : public QWidget {
    Q_OBJECT

  public:
    explicit RampBand(QWidget* parent = nullptr);

    void setRamp(const Ramp& ramp);
    const Ramp& ramp() const { return ramp_; }
    size_t selected() const { return selected_; }
    void select(size_t stop);
    /// Hands in another colour or time of the selected stop.
    void setStop(const Ramp::Stop& stop, bool continues);

    QPointF stopPlace(size_t stop) const;
    QSize sizeHint() const override { return {260, 62}; }

  signals:
    void edited(const ember::Ramp& ramp, bool continues);
    void gestureEnded();
    void selectionChanged();
    void copyRequested();
    void pasteRequested();

  protected:
    bool event(QEvent* event) override { return claims_editing_keys(event) || QWidget::event(event); }
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QRectF bandRect() const;
    float timeAt(double x) const;
    void change(const Ramp& ramp, bool continues);
    void addStop(float time, bool continues);
    void moveTo(float time, bool continues);

    Ramp ramp_;
    Ramp before_ = ramp_; // the drag
    size_t selected_ = 0;
    bool dragging_ = false;
    bool moved_ = false;
};

class RampEditor : public QWidget {
    Q_OBJECT

  public:
    explicit RampEditor(QWidget* parent = nullptr);

    RampBand* band() const { return band_; }
    void setRamp(const Ramp& ramp);
    NumberField* opacityField() const { return opacity_; }
    /// Of the selected stop.
    ColourEditor* colour() const { return colour_; }

  private:
    void showStop();
    void typed();

    RampBand* band_;
    ColourEditor* colour_;
    NumberField* time_;
    NumberField* opacity_;
};

} // namespace ember
