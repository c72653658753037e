#include "desktop/controls/number_field.h"

#include "desktop/controls/typed_number.h"
#include "desktop/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QStyle>
#include <QToolTip>

#include <algorithm>
#include <cmath>
#include <utility>

namespace ember {

NumberField::NumberField(double low, double high, double step, bool whole, const QString& expectation,
                         QWidget* parent)
    : QLineEdit(parent), low_(low), high_(high), step_(step), whole_(whole), expectation_(expectation) {
    setFont(theme::figure_font(8.5));
    setAlignment(Qt::AlignRight);
    setFixedHeight(22);
    setTextMargins(0, 0, 0, 0);
}

void NumberField::setNumber(double number) {
    number_ = number;
    if (!isModified()) {
        showNumber();
    }
}

void NumberField::showNumber() {
    const double unit = std::pow(10, decimals_);
    const bool was_chosen = hasFocus() && hasSelectedText();
    setText(words_ ? words_(number_)
                   : shown_number(decimals_ < 6 ? std::round(number_ * unit) / unit : number_, whole_));
    setModified(false);
    setRefused(false);
    setCursorPosition(0);
    if (was_chosen) {
        selectAll(); // what is typed next takes its place
    }
}

void NumberField::setRefused(bool refused) {
    if (property("refused").toBool() != refused) {
        setProperty("refused", refused);
        style()->unpolish(this);
        style()->polish(this);
    }
}

void NumberField::handIn() {
    if (!isModified()) {
        return;
    }
    const auto number = typed_number(text(), unit_);
    const double typed = number.value_or(0);
    // Limits are decimal fractions, and numbers end as the nearest floats.
    const bool fits = number && float(typed) >= float(low_) && float(typed) <= float(high_) &&
                      (!whole_ || typed == std::round(typed));
    if (!fits) {
        setRefused(true);
        QToolTip::showText(
            mapToGlobal(QPoint(0, height())),
            tr("Found %1, expected %2.\nEscape brings the old value back.").arg(text(), expectation_), this);
        return;
    }
    number_ = typed;
    showNumber();
    emit numberTyped(typed);
}

void NumberField::keyPressEvent(QKeyEvent* event) {
    const auto step = [&](double by) {
        const double fine = event->modifiers() & Qt::AltModifier     ? 0.1
                            : event->modifiers() & Qt::ShiftModifier ? 10
                                                                     : 1;
        double number = number_ + by * step_ * fine;
        if (whole_) {
            number = std::round(number_ + by * std::max(1.0, step_ * fine));
        }
        number_ = std::clamp(number, low_, high_);
        showNumber();
        emit numberTyped(number_);
    };
    // With Alt a letter is a command of the row, and no text.
    if (event->modifiers() == Qt::AltModifier && event->key() >= Qt::Key_A && event->key() <= Qt::Key_Z) {
        return event->ignore();
    }
    switch (event->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter:
        handIn();
        return selectAll();
    case Qt::Key_Escape:
        return showNumber();
    case Qt::Key_Up:
        return step(1);
    case Qt::Key_Down:
        return step(-1);
    default:
        QLineEdit::keyPressEvent(event);
    }
}

void NumberField::focusInEvent(QFocusEvent* event) {
    is_first_press_ = event->reason() == Qt::MouseFocusReason;
    QLineEdit::focusInEvent(event);
}

void NumberField::mousePressEvent(QMouseEvent* event) {
    QLineEdit::mousePressEvent(event);
    if (std::exchange(is_first_press_, false)) {
        selectAll();
    }
}

void NumberField::focusOutEvent(QFocusEvent* event) {
    handIn();
    if (property("refused").toBool()) {
        showNumber();
    }
    QLineEdit::focusOutEvent(event);
}

} // namespace ember
