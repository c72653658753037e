#include "desktop/controls/value_slider.h"

#include "desktop/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {
constexpr double knob_radius = 5;
}

ValueSlider::ValueSlider(double low, double high, bool whole, QWidget* parent)
    : QWidget(parent), low_(low), high_(high), whole_(whole) {
    setFocusPolicy(Qt::StrongFocus);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFixedHeight(20);
}

void ValueSlider::setValues(const std::vector<double>& values) {
    values_ = values;
    knob_ = std::min(knob_, values.size() - 1);
    update();
}

void ValueSlider::setBands(const std::vector<std::optional<std::pair<double, double>>>& bands) {
    bands_ = bands;
    update();
}

double ValueSlider::placeOf(double value) const {
    const double share = std::clamp((value - low_) / (high_ - low_), 0.0, 1.0);
    return knob_radius + share * (width() - 2 * knob_radius);
}

double ValueSlider::valueAt(double place) const {
    const double share = std::clamp((place - knob_radius) / (width() - 2 * knob_radius), 0.0, 1.0);
    const double value = low_ + share * (high_ - low_);
    // As many digits as the eye can aim at: a two-hundredth of the range, to the next round step.
    const double step = whole_ ? std::max(1.0, std::pow(10.0, std::floor(std::log10((high_ - low_) / 200))))
                               : std::pow(10.0, std::floor(std::log10((high_ - low_) / 200)));
    return std::clamp(std::round(value / step) * step, low_, high_);
}

QPointF ValueSlider::knobPlace(size_t knob) const {
    return {placeOf(values_[knob]), height() / 2.0};
}

void ValueSlider::move(size_t knob, double value) {
    if (isDriven(knob)) {
        return;
    }
    if (whole_) {
        value = std::round(value);
    }
    if (knob == 0 && values_.size() > 1) {
        value = std::min(value, values_[1]);
    } else if (knob == 1) {
        value = std::max(value, values_[0]);
    }
    if (values_[knob] != value) {
        values_[knob] = value;
        update();
        emit moved(values_);
    }
}

// As far as there is room for both.
void ValueSlider::moveBoth(double by) {
    const double kept = std::clamp(by, low_ - values_[0], high_ - values_[1]);
    if (kept != 0) {
        values_[0] += kept;
        values_[1] += kept;
        update();
        emit moved(values_);
    }
}

void ValueSlider::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const double middle = height() / 2.0;
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::ground);
    painter.drawRoundedRect(QRectF(0, middle - 5, width(), 10), 5, 5);
    if (values_.empty()) {
        return;
    }
    const double from = values_.size() > 1 ? placeOf(values_.front()) : placeOf(std::max(low_, 0.0));
    const double to = placeOf(values_.back());
    painter.setBrush(isEnabled() ? theme::line : theme::raised);
    painter.drawRoundedRect(
        QRectF(std::min(from, to) - knob_radius, middle - 5, std::abs(to - from) + 2 * knob_radius, 10), 5,
        5);
    for (size_t i = 0; i < bands_.size(); ++i) {
        if (bands_[i]) {
            paintWave(painter, placeOf(bands_[i]->first), placeOf(bands_[i]->second));
        }
    }
    for (size_t i = 0; i < values_.size(); ++i) {
        if (isDriven(i)) {
            painter.setBrush(theme::ember);
            painter.drawEllipse(knobPlace(i), knob_radius - 1, knob_radius - 1);
            continue;
        }
        const bool held = (dragging_ || hasFocus()) && i == knob_;
        painter.setBrush(held ? theme::ember : theme::text);
        painter.drawEllipse(knobPlace(i), knob_radius, knob_radius);
    }
}

// What is driven goes to and fro between two places.
void ValueSlider::paintWave(QPainter& painter, double low, double high) const {
    constexpr double height_of_wave = 3.5, length_of_wave = 14;
    const double middle = height() / 2.0, wide = std::max(high - low, 3.0);
    QPolygonF wave;
    for (double x = 0; x <= wide; x += 0.5) {
        wave << QPointF(low + x,
                        middle - height_of_wave * std::sin(x / length_of_wave * 2 * std::numbers::pi));
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme::ember, 1.5));
    painter.drawPolyline(wave);
    painter.setPen(Qt::NoPen);
}

void ValueSlider::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton || values_.empty()) {
        return;
    }
    const double x = event->position().x();
    knob_ = 0;
    if (values_.size() > 1) {
        const double to_low = std::abs(placeOf(values_[0]) - x);
        const double to_high = std::abs(placeOf(values_[1]) - x);
        knob_ = to_high < to_low || (to_high == to_low && x > placeOf(values_[1])) ? 1 : 0;
    }
    dragging_ = true;
    holds_bar_ = values_.size() > 1 && !isDriven(0) && !isDriven(1) &&
                 x > placeOf(values_[0]) + knob_radius && x < placeOf(values_[1]) - knob_radius;
    const double place = placeOf(values_[knob_]);
    const bool took_knob = std::abs(place - x) <= knob_radius + 2;
    grip_ = took_knob ? place - x : 0;
    drag_from_ = x;
    if (!took_knob && !holds_bar_) {
        move(knob_, valueAt(x));
    }
    update();
}

void ValueSlider::mouseMoveEvent(QMouseEvent* event) {
    if (!dragging_) {
        return;
    }
    const double x = event->position().x();
    if (holds_bar_) {
        const double before = valueAt(drag_from_);
        const double fine = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1;
        moveBoth((valueAt(x) - before) * fine);
    } else if (event->modifiers() & Qt::ShiftModifier) {
        // A tenth of the way for fine work.
        const double by = (x - drag_from_) / (width() - 2 * knob_radius) * (high_ - low_) * 0.1;
        move(knob_, std::clamp(values_[knob_] + by, low_, high_));
        grip_ = placeOf(values_[knob_]) - x;
    } else {
        move(knob_, valueAt(x + grip_));
    }
    drag_from_ = x;
}

void ValueSlider::mouseReleaseEvent(QMouseEvent* event) {
    if (dragging_ && event->button() == Qt::LeftButton) {
        dragging_ = false;
        update();
        emit released();
    }
}

void ValueSlider::keyPressEvent(QKeyEvent* event) {
    const double fine = event->modifiers() & Qt::AltModifier ? 0.1 : 1;
    const double step =
        whole_ ? std::max(1.0, std::round((high_ - low_) / 100 * fine)) : (high_ - low_) / 100 * fine;
    const auto by = [&](double amount) { move(knob_, std::clamp(values_[knob_] + amount, low_, high_)); };
    switch (event->key()) {
    case Qt::Key_Left:
        return by(-step);
    case Qt::Key_Right:
        return by(step);
    case Qt::Key_Home:
        return move(knob_, low_);
    case Qt::Key_End:
        return move(knob_, high_);
    case Qt::Key_Space:
        knob_ = (knob_ + 1) % values_.size();
        return update();
    default:
        QWidget::keyPressEvent(event);
    }
}

void ValueSlider::focusOutEvent(QFocusEvent* event) {
    emit released();
    QWidget::focusOutEvent(event);
}

} // namespace ember
