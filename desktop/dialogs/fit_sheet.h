// Values that keep the effect within its limits: the artist says what may change, how far and how dear it is;
// the rest is found beside the effect that plays, shown before and after, and taken with one edit.
#pragma once

#include "core/budget/fit.h"
#include "desktop/workbench/beside.h"
#include "render/camera.h"

#include <QDialog>

class QCheckBox;
class QComboBox;
class QGridLayout;
class QLabel;
class QProgressBar;
class QPushButton;

namespace ember {

class NumberField;
class Workbench;

class FitSheet : public QDialog {
    Q_OBJECT

  public:
    /// See WorthSheet.
    FitSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span, QWidget* parent);
    ~FitSheet() override;

    struct Line {
        FitNumber number;
        QCheckBox* takes_part;
        NumberField* end;
        QComboBox* dearness;
    };
    const std::vector<Line>& lines() const { return lines_; }
    NumberField* toField() const { return to_; }
    NumberField* marginField() const { return margin_; }
    QPushButton* startButton() const { return start_; }
    QPushButton* takeButton() const { return take_; }
    QLabel* words() const { return words_; }
    QLabel* figures() const { return figures_; }
    const std::optional<FitResult>& result() const { return result_; }

  private:
    void addLine(const FitNumber& number, QGridLayout* grid);
    void start();
    void receive(FitResult result);
    void showState();
    void take();

    Workbench& bench_;
    Camera camera_;
    QSize pixels_;
    std::vector<Line> lines_;
    NumberField* from_;
    NumberField* to_;
    NumberField* margin_;
    QPushButton* start_;
    QPushButton* take_;
    QProgressBar* progress_;
    QLabel* words_;
    QLabel* pictures_[2]; // before, after
    QLabel* captions_[2];
    QLabel* figures_;
    EffectPtr fitted_; // what the result is of
    std::optional<FitResult> result_;
    Beside beside_;
};

} // namespace ember
