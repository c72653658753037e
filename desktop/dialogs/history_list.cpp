#include "desktop/dialogs/history_list.h"

#include "desktop/theme.h"

#include <QLabel>
#include <QListWidget>
#include <QPixmap>
#include <QSignalBlocker>
#include <QVBoxLayout>

namespace ember {

void HistoryPictures::add(const EffectPtr& effect, const QImage& picture) {
    pictures_[effect] = picture;
}

QImage HistoryPictures::of(const EffectPtr& effect) const {
    const auto found = pictures_.find(effect);
    return found != pictures_.end() ? found->second : QImage();
}

void HistoryPictures::keepOnly(const History& history) {
    std::map<EffectPtr, QImage> kept;
    for (size_t i = 0; i < history.size(); ++i) {
        if (auto found = pictures_.extract(history.effect(i))) {
            kept.insert(std::move(found));
        }
    }
    pictures_ = std::move(kept);
}

HistoryList::HistoryList(Document& document, const HistoryPictures& pictures, QWidget* parent)
    : QDialog(parent), document_(document), pictures_(pictures), list_(new QListWidget(this)) {
    setWindowTitle(tr("Edits"));
    setAttribute(Qt::WA_DeleteOnClose);
    list_->setIconSize(HistoryPictures::size);
    list_->setAccessibleName(tr("Edits"));
    list_->setToolTip(
        tr("The newest is at the bottom. Arrows and presses go to an edit; those behind it wait until "
           "you edit something else."));
    auto* hint = new QLabel(tr("Arrows go back and forth; Escape closes."), this);
    hint->setProperty("ink", "quiet");
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(list_, 1);
    layout->addWidget(hint);
    resize(330, 520);
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0) {
            document_.goTo(size_t(row));
        }
    });
    connect(&document_, &Document::stateChanged, this, &HistoryList::refresh);
    refresh();
}

void HistoryList::refresh() {
    const QSignalBlocker blocker(list_);
    const History& history = document_.history();
    while (list_->count() > int(history.size())) {
        delete list_->takeItem(list_->count() - 1);
    }
    for (int i = 0; i < int(history.size()); ++i) {
        QListWidgetItem* item = list_->item(i);
        if (item == nullptr) {
            item = new QListWidgetItem(list_);
            item->setSizeHint({0, HistoryPictures::size.height() + 8});
        }
        QImage picture = pictures_.of(history.effect(size_t(i)));
        if (picture.isNull()) {
            picture = QImage(HistoryPictures::size, QImage::Format_RGB32);
            picture.fill(theme::ground);
        }
        item->setIcon(QPixmap::fromImage(picture));
        item->setText(i == 0 ? tr("as it was opened") : QString::fromStdString(history.label(size_t(i))));
        item->setForeground(size_t(i) > history.now() ? theme::quiet : theme::text);
    }
    list_->setCurrentRow(int(history.now()));
}

} // namespace ember
