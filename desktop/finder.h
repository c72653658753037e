// Finds a command, an element or something to add by a few letters.
#pragma once

#include <QDialog>

#include <functional>
#include <vector>

class QLineEdit;
class QListWidget;

namespace ember {

class Finder : public QDialog {
    Q_OBJECT

  public:
    struct Entry {
        QString text, hint;
        std::function<void()> run;
    };

    explicit Finder(std::vector<Entry> entries, QWidget* parent = nullptr);

    QLineEdit* field() const { return field_; }
    QListWidget* list() const { return list_; }

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void show(const QString& typed);
    void run();

    std::vector<Entry> entries_;
    std::vector<size_t> shown_;
    QLineEdit* field_;
    QListWidget* list_;
};

} // namespace ember
