// Keys that a focused control wants for itself although the window has commands on them.
#pragma once

#include <QKeyEvent>

namespace ember {

/// To be called first in a control's event(): true if `event` asks about a key that an editor of points needs
/// (Delete, copy and paste, select all), and has been answered.
inline bool claims_editing_keys(QEvent* event) {
    if (event->type() != QEvent::ShortcutOverride) {
        return false;
    }
    auto* key = static_cast<QKeyEvent*>(event);
    const bool is_editing = key->key() == Qt::Key_Delete || key->key() == Qt::Key_Backspace ||
                            key->key() == Qt::Key_Insert || key->key() == Qt::Key_Escape ||
                            key->matches(QKeySequence::Copy) || key->matches(QKeySequence::Paste) ||
                            key->matches(QKeySequence::SelectAll);
    key->setAccepted(is_editing);
    return is_editing;
}

} // namespace ember
