// The same effect tried with other seeds, or with a number or two over ranges, beside the one that plays:
// small pictures at a moment with what each cost; one is taken over.
#pragma once

#include "desktop/workbench/trials.h"

#include <QDialog>
#include <QImage>

class QComboBox;
class QLabel;
class QProgressBar;
class QPushButton;

namespace ember {

class NumberField;
class Workbench;

/// The pictures in lines, with words below each. Arrows and presses choose.
class TrialGrid : public QWidget {
    Q_OBJECT

  public:
    struct Cell {
        QString title, figures;
        QImage picture; // null until it is made
    };

    explicit TrialGrid(QWidget* parent = nullptr);

    void setCells(std::vector<Cell> cells, int columns);
    void setCell(int index, Cell cell);
    int current() const { return current_; }
    void choose(int index);
    QRect rectOf(int index) const;
    QSize sizeHint() const override;
    static constexpr QSize picture_size = {208, 130};

  signals:
    void chosen(int index);
    void taken(int index);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    int cellAt(QPoint place) const; // -1: none

    std::vector<Cell> cells_;
    int columns_ = 1;
    int current_ = 0;
};

class TrialSheet : public QDialog {
    Q_OBJECT

  public:
    /// `camera`: what pictures are seen from.
    TrialSheet(Workbench& bench, const Camera& camera, double at_s, QWidget* parent);

    ~TrialSheet() override { trials_.disconnect(this); }

    /// Seeds, or this number of a holder to begin with.
    void offerNumber(const std::string& holder, const std::string& parameter);

    QComboBox* kinds() const { return kinds_; }
    QComboBox* numbers(int which) const { return lines_[which].number; }
    NumberField* fromField(int which) const { return lines_[which].from; }
    NumberField* toField(int which) const { return lines_[which].to; }
    NumberField* countField(int which) const { return lines_[which].count; }
    NumberField* atField() const { return at_; }
    QPushButton* tryButton() const { return try_; }
    QPushButton* takeButton() const { return take_; }
    TrialGrid* grid() const { return grid_; }
    const Trials& trials() const { return trials_; }

  private:
    enum class Kind { seeds, number, two_numbers };
    // What is varied, once for each number.
    struct Line {
        QWidget* whole;
        QComboBox* number;
        NumberField* from;
        NumberField* to;
        NumberField* count;
    };
    Kind kind() const;
    void fillNumbers();
    void showKind();
    void takeRange(Line& line);
    TriedNumber tried(const Line& line) const;
    /// The effect as it is now, with what a cell tries; nothing if that cannot be any more, which is said.
    std::optional<Effect> withCell(int index);
    QString wordsOf(int index) const;
    int count() const;
    void start();
    void showMade(int index);
    void take();
    void showState();

    Workbench& bench_;
    Camera camera_;
    Trials trials_;
    QComboBox* kinds_;
    Line lines_[2];
    QWidget* seeds_;
    NumberField* seed_count_;
    NumberField* at_;
    QPushButton* try_;
    QPushButton* take_;
    QProgressBar* progress_;
    QLabel* words_;
    TrialGrid* grid_;
    // What was ordered, which the fields may not say any more.
    Kind ordered_ = Kind::seeds;
    TriedNumber numbers_[2];
    uint32_t first_seed_ = 0;
};

} // namespace ember
