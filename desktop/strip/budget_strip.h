// The band along the bottom: the costs of the last seconds against limits that the artist sets, by dragging a
// limit's line or by typing it, and what happened. A press on a lane's name opens or folds it; the wheel
// shows more seconds or fewer, with Shift earlier or later ones; a press on the costs goes back to a moment.
#pragma once

#include "desktop/strip/cost_history.h"
#include "desktop/strip/time_axis.h"

#include <QWidget>

#include <array>
#include <optional>
#include <utility>
#include <vector>

namespace ember {

class NumberField;
class ClipLanes;
class TrackLanes;

class BudgetStrip : public QWidget {
    Q_OBJECT

  public:
    explicit BudgetStrip(QWidget* parent = nullptr);

    void setEffect(const EffectPtr& effect);
    /// Takes note of a picture's costs; shown with the next update().
    void addReadings(const Readings& readings, const std::vector<StepCost>& steps = {});
    /// Why the moment that was gone back to cost what it cost.
    std::optional<Why> why() const;

    enum Lane { frame_lane, particles_lane, smoke_lane, pieces_lane, awake_lane, linger_lane, memory_lane };
    static constexpr int lane_count = 7;
    /// Opened or folded; open lanes have a field for their limit.
    void setOpen(Lane lane, bool open);
    bool isOpen(Lane lane) const { return open_[size_t(lane)]; }
    QRect nameRect(Lane lane) const;
    /// Of a lane, where a value stands in its height, 0 at the bottom: up to a little over the limit evenly,
    /// and what is higher pressed together above.
    double heightOf(Lane lane, double value) const;
    /// Where a lane's limit line is; for tests.
    QPoint limitPlace(Lane lane) const;
    /// Where a moment is, in the middle of the strip; for tests.
    QPoint momentPlace(double time_s) const;
    const std::optional<std::pair<double, double>>& span() const { return marked_; }
    /// The machine that costs are predicted for; empty: they are measured here.
    void setMachine(const QString& name);
    /// How the marked part comes again, in words; empty: it does not.
    void setLoopWords(const QString& words);
    /// Where a moment is on the axis; for tests.
    QPoint axisPlace(double time_s) const;
    double spanSeen() const { return span_s_; }
    double firstMoment() const { return first(); } // that is seen
    /// Shows what is so many of the seen spans later, as far as anything stands there. Back at the newest it
    /// goes along with what plays again.
    void scroll(double spans);
    /// As many times the seconds, about the middle of what is seen.
    void zoom(double times);
    /// Goes along with what plays.
    void follow();
    std::optional<double> goneBackTo() const { return history_.gone_back_to(); }
    TrackLanes* tracks() const { return tracks_; }
    ClipLanes* clips() const { return clips_; }
    NumberField* limitField(Lane lane) const { return fields_[size_t(lane)]; }

    QSize sizeHint() const override { return {800, 128}; }

  signals:
    /// What has been opened needs this height.
    void roomWanted(int height);
    /// What a track keys.
    void selected(const std::string& holder_id);
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);
    void gestureEnded();
    /// A part of the time is marked, by dragging over the axis; nothing: a press on it took the mark away.
    void spanMarked(const std::optional<std::pair<double, double>>& span_s);
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
    /// Those that are about what the effect has, as far as there is room, from the top down.
    std::vector<Lane> shownLanes() const;
    QRectF laneRect(Lane lane) const;
    QRectF lastLaneRect() const { return laneRect(shownLanes().back()); }
    std::optional<Lane> laneNamedAt(QPoint place) const;
    void placeFields();
    /// Tracks, and below them clips, stand between the lanes and the axis.
    int tracksHeight() const;
    int clipsHeight() const;
    void askForRoom();
    void showAxis();
    double limit(Lane lane) const;
    double valueOf(const CostSample& sample, Lane lane) const;
    /// What a lane shows evenly, up to the knee, and the highest value above it.
    struct Scale {
        double knee, top;
    };
    Scale scale(Lane lane) const;
    double xOf(double time_s) const;
    double timeAt(double x) const;
    double newest() const;
    double first() const;
    double firstAlong() const; // where it goes along with what plays
    double last() const;
    /// Of the samples, the first that is seen.
    std::deque<CostSample>::const_iterator firstSeen() const;
    bool isOnTimes(QPoint place) const;
    bool isOnAxis(QPoint place) const;
    void paintSpan(QPainter& painter) const;
    void paintEnd(QPainter& painter) const;
    void paintGoneBackTo(QPainter& painter) const;
    std::optional<Lane> limitAt(QPoint place) const;
    void setLimit(Lane lane, double value, const QString& gesture);
    const CostSample* sampleAt(double x) const;
    QString tipAt(QPoint place) const;

    void paintLane(QPainter& painter, Lane lane) const;
    QImage lanePicture(Lane lane) const;
    void paintLegend(QPainter& painter) const;
    void paintAxis(QPainter& painter) const;
    void paintEvents(QPainter& painter) const;
    void paintMoment(QPainter& painter) const;

    EffectPtr effect_;
    CostHistory history_;
    double span_s_ = 10;               // that are seen
    std::optional<double> held_first_; // the first of them, where it was scrolled to
    std::array<NumberField*, lane_count> fields_;
    TrackLanes* tracks_;
    ClipLanes* clips_;
    strip::TimeAxis axis_; // that tracks and clips stand on
    std::array<bool, lane_count> open_ = {true, false, false, false, false, false, false};
    std::array<Scale, lane_count> scales_; // as they were last painted
    std::optional<Lane> dragged_;
    bool points_ = false;              // at a moment
    std::optional<double> marks_from_; // s, while a span is marked
    std::optional<std::pair<double, double>> marked_;
    QString loop_words_, machine_;
    int gestures_ = 0;
    double pointer_x_ = -1;
};

} // namespace ember
