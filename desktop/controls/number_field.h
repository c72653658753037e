// A figure that can be typed.
#pragma once

#include <QLineEdit>

#include <functional>
#include <utility>

namespace ember {

/// Enter or leaving the field hands in what was typed, with arithmetic and units (typed_number()), Escape
/// takes it back, Up and Down step (with Shift by ten steps, with Alt by a tenth). What is not a number, or
/// outside the hard range, is refused: the field says why and keeps the old value. The press that gives it
/// the keyboard selects all of it.
class NumberField : public QLineEdit {
    Q_OBJECT

  public:
    NumberField(double low, double high, double step, bool whole, const QString& expectation,
                QWidget* parent = nullptr);

    /// The unit that plain numbers are in.
    void setUnit(const QString& unit) { unit_ = unit; }
    /// No more digits than this are shown behind the point; what is held stays as it is.
    void setDecimals(int decimals) { decimals_ = decimals; }
    /// How the number is shown, in place of digits as far as they are needed; typed_number() reads it.
    void setWords(std::function<QString(double)> words) { words_ = std::move(words); }
    /// Shown unless something is being typed.
    void setNumber(double number);
    double number() const { return number_; }

  signals:
    void numberTyped(double number);

  protected:
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

  private:
    void handIn();
    void setRefused(bool refused);
    void showNumber();

    double low_, high_, step_;
    bool whole_;
    QString expectation_;
    QString unit_;
    double number_ = 0;
    int decimals_ = 12;
    std::function<QString(double)> words_;
    bool is_first_press_ = false;
};

} // namespace ember
