// All shortcuts of the program, to be searched.
#pragma once

#include <QDialog>

#include <vector>

class QLineEdit;
class QTreeWidget;

namespace ember {

class ShortcutList : public QDialog {
    Q_OBJECT

  public:
    struct Line {
        QString keys, what;
    };
    /// Never higher than three quarters of the window that it belongs to.
    explicit ShortcutList(const std::vector<Line>& lines, QWidget* parent);

    QTreeWidget* list() const { return list_; }

  private:
    void show(const QString& words);

    QLineEdit* search_;
    QTreeWidget* list_;
};

} // namespace ember
