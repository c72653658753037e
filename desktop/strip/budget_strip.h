// The band along the bottom: the costs of the last seconds against limits that the artist sets, by dragging a
// limit's line or by typing it. The wheel shows more of them or fewer; a press goes back to a moment.
#pragma once

#include "desktop/strip/cost_history.h"

#include <QWidget>

#include <optional>

namespace ember {

class NumberField;

class BudgetStrip : public QWidget {
    Q_OBJECT

  public:
    explicit BudgetStrip(QWidget* parent = nullptr);

    void setEffect(const EffectPtr& effect);
    /// Takes note of a picture's costs; shown with the next update().
    void addReadings(const Readings& readings);

    enum Lane { frame_lane, particles_lane };
    /// Where a lane's limit line is; for tests.
    QPoint limitPlace(Lane lane) const;
    /// Where a moment is, in the middle of the strip; for tests.
    QPoint momentPlace(double time_s) const;
    double spanSeen() const { return span_s_; }
    std::optional<double> goneBackTo() const { return history_.gone_back_to(); }
    NumberField* limitField(Lane lane) const { return fields_[lane]; }

    QSize sizeHint() const override { return {800, 176}; }

  signals:
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);
    void gestureEnded();
    /// A moment is pointed at; nothing: it is let go of.
    void momentPointedAt(std::optional<double> time_s);

  protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void leaveEvent(QEvent*) override;

  private:
    QRectF laneRect(Lane lane) const;
    double limit(Lane lane) const;
    double valueOf(const CostSample& sample, Lane lane) const;
    /// The value at the top of a lane.
    double scale(Lane lane) const;
    double xOf(double time_s) const;
    double timeAt(double x) const;
    double newest() const;
    double first() const;
    /// Of the samples, the first that is seen.
    std::deque<CostSample>::const_iterator firstSeen() const;
    bool isOnTimes(QPoint place) const;
    void paintGoneBackTo(QPainter& painter) const;
    std::optional<Lane> limitAt(QPoint place) const;
    void setLimit(Lane lane, double value, const QString& gesture);
    const CostSample* sampleAt(double x) const;
    QString tipAt(QPoint place) const;

    void paintLane(QPainter& painter, Lane lane) const;
    QImage lanePicture(Lane lane) const;
    void paintLegend(QPainter& painter) const;

    EffectPtr effect_;
    CostHistory history_;
    double span_s_ = 10; // that are seen
    NumberField* fields_[2];
    std::optional<Lane> dragged_;
    bool points_ = false;   // at a moment
    double drag_scale_ = 1; // held while a line is dragged
    int gestures_ = 0;
    double pointer_x_ = -1;
};

} // namespace ember
