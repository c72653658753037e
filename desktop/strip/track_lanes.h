// What is keyed over time, below the costs and on their axis: a lane for each track, with its keys.
//
// A key is dragged to another moment (it snaps to what happened there), with Ctrl a copy of it; with Shift
// the whole track is stretched from its first key; a double-click puts a key, a right press takes one away.
// Arrows move the key that was pressed by a step, Delete takes it away, Ctrl+D puts it again where the time
// is. The mark before a name opens its lane: then keys go up and down as well, and the chosen one has
// handles, which Alt breaks; a double-click on it makes it smooth again.
#pragma once

#include "core/effect/track.h"
#include "desktop/strip/time_axis.h"

#include <QWidget>

#include <functional>
#include <optional>
#include <set>
#include <utility>
#include <vector>

namespace ember {

class TrackLanes : public QWidget {
    Q_OBJECT

  public:
    explicit TrackLanes(QWidget* parent = nullptr);

    void setEffect(const EffectPtr& effect);
    /// Keys snap to what happened on it.
    void setAxis(const strip::TimeAxis& axis);

    static constexpr int lane_height = 15, open_height = 78;
    int wantedHeight() const;

    /// Where a key stands, and the end of a handle of it; for tests.
    QPoint keyPlace(size_t track, size_t key, int part = 0) const;
    QPoint handlePlace(size_t track, size_t key, int part, bool outgoing) const;
    QRect laneRect(size_t track) const;
    /// The mark that opens and folds a lane.
    QRect markRect(size_t track) const;

  signals:
    /// Another height is wanted.
    void heightChanged();
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
        int part = 0; // the curve
    };
    enum class Grip { key, in, out }; // or the end of a handle
    struct Held {
        Key key;
        Grip grip;
        double start_s; // of the track
        EffectPtr before;
        QPoint pressed;
        bool moved = false;
    };
    // How the values of an open or folded lane stand in it.
    struct Scale {
        double low, high;
        QRect lane;
        double yOf(double value) const;
        double valueAt(double y) const;
    };
    const Parameter& parameterOf(const Track& track) const;
    QString nameOf(const Track& track) const;
    bool isOpen(const Track& track) const { return open_.contains({track.holder, track.parameter}); }
    int heightOf(size_t track) const;
    Scale scaleOf(const Effect& effect, size_t track) const;
    QPointF placeOf(const Scale& scale, const Curve::Point& point) const;
    QPointF handleEnd(const Scale& scale, const Curve& curve, size_t key, bool outgoing) const;
    std::optional<size_t> laneAt(QPoint place) const;
    std::optional<size_t> indexOf(const Key& key) const;
    std::optional<Key> keyAt(QPoint place) const;
    std::optional<Grip> handleAt(QPoint place) const;
    QString tipAt(QPoint place) const;
    void takeAway(const Key& key);
    void moveTo(QPoint place, Qt::KeyboardModifiers keys);
    void moveHandle(QPoint place, bool breaks);
    Effect withCurve(const Effect& effect, const Key& key,
                     const std::function<void(Curve&, size_t)>& change) const;
    void paintLane(QPainter& painter, size_t index) const;
    void paintCurve(QPainter& painter, const Scale& scale, const Track& track, size_t part) const;
    void paintKeys(QPainter& painter, const Scale& scale, const Track& track, size_t part) const;

    EffectPtr effect_;
    strip::TimeAxis axis_;
    std::optional<Held> held_;
    std::optional<Key> chosen_;
    std::set<std::pair<std::string, std::string>> open_; // holder and parameter
    int gestures_ = 0;
};

} // namespace ember
