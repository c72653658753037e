// The sections of the details: to fold, to filter and to go to.
#include "desktop/detail/detail_panel.h"

#include "core/effect/effect_file.h"
#include "core/effect/track.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/theme.h"

#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QScrollBar>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>

namespace ember {

QLabel* DetailPanel::addHeading(const QString& text) {
    auto* heading = new QLabel(text.toUpper(), rows_);
    heading->setProperty("section", text);
    heading->setToolTip(tr("Press to fold this section, and back."));
    heading->installEventFilter(this);
    heading->setFont(theme::text_font(7.5, QFont::Medium));
    heading->setProperty("heading", true);
    rows_->layout()->addWidget(heading);
    return heading;
}

void DetailPanel::addSection(const std::string& holder_id, const QString& prefix) {
    const Holder holder = *find_holder(*effect_, holder_id);
    std::string_view group;
    QLabel* heading = nullptr;
    for (const Parameter& parameter : holder.parameters) {
        if (parameter.group != group) {
            group = parameter.group;
            heading = addHeading(prefix + qtext(group));
        }
        lines_.push_back({holder_id, &parameter, heading, nullptr, {}});
    }
}

// The sections that are there, to go to.
void DetailPanel::fillSections() {
    QMenu* menu = sections_->menu();
    menu->clear();
    QLabel* last = nullptr;
    for (const Line& line : lines_) {
        if (line.heading != last && !line.heading->isHidden()) {
            last = line.heading;
            menu->addAction(last->property("section").toString(), this, [this, heading = last] {
                folded_.erase(heading->property("section").toString());
                showRows();
                QTimer::singleShot(0, heading, [this, heading] { // once it is laid out
                    scroll_->verticalScrollBar()->setValue(heading->mapTo(rows_, QPoint()).y());
                });
            });
        }
    }
}

QLabel* DetailPanel::heading(const QString& text) const {
    for (const Line& line : lines_) {
        if (line.heading->property("section").toString() == text) {
            return line.heading;
        }
    }
    return nullptr;
}

void DetailPanel::goTo(const std::string& holder_id, const std::string& key) {
    filter_->clear();
    for (const Line& line : lines_) {
        if (line.holder == holder_id && line.parameter->key == key) {
            folded_.erase(line.heading->property("section").toString());
        }
    }
    showRows();
    if (ParameterRow* found = row(holder_id, key)) {
        QTimer::singleShot(0, found, [this, found] {
            scroll_->ensureWidgetVisible(found, 0, 60);
            if (QWidget* first = found->nextInFocusChain()) {
                first->setFocus();
            }
        });
    }
}

// What is chosen next of the same kind is seen where this one was.
std::string DetailPanel::kindOf(const std::string& id) const {
    const Element* element = effect_ ? find_element(*effect_, id) : nullptr;
    return element != nullptr ? std::string(type_of(element->body).key) : id;
}

void DetailPanel::keepScrollPlace() {
    if (rows_ != nullptr) {
        scroll_places_[kindOf(selection_)] = scroll_->verticalScrollBar()->value();
    }
}

// Only what does something as things are is shown, and only what has changed is shown anew.
void DetailPanel::showRows() {
    const QString wanted = filter_->text().trimmed();
    std::map<QLabel*, int> rows;
    for (Line& line : lines_) {
        const Holder holder = *find_holder(*effect_, line.holder);
        const bool is_folded =
            wanted.isEmpty() && folded_.contains(line.heading->property("section").toString());
        const bool is_wanted = qtext(line.parameter->label).contains(wanted, Qt::CaseInsensitive);
        const bool is_there = is_wanted && does_apply(*line.parameter, holder.object);
        const bool applies = is_there && !is_folded;
        rows[line.heading] += is_there ? 1 : 0;
        if (applies && line.row == nullptr) {
            makeRow(line);
        }
        if (line.row == nullptr) {
            continue;
        }
        line.row->setVisible(applies);
        line.row->setTrack(find_track(*effect_, line.holder, line.parameter->key), now_s_);
        const Value value = valueOf(line, holder);
        if (applies) {
            line.row->setChanged(value != default_of(holder, *line.parameter));
            line.row->setEarlier(earlierValues(line.holder, *line.parameter, value));
            const Note* note = find_note(*effect_, line.holder, line.parameter->key);
            line.row->setNote(note != nullptr ? QString::fromStdString(note->text) : QString());
        }
        if (applies && line.shown != value) {
            line.row->setValue(value);
            line.shown = value;
        }
        line.row->setDrives(*effect_, line.holder);
        if (!in_gesture_) {
            showCaution(line.row, *effect_);
        }
    }
    for (const auto& [heading, count] : rows) {
        const QString section = heading->property("section").toString();
        const bool is_folded = wanted.isEmpty() && folded_.contains(section);
        heading->setText(section.toUpper() + (is_folded ? tr("  +%1").arg(count) : QString()));
        heading->setVisible(count > 0);
    }
}

} // namespace ember
