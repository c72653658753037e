// The takes of an effect: kept runs, with a small picture each, to be played again, marked, noted and thrown
// away. Nothing is written before the dialog is closed by Close.
#pragma once

#include "core/runtime/take.h"

#include <QDialog>

#include <optional>
#include <vector>

class QLabel;
class QLineEdit;
class QListWidget;
class QPushButton;

namespace ember {

class TakesDialog : public QDialog {
    Q_OBJECT

  public:
    /// `now`: the effect as it is, to say which takes are of another.
    TakesDialog(std::vector<Take> takes, EffectPtr now, QWidget* parent);

    /// As they are once the dialog is closed.
    const std::vector<Take>& takes() const { return takes_; }
    bool isChanged() const { return changed_; }
    /// The one to be played again, if one is.
    std::optional<size_t> toPlay() const { return to_play_; }

    QListWidget* list() const { return list_; }
    QLineEdit* nameField() const { return name_; }
    QLineEdit* noteField() const { return note_; }
    QPushButton* playButton() const { return play_; }
    QPushButton* markButton() const { return mark_; }
    QPushButton* deleteButton() const { return delete_; }

  private:
    void fill();
    void showChosen();
    /// The chosen one, or nullptr.
    Take* chosen();
    QString wordsOf(const Take& take) const;

    std::vector<Take> takes_;
    EffectPtr now_;
    bool changed_ = false;
    std::optional<size_t> to_play_;
    QListWidget* list_;
    QLineEdit* name_;
    QLineEdit* note_;
    QLabel* words_;
    QPushButton* play_;
    QPushButton* mark_;
    QPushButton* delete_;
};

} // namespace ember
