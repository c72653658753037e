// A curve that is drawn by hand: points, handles and, behind them, how old the live particles are.
#pragma once

#include "core/base/curve_edit.h"
#include "desktop/controls/own_keys.h"
#include "desktop/workbench/readings.h"

#include <QWidget>

#include <optional>

namespace ember {

/// Press beside the curve to select by a frame, on the curve to add a point, on a point or handle to move it.
/// Control snaps, Alt breaks a handle, Escape takes a drag back.
class CurvePlot : public QWidget {
    Q_OBJECT

  public:
    explicit CurvePlot(const ValueLimits& limits, QWidget* parent = nullptr);

    /// Does not disturb a drag.
    void setCurve(const Curve& curve);
    const Curve& curve() const { return curve_; }
    void setSpread(const AgeSpread& spread);
    /// What the left and the right end stand for.
    void setEnds(const QString& left, const QString& right);
    void setSnaps(bool snaps) { snaps_ = snaps; }

    const PointSet& selection() const { return selection_; }
    void select(const PointSet& points);
    /// Hands a whole new curve in, as one edit.
    void replace(const Curve& curve);

    QPointF placeOf(float time, float value) const;
    /// Where the end of a handle of a point is.
    QPointF handlePlace(size_t point, bool outgoing) const;
    QSize sizeHint() const override { return {260, 300}; }

  signals:
    void edited(const ember::Curve& curve, bool continues);
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
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    enum class Drag { none, points, handle, frame };

    QRectF plotRect() const;
    float timeAt(double x) const;
    float valueAt(double y) const;
    void fitView();
    float niceStep() const;
    std::optional<size_t> pointAt(QPointF place) const;
    bool handleAt(QPointF place);
    bool hasHandles(size_t point) const;
    void change(const Curve& curve, bool continues);
    void dragTo(QPointF place, Qt::KeyboardModifiers keys);
    void takeBack();
    void nudge(float time, float value);
    void paintGrid(QPainter& painter) const;

    ValueLimits limits_;
    Curve curve_;
    AgeSpread spread_;
    PointSet selection_;
    float view_low_ = 0, view_high_ = 1;
    bool snaps_ = false;
    QString left_end_ = tr("birth"), right_end_ = tr("death");

    Drag drag_ = Drag::none;
    Curve before_; // the drag
    QPointF pressed_;
    QRectF frame_;
    size_t held_ = 0; // point under the hand, or the handle's
    bool outgoing_ = false;
    bool moved_ = false;
};

} // namespace ember
