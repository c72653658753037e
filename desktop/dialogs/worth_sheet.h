// What each thing of the effect costs, and how much of the picture changes without it: a table that fills
// beside the effect that plays. What is dear and hardly seen stands on top; a press does without it.
#pragma once

#include "core/budget/worth.h"
#include "desktop/dialogs/measuring_sheet.h"

#include <QWidget>

namespace ember {

/// The lines of the table. Arrows and presses choose; the switch at the right does without.
class WorthList : public QWidget {
    Q_OBJECT

  public:
    explicit WorthList(QWidget* parent = nullptr);

    struct Line {
        Worth worth;
        bool is_off = false; // in the effect as it is now
    };
    /// `limit_ms`: of a frame, that savings are drawn as shares of.
    void setLines(std::vector<Line> lines, double limit_ms);
    const std::vector<Line>& lines() const { return lines_; }
    int current() const { return current_; }
    void choose(int index);
    QRect rectOf(int index) const;
    QRect switchOf(int index) const;
    QSize sizeHint() const override;

  signals:
    void chosen(int index);
    void switched(int index);

  protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    void paintLine(QPainter& painter, int index) const;

    std::vector<Line> lines_;
    double limit_ms_ = 16;
    int current_ = 0;
};

class WorthSheet : public MeasuringSheet {
    Q_OBJECT

  public:
    WorthSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span, QWidget* parent);
    ~WorthSheet() override;

    NumberField* roundsField() const { return rounds_; }
    WorthList* list() const { return list_; }
    const WorthTable& table() const { return table_; }

  private:
    void begin() override;
    void receive(WorthTable table);
    void showLines();
    void showPictures();
    void showState() override;
    void doWithout(int index);

    NumberField* rounds_;
    WorthList* list_;
    QLabel* pictures_[3]; // with, without, and where they differ
    QLabel* captions_[3];
    EffectPtr measured_; // what the table is of
    WorthTable table_;
};

} // namespace ember
