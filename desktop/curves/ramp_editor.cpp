#include "desktop/curves/ramp_editor.h"

#include "core/base/curve_edit.h"
#include "desktop/controls/colour_editor.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/theme.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr double stop_width = 11;

} // namespace

RampBand::RampBand(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumHeight(62);
    setToolTip(
        tr("Press on the band for a new stop; drag stops along it.\nLeft and Right move a stop (with Shift "
           "by tenths), "
           "Page Up and Page Down go to the next, Insert adds one, Delete removes it.\n"
           "The height of the band is the opacity; a dot on a stop says that it is brighter than white."));
}

QRectF RampBand::bandRect() const {
    return QRectF(rect()).adjusted(8.5, 4.5, -8.5, -20.5);
}

float RampBand::timeAt(double x) const {
    const QRectF r = bandRect();
    return std::clamp(float((x - r.left()) / r.width()), 0.0f, 1.0f);
}

QPointF RampBand::stopPlace(size_t stop) const {
    const QRectF r = bandRect();
    return {r.left() + double(ramp_.stops[stop].time) * r.width(), r.bottom() + 9};
}

void RampBand::setRamp(const Ramp& ramp) {
    if (dragging_ || ramp == ramp_) {
        return;
    }
    ramp_ = ramp;
    selected_ = std::min(selected_, ramp_.stops.size() - 1);
    update();
    emit selectionChanged();
}

void RampBand::select(size_t stop) {
    selected_ = stop;
    update();
    emit selectionChanged();
}

void RampBand::change(const Ramp& ramp, bool continues) {
    if (ramp == ramp_) {
        return;
    }
    ramp_ = ramp;
    selected_ = std::min(selected_, ramp_.stops.size() - 1);
    update();
    emit edited(ramp_, continues);
    emit selectionChanged();
}

void RampBand::setStop(const Ramp::Stop& stop, bool continues) {
    Ramp ramp = ramp_;
    ramp.stops[selected_].colour = stop.colour;
    change(ramp, continues);
    moveTo(stop.time, continues);
}

void RampBand::addStop(float time, bool continues) {
    Ramp ramp = ramp_;
    const auto after = std::upper_bound(ramp.stops.begin(), ramp.stops.end(), time,
                                        [](float t, const Ramp::Stop& stop) { return t < stop.time; });
    const bool is_close = (after != ramp.stops.end() && after->time - time < least_gap) ||
                          (after != ramp.stops.begin() && time - (after - 1)->time < least_gap);
    if (is_close || ramp.stops.size() >= most_curve_points) {
        return;
    }
    selected_ = size_t(after - ramp.stops.begin());
    ramp.stops.insert(after, {time, ramp_.at(time)});
    change(ramp, continues);
}

// Stops keep their order.
void RampBand::moveTo(float time, bool continues) {
    Ramp ramp = ramp_;
    const float earliest = selected_ > 0 ? ramp.stops[selected_ - 1].time + least_gap : 0;
    const float latest = selected_ + 1 < ramp.stops.size() ? ramp.stops[selected_ + 1].time - least_gap : 1;
    ramp.stops[selected_].time = std::clamp(time, earliest, std::max(latest, earliest));
    change(ramp, continues);
}

void RampBand::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) {
        return;
    }
    before_ = ramp_;
    moved_ = false;
    dragging_ = true;
    for (size_t i = 0; i < ramp_.stops.size(); ++i) {
        if (std::abs(stopPlace(i).x() - event->position().x()) <= stop_width / 2 + 1) {
            return select(i);
        }
    }
    moved_ = true;
    addStop(timeAt(event->position().x()), true);
}

void RampBand::mouseMoveEvent(QMouseEvent* event) {
    if (!dragging_) {
        return;
    }
    moved_ = true;
    const float time = timeAt(event->position().x());
    moveTo(event->modifiers() & Qt::ControlModifier ? std::round(time * 20) / 20 : time, true);
}

void RampBand::mouseReleaseEvent(QMouseEvent*) {
    const bool was_edit = dragging_ && moved_;
    dragging_ = false;
    if (was_edit) {
        emit gestureEnded();
    }
}

void RampBand::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape && dragging_) {
        dragging_ = false;
        change(before_, true);
        return emit gestureEnded();
    }
    if (event->matches(QKeySequence::Copy)) {
        return emit copyRequested();
    }
    if (event->matches(QKeySequence::Paste)) {
        return emit pasteRequested();
    }
    const size_t count = ramp_.stops.size();
    const float step = event->modifiers() & Qt::ShiftModifier ? 0.1f : 0.01f;
    switch (event->key()) {
    case Qt::Key_Left:
        return moveTo(ramp_.stops[selected_].time - step, false);
    case Qt::Key_Right:
        return moveTo(ramp_.stops[selected_].time + step, false);
    case Qt::Key_PageUp:
        return select((selected_ + count - 1) % count);
    case Qt::Key_PageDown:
        return select((selected_ + 1) % count);
    case Qt::Key_Insert: {
        const float end = selected_ + 1 < count ? ramp_.stops[selected_ + 1].time : 1;
        return addStop((ramp_.stops[selected_].time + end) / 2, false);
    }
    case Qt::Key_Delete:
    case Qt::Key_Backspace:
        if (count > 1) {
            Ramp ramp = ramp_;
            ramp.stops.erase(ramp.stops.begin() + std::ptrdiff_t(selected_));
            change(ramp, false);
        }
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

void RampBand::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF r = bandRect();
    painter.fillRect(r, theme::ground);
    for (int x = 0; x < int(r.width()); ++x) {
        const Colour colour = ramp_.at(float(x / r.width()));
        const double height = std::max(r.height() * double(colour.alpha), 2.0);
        painter.fillRect(QRectF(r.left() + x, r.bottom() - height, 1, height), screen_colour(colour));
    }
    for (size_t i = 0; i < ramp_.stops.size(); ++i) {
        const QPointF place = stopPlace(i);
        const Colour& colour = ramp_.stops[i].colour;
        const QColor shown = screen_colour(colour);
        painter.setPen(QPen(i == selected_ ? theme::ember : theme::quiet, i == selected_ ? 2 : 1));
        painter.setBrush(shown);
        painter.drawRoundedRect(QRectF(place.x() - stop_width / 2, place.y() - 6, stop_width, 14), 3, 3);
        if (strength_of(colour) > 1) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(qGray(shown.rgb()) > 120 ? theme::ground : theme::text);
            painter.drawEllipse(place + QPointF(0, 1), 2, 2);
        }
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme::ember, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

RampEditor::RampEditor(QWidget* parent)
    : QWidget(parent), band_(new RampBand(this)), colour_(new ColourEditor(this)),
      time_(new NumberField(0, 1, 0.01, false, tr("A time from 0 (birth) to 1 (death)."), this)),
      opacity_(new NumberField(0, 1, 0.05, false, tr("An opacity from 0 to 1."), this)) {
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    const auto labelled = [this, line](const QString& text, NumberField* field, const QString& tip) {
        auto* label = new QLabel(text, this);
        label->setFont(theme::text_font(8.5));
        label->setProperty("ink", "quiet");
        line->addWidget(label);
        line->addWidget(field);
        field->setFixedSize(44, 22);
        field->setToolTip(tip);
        field->setAccessibleName(text);
        connect(field, &NumberField::numberTyped, this, &RampEditor::typed);
    };
    labelled(tr("time"), time_, tr("When the stop comes: 0 is birth, 1 is death."));
    labelled(tr("opacity"), opacity_, tr("0 cannot be seen, 1 is full."));
    line->addStretch();

    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 2, 0, 6);
    layout->setSpacing(4);
    layout->addWidget(band_);
    layout->addLayout(line);
    layout->addWidget(colour_);

    connect(band_, &RampBand::selectionChanged, this, &RampEditor::showStop);
    connect(colour_, &ColourEditor::edited, this, [this](const Colour& colour, bool continues) {
        Ramp::Stop stop = band_->ramp().stops[band_->selected()];
        stop.colour = colour;
        band_->setStop(stop, continues);
    });
    connect(colour_, &ColourEditor::gestureEnded, band_, &RampBand::gestureEnded);
    showStop();
}

void RampEditor::setRamp(const Ramp& ramp) {
    band_->setRamp(ramp);
    showStop();
}

void RampEditor::showStop() {
    const Ramp::Stop& stop = band_->ramp().stops[band_->selected()];
    time_->setNumber(double(stop.time));
    opacity_->setNumber(double(stop.colour.alpha));
    colour_->setColour(stop.colour);
}

void RampEditor::typed() {
    Ramp::Stop stop = band_->ramp().stops[band_->selected()];
    stop.time = float(time_->number());
    stop.colour.alpha = float(opacity_->number());
    band_->setStop(stop, false);
    showStop();
}

} // namespace ember
