// The left side of the window: the board with what adds to it, and the way to stage and budget.
#pragma once

#include "desktop/board/board.h"

#include <QWidget>

class QLabel;
class QLineEdit;
class QScrollArea;
class QToolButton;

namespace ember {

class BoardPanel : public QWidget {
    Q_OBJECT

  public:
    explicit BoardPanel(QWidget* parent = nullptr);

    Board* board() const { return board_; }
    void setSelection(const std::string& id);
    QLineEdit* filterField() const { return filter_; }
    QToolButton* addSourceButton() const { return add_source_; }
    QToolButton* addInfluenceButton() const { return add_influence_; }
    QToolButton* addMotionButton() const { return add_motion_; }

  signals:
    /// Something of these families shall be added.
    void addAsked(ember::Family first, ember::Family last);
    void selected(const std::string& id);

  protected:
    void resizeEvent(QResizeEvent* event) override;

  private:
    QLabel* title_;
    Board* board_;
    QToolButton* add_source_;
    QToolButton* add_influence_;
    QToolButton* add_motion_;
    QScrollArea* scroll_;
    QLineEdit* filter_;
    QToolButton* stage_;
    QToolButton* budget_;
};

} // namespace ember
