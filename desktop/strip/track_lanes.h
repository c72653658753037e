// What is keyed over time, below the costs and on their axis: a lane for each track, with its keys.
//
// A key is dragged to another moment (it snaps to what happened there), with Shift the whole track is
// stretched from its first key; a double-click puts a key, a right press takes one away. Arrows move the key
// that was pressed by a step, Delete takes it away.
#pragma once

#include "core/effect/track.h"

#include <QWidget>

#include <functional>
#include <optional>
#include <vector>

namespace ember {

class TrackLanes : public QWidget {
    Q_OBJECT

  public:
    explicit TrackLanes(QWidget* parent = nullptr);

    void setEffect(const EffectPtr& effect);
    /// The seconds that are seen, from the left edge of the costs to their right edge.
    void setTimes(double first_s, double span_s);
    /// The moment that is shown, and moments that keys snap to.
    void setMoments(double now_s, const std::vector<double>& events_s);

    static constexpr int lane_height = 15;
    int wantedHeight() const { return int(effect_ ? effect_->tracks.size() : 0) * lane_height; }

    /// Where a key stands; for tests.
    QPoint keyPlace(size_t track, size_t key) const;
    QRect laneRect(size_t track) const;

  signals:
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);
    void gestureEnded();
    void selected(const std::string& holder_id);

  protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    // A key of a track, which its moment names.
    struct Key {
        std::string holder, parameter;
        double time_s;
    };
    struct Held {
        Key key;
        double start_s; // of the track
        EffectPtr before;
        bool moved = false;
    };
    const Parameter& parameterOf(const Track& track) const;
    QString nameOf(const Track& track) const;
    double xOf(double time_s) const;
    double timeAt(double x) const;
    double snapped(double time_s) const;
    std::optional<size_t> laneAt(QPoint place) const;
    std::optional<Key> keyAt(QPoint place) const;
    QString tipAt(QPoint place) const;
    void takeAway(const Key& key);
    void moveTo(double time_s, bool stretches);
    void paintLane(QPainter& painter, size_t index) const;

    EffectPtr effect_;
    double first_s_ = 0, span_s_ = 10, now_s_ = 0;
    std::vector<double> events_s_;
    std::optional<Held> held_;
    std::optional<Key> chosen_;
    int gestures_ = 0;
};

} // namespace ember
