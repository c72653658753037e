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
    /// `menu` opens from the effect's name, `speeds` from the speed, `machines` from the machine it is for.
    TopBar(QMenu* menu, QMenu* speeds, QMenu* machines, const Actions& actions, QWidget* parent = nullptr);

    void setEffect(const Effect& effect, bool saved);
    void setReadings(const Readings& readings, const SmoothedCosts& costs);
    void setPlaying(bool playing);
    void setSpeed(double speed);
    /// The machine that costs are predicted for; empty: they are measured here. Not yet predicting: this one
    /// is still being measured.
    void setMachine(const QString& name, bool is_predicting);
    QToolButton* machineButton() const { return machine_; }

    void openMenu();

    Gauge* frameGauge() const { return frame_; }
    Gauge* particlesGauge() const { return particles_; }
    Gauge* smokeGauge() const { return smoke_; }
    Gauge* memoryGauge() const { return memory_; }
    Gauge* piecesGauge() const { return pieces_; }
    Gauge* awakeGauge() const { return awake_; }
    Gauge* lingerGauge() const { return linger_; }
    NumberField* seedField() const { return seed_; }
    NumberField* timeField() const { return time_; }
    QToolButton* cleanupButton() const { return cleanup_; }

  signals:
    void seedTyped(uint32_t seed);
    void timeTyped(double time_s);

  private:
    void showMatter(bool smokes, bool breaks);

    QToolButton* name_;
    QLabel* state_;
    QToolButton* play_;
    QToolButton* cleanup_;
    NumberField* time_;
    QToolButton* speed_;
    QToolButton* machine_;
    NumberField* seed_;
    Gauge* frame_;
    Gauge* particles_;
    Gauge* smoke_;
    Gauge* memory_;
    Gauge* pieces_;
    Gauge* awake_;
    Gauge* linger_;
};

} // namespace ember
