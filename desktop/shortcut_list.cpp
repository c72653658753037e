#include "desktop/shortcut_list.h"

#include "desktop/theme.h"

#include <QHeaderView>
#include <QLineEdit>
#include <QTreeWidget>
#include <QVBoxLayout>

namespace ember {

ShortcutList::ShortcutList(const std::vector<Line>& lines, QWidget* parent)
    : QDialog(parent), search_(new QLineEdit(this)), list_(new QTreeWidget(this)) {
    setWindowTitle(tr("Keyboard shortcuts"));
    search_->setPlaceholderText(tr("Letters of a command or a key"));
    search_->setAccessibleName(tr("Search"));
    list_->setColumnCount(2);
    list_->setHeaderHidden(true);
    list_->setRootIsDecorated(false);
    list_->setUniformRowHeights(true);
    list_->setFocusPolicy(Qt::NoFocus);
    for (const Line& line : lines) {
        auto* item = new QTreeWidgetItem(list_, {line.keys, line.what});
        item->setFont(0, theme::figure_font(9));
    }
    list_->header()->setSectionResizeMode(0, QHeaderView::ResizeToContents);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(search_);
    layout->addWidget(list_, 1);
    resize(460, std::min(560, parent->window()->height() * 3 / 4));
    connect(search_, &QLineEdit::textChanged, this, &ShortcutList::show);
}

void ShortcutList::show(const QString& words) {
    for (int i = 0; i < list_->topLevelItemCount(); ++i) {
        QTreeWidgetItem* item = list_->topLevelItem(i);
        const QString text = item->text(0) + " " + item->text(1);
        const QStringList parts = words.split(' ', Qt::SkipEmptyParts);
        item->setHidden(!std::all_of(parts.begin(), parts.end(), [&](const QString& part) {
            return text.contains(part, Qt::CaseInsensitive);
        }));
    }
}

} // namespace ember
