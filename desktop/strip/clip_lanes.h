// Clips on the strip's axis, a lane each: when a baked run is played beside what is live.
//
// A bar is dragged to another moment (it snaps to what happened there); its ends are dragged to trim it.
// Arrows move the bar that was pressed by a step, M mutes it; a double-click goes to its first moment.
#pragma once

#include "core/effect/effect.h"
#include "desktop/strip/time_axis.h"

#include <QWidget>

#include <map>
#include <optional>
#include <string>

namespace ember {

class ClipLanes : public QWidget {
    Q_OBJECT

  public:
    explicit ClipLanes(QWidget* parent = nullptr);

    void setEffect(const EffectPtr& effect);
    /// How long the clips are that have been read (s), by the id of the source that plays them.
    void setLengths(const std::map<std::string, double>& lengths_s);
    void setAxis(const strip::TimeAxis& axis);

    static constexpr int lane_height = 17;
    int wantedHeight() const { return int(clips().size()) * lane_height; }
    /// When the last of them ends (s); 0 without any.
    double lastEnd() const;
    /// From its start to its end, as it is seen; for tests too.
    QRect barRect(const std::string& id) const;

  signals:
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);
    void gestureEnded();
    void selected(const std::string& id);
    void goTo(double time_s);

  protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    enum class Grip { whole, start, end };
    struct Held {
        std::string id;
        Grip grip;
        ClipPlay before;
        double pressed_s;
    };
    std::vector<const Element*> clips() const;
    double lengthOf(const Element& clip) const;
    /// Of its part, on the axis.
    double playedFor(const Element& clip) const;
    const Element* clipAt(QPoint place) const;
    std::optional<Grip> gripAt(QPoint place) const;
    void change(const std::string& id, const std::vector<std::pair<const char*, float>>& values,
                const QString& label, const QString& gesture);

    EffectPtr effect_;
    std::map<std::string, double> lengths_s_;
    strip::TimeAxis axis_;
    std::optional<Held> held_;
    std::string chosen_;
    int gestures_ = 0;
};

} // namespace ember
