// A box to choose a word from, by letters too, although the window has commands on letters. The wheel scrolls
// the panel unless the box is being used.
#pragma once

#include <QComboBox>
#include <QKeyEvent>
#include <QStyledItemDelegate>
#include <QWheelEvent>

namespace ember {

class ChoiceBox : public QComboBox {
  public:
    explicit ChoiceBox(QWidget* parent = nullptr) : QComboBox(parent) {
        setFocusPolicy(Qt::StrongFocus);
        // As wide as there is room for: a long word must not push what stands beside it out of sight.
        setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
        setMinimumContentsLength(6);
        // The style's own rows are those of a menu, and do not take the theme's colours.
        setItemDelegate(new QStyledItemDelegate(this));
    }

  protected:
    bool event(QEvent* event) override {
        if (event->type() == QEvent::ShortcutOverride) {
            const auto* key = static_cast<QKeyEvent*>(event);
            const bool has_command_keys = key->modifiers() & (Qt::ControlModifier | Qt::AltModifier);
            if (!key->text().isEmpty() && key->text()[0].isLetterOrNumber() && !has_command_keys) {
                event->accept();
                return true;
            }
        }
        return QComboBox::event(event);
    }
    void wheelEvent(QWheelEvent* event) override {
        hasFocus() ? QComboBox::wheelEvent(event) : event->ignore();
    }
};

} // namespace ember
