// A and B: any two versions of the effect beside one another, in step, with what they cost over time and all
// that differs between them. The version that is "the effect now" follows every dial.
#pragma once

#include "core/effect/differences.h"
#include "desktop/workbench/pair.h"

#include <QDialog>
#include <QElapsedTimer>
#include <QWidget>

#include <deque>

class QComboBox;
class QLabel;
class QPushButton;
class QTreeWidget;

namespace ember {

class CompareView;
class Workbench;

/// What each frame of both cost, over the last seconds.
class PairPlot : public QWidget {
    Q_OBJECT

  public:
    explicit PairPlot(QWidget* parent = nullptr);
    void add(const std::vector<PairCost>& costs);
    void clear();
    void setLimit(double ms);
    const std::deque<PairCost>& costs() const { return costs_; }
    QSize sizeHint() const override { return {400, 84}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    std::deque<PairCost> costs_;
    double limit_ms_ = 16;
};

class CompareWindow : public QDialog {
    Q_OBJECT

  public:
    /// Begins with the effect now on the right, and on the left as it was before the last edit.
    CompareWindow(Workbench& bench, const Camera& camera, QWidget* parent);
    ~CompareWindow() override;

    /// Puts another version on the left, which no edit has made.
    void compareWith(const Effect& other, const QString& name);

    QComboBox* versions(int side) const { return versions_[side]; }
    QPushButton* keepButton(int side) const { return keep_[side]; }
    QPushButton* swapButton() const { return swap_; }
    QPushButton* startButton() const { return start_; }
    QComboBox* modes() const { return modes_; }
    CompareView* view() const { return view_; }
    PairPlot* plot() const { return plot_; }
    QTreeWidget* table() const { return table_; }
    QLabel* figures() const { return figures_; }
    /// Of a side, as it runs.
    const EffectPtr& effect(int side) const { return sides_[side].effect; }

  signals:
    void shown();

  private:
    struct Side {
        EffectPtr effect;
        QString name, folder;
        bool is_now = false; // follows the document
    };
    struct Offered {
        QString name;
        Side side;
        bool asks_for_file = false;
    };
    std::vector<Offered> offered() const;
    void fill();
    void choose(int side, int index);
    void set(int side, Side version);
    void follow();
    void swap();
    void keep(int side);
    void showDifferences();
    void onShot();
    void showFigures(const PairShot& shot);

    Workbench& bench_;
    Side sides_[2];
    std::vector<Offered> offered_;
    QComboBox* versions_[2];
    QPushButton* keep_[2];
    QPushButton* swap_;
    QPushButton* start_;
    QPushButton* play_;
    QComboBox* modes_;
    CompareView* view_;
    PairPlot* plot_;
    QTreeWidget* table_;
    QLabel* figures_;
    QLabel* words_;
    QElapsedTimer figures_age_;
    bool was_playing_ = false; // the effect in the window behind
    Pair pair_;
};

} // namespace ember
