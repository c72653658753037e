// What takes the frame's time, the dearest first: one bar for each element, step and picture apart, as a
// share of the limit. A press on the switch mutes it.
#pragma once

#include "desktop/workbench/readings.h"

#include <QWidget>

#include <vector>

namespace ember {

class CostRanking : public QWidget {
    Q_OBJECT

  public:
    explicit CostRanking(QWidget* parent = nullptr);

    void setCosts(const EffectPtr& effect, const Readings& readings, const SmoothedCosts& costs);

    /// Where an element stands, for tests; empty if it costs nothing.
    QRect rectOf(const std::string& id) const;
    QRect muteRect(const std::string& id) const;
    QSize sizeHint() const override;

  signals:
    /// Muted, or back.
    void switched(const std::string& id);
    void selected(const std::string& id);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;

  private:
    struct Line {
        std::string id; // empty: of the picture as a whole
        QString name;
        SmoothedCosts::Cost cost;
        bool is_muted = false;
    };
    QRect rectOf(size_t line) const;
    static QRect switchIn(const QRect& line);

    std::vector<Line> lines_;
    double limit_ms_ = 1;
};

} // namespace ember
