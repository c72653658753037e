// Values that keep the effect within its limits: the artist says what may change, how far and how dear it is;
// the rest is found beside the effect that plays, shown before and after, and taken with one edit.
#pragma once

#include "core/budget/fit.h"
#include "desktop/dialogs/measuring_sheet.h"

class QCheckBox;
class QComboBox;
class QGridLayout;

namespace ember {

class FitSheet : public MeasuringSheet {
    Q_OBJECT

  public:
    FitSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span, QWidget* parent);
    ~FitSheet() override;

    struct Line {
        FitNumber number;
        QCheckBox* takes_part;
        NumberField* end;
        QComboBox* dearness;
    };
    const std::vector<Line>& lines() const { return lines_; }
    NumberField* marginField() const { return margin_; }
    QCheckBox* makesUpBox() const { return makes_up_; }
    QPushButton* takeButton() const { return take_; }
    QLabel* figures() const { return figures_; }
    const std::optional<FitResult>& result() const { return result_; }

  private:
    void addLine(const FitNumber& number, QGridLayout* grid);
    void begin() override;
    void receive(FitResult result);
    void showState() override;
    void take();

    std::vector<Line> lines_;
    NumberField* margin_;
    QCheckBox* makes_up_;
    QPushButton* take_;
    QLabel* pictures_[2]; // before, after
    QLabel* captions_[2];
    QLabel* figures_;
    EffectPtr fitted_; // what the result is of
    std::optional<FitResult> result_;
};

} // namespace ember
