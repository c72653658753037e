#include "desktop/finder.h"

#include "desktop/theme.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QListWidget>
#include <QVBoxLayout>

#include <algorithm>

namespace ember {

namespace {

// How well a text fits what was typed: smaller is better, negative does not fit. Every word that was typed
// must begin a word or stand somewhere in the text.
int misfit(const QString& text, const QString& typed) {
    int sum = 0;
    for (const QString& word : typed.split(' ', Qt::SkipEmptyParts)) {
        const qsizetype at = text.indexOf(word, 0, Qt::CaseInsensitive);
        if (at < 0) {
            return -1;
        }
        const bool begins_word = at == 0 || !text[at - 1].isLetterOrNumber();
        sum += int(at) + (begins_word ? 0 : 100);
    }
    return sum;
}

} // namespace

Finder::Finder(std::vector<Entry> entries, QWidget* parent)
    : QDialog(parent), entries_(std::move(entries)), field_(new QLineEdit(this)),
      list_(new QListWidget(this)) {
    setWindowTitle(tr("Find"));
    resize(460, 380);
    field_->setPlaceholderText(tr("A command, an element, or something to add"));
    field_->setAccessibleName(tr("Find"));
    field_->installEventFilter(this);
    list_->setFocusPolicy(Qt::NoFocus);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(field_);
    layout->addWidget(list_);
    connect(field_, &QLineEdit::textChanged, this, &Finder::show);
    connect(field_, &QLineEdit::returnPressed, this, &Finder::run);
    connect(list_, &QListWidget::itemClicked, this, &Finder::run);
    show({});
}

void Finder::show(const QString& typed) {
    std::vector<std::pair<int, size_t>> fitting;
    for (size_t i = 0; i < entries_.size(); ++i) {
        const int bad = misfit(entries_[i].text + " " + entries_[i].hint, typed);
        if (bad >= 0) {
            fitting.emplace_back(bad, i);
        }
    }
    std::stable_sort(fitting.begin(), fitting.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    shown_.clear();
    list_->clear();
    for (const auto& [bad, i] : fitting) {
        shown_.push_back(i);
        list_->addItem(entries_[i].hint.isEmpty() ? entries_[i].text
                                                  : entries_[i].text + "   " + entries_[i].hint);
    }
    list_->setCurrentRow(0);
}

void Finder::run() {
    const int row = list_->currentRow();
    if (row < 0) {
        return;
    }
    // Closed first: what is run may open a dialog of its own.
    accept();
    entries_[shown_[size_t(row)]].run();
}

bool Finder::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        const int by = key == Qt::Key_Down ? 1 : key == Qt::Key_Up ? -1 : 0;
        if (by != 0) {
            list_->setCurrentRow(std::clamp(list_->currentRow() + by, 0, std::max(list_->count() - 1, 0)));
            return true;
        }
    }
    return QDialog::eventFilter(watched, event);
}

} // namespace ember
