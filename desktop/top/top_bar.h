// Name and menu, transport, time, seed, and a gauge for each budget.
#pragma once

#include "desktop/workbench/readings.h"

#include <QWidget>

class QAction;
class QLabel;
class QMenu;
class QToolButton;

namespace ember {

class Gauge;
class NumberField;

class TopBar : public QWidget {
    Q_OBJECT

  public:
    /// What its buttons trigger.
    struct Actions {
        QAction* rewind;
        QAction* play;
        QAction* step;
        QAction* without_cleanup;
    };
    /// `menu` opens from the effect's name, `speeds` from the speed.
    TopBar(QMenu* menu, QMenu* speeds, const Actions& actions, QWidget* parent = nullptr);

    void setEffect(const Effect& effect, bool saved);
    void setReadings(const Readings& readings, const SmoothedCosts& costs);
    void setPlaying(bool playing);
    void setSpeed(double speed);

    void openMenu();

    Gauge* frameGauge() const { return frame_; }
    Gauge* particlesGauge() const { return particles_; }
    Gauge* memoryGauge() const { return memory_; }
    Gauge* piecesGauge() const { return pieces_; }
    Gauge* awakeGauge() const { return awake_; }
    Gauge* lingerGauge() const { return linger_; }
    NumberField* seedField() const { return seed_; }
    QToolButton* cleanupButton() const { return cleanup_; }

  signals:
    void seedTyped(uint32_t seed);

  private:
    void showBreaking(bool breaks);

    QToolButton* name_;
    QLabel* state_;
    QToolButton* play_;
    QToolButton* cleanup_;
    QLabel* time_;
    QToolButton* speed_;
    NumberField* seed_;
    Gauge* frame_;
    Gauge* particles_;
    Gauge* memory_;
    Gauge* pieces_;
    Gauge* awake_;
    Gauge* linger_;
};

} // namespace ember
