#include "desktop/curves/curve_plot.h"

#include "desktop/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ember {

namespace {

constexpr double reach = 7; // pixels round a point, handle or the curve that take the mouse
constexpr float time_step = 0.01f;

} // namespace

CurvePlot::CurvePlot(const ValueLimits& limits, QWidget* parent) : QWidget(parent), limits_(limits) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumHeight(300);
    setToolTip(tr("Press on the line for a new point; drag points and their handles. Drag beside the line to "
                  "select several.\n"
                  "Control snaps, Alt breaks a handle in two, Escape takes back, Delete removes.\n"
                  "Arrow keys move (with Shift by tenths), Page Up and Page Down go from point to point, "
                  "Insert adds one, Ctrl+A selects all.\n"
                  "Grey: how far through their lives the live particles are."));
}

QRectF CurvePlot::plotRect() const {
    return QRectF(rect()).adjusted(32.5, 8.5, -8.5, -16.5);
}

QPointF CurvePlot::placeOf(float time, float value) const {
    const QRectF r = plotRect();
    return {r.left() + double(time) * r.width(),
            r.bottom() - double((value - view_low_) / (view_high_ - view_low_)) * r.height()};
}

QPointF CurvePlot::handlePlace(size_t point, bool outgoing) const {
    const Curve::Point& p = curve_.points[point];
    const CurveHandles handles = handles_of(curve_, point);
    return outgoing ? placeOf(p.time + handles.out_time, p.value + handles.out_value)
                    : placeOf(p.time + handles.in_time, p.value + handles.in_value);
}

float CurvePlot::timeAt(double x) const {
    const QRectF r = plotRect();
    return float((x - r.left()) / r.width());
}

float CurvePlot::valueAt(double y) const {
    const QRectF r = plotRect();
    return view_low_ + float((r.bottom() - y) / r.height()) * (view_high_ - view_low_);
}

void CurvePlot::setCurve(const Curve& curve) {
    if (drag_ != Drag::none || curve == curve_) {
        return;
    }
    curve_ = curve;
    std::erase_if(selection_, [&](size_t i) { return i >= curve_.points.size(); });
    fitView();
    update();
    emit selectionChanged();
}

void CurvePlot::setSpread(const AgeSpread& spread) {
    spread_ = spread;
    update();
}

void CurvePlot::setEnds(const QString& left, const QString& right) {
    left_end_ = left;
    right_end_ = right;
    update();
}

void CurvePlot::select(const PointSet& points) {
    selection_ = points;
    update();
    emit selectionChanged();
}

void CurvePlot::replace(const Curve& curve) {
    change(curve, false);
    std::erase_if(selection_, [&](size_t i) { return i >= curve_.points.size(); });
    fitView();
    emit selectionChanged();
}

// Zero and one are always seen, and all of the curve.
void CurvePlot::fitView() {
    float low = std::max(0.0f, limits_.low), high = std::min(1.0f, limits_.high);
    for (int i = 0; i <= 100; ++i) {
        const float value = curve_.at(float(i) / 100);
        low = std::min(low, value);
        high = std::max(high, value);
    }
    const float margin = (high - low) * 0.12f;
    view_low_ = low < 0 ? low - margin : low;
    view_high_ = high > 1 ? high + margin : high;
}

// The next of 1, 2, 5 times a power of ten to a tenth of what is seen.
float CurvePlot::niceStep() const {
    const float rough = (view_high_ - view_low_) / 10;
    const float power = std::pow(10.0f, std::floor(std::log10(rough)));
    return rough / power < 1.5f ? power : rough / power < 3.5f ? 2 * power : 5 * power;
}

std::optional<size_t> CurvePlot::pointAt(QPointF place) const {
    std::optional<size_t> found;
    double nearest = reach;
    for (size_t i = 0; i < curve_.points.size(); ++i) {
        const QPointF way = placeOf(curve_.points[i].time, curve_.points[i].value) - place;
        const double distance = std::hypot(way.x(), way.y());
        if (distance <= nearest) {
            nearest = distance;
            found = i;
        }
    }
    return found;
}

bool CurvePlot::hasHandles(size_t point) const {
    return curve_.points[point].bend != Curve::Bend::smooth &&
           std::binary_search(selection_.begin(), selection_.end(), point);
}

bool CurvePlot::handleAt(QPointF place) {
    for (const size_t i : selection_) {
        for (const bool outgoing : {false, true}) {
            const QPointF way = handlePlace(i, outgoing) - place;
            if (hasHandles(i) && std::hypot(way.x(), way.y()) <= reach) {
                held_ = i;
                outgoing_ = outgoing;
                return true;
            }
        }
    }
    return false;
}

void CurvePlot::change(const Curve& curve, bool continues) {
    if (curve == curve_) {
        return;
    }
    curve_ = curve;
    update();
    emit edited(curve_, continues);
    emit selectionChanged();
}

void CurvePlot::mousePressEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) {
        return;
    }
    pressed_ = event->position();
    before_ = curve_;
    moved_ = false;
    if (const auto point = pointAt(pressed_)) {
        const bool is_selected = std::binary_search(selection_.begin(), selection_.end(), *point);
        if (event->modifiers() & Qt::ShiftModifier) {
            PointSet points = selection_;
            is_selected ? void(std::erase(points, *point))
                        : void(points.insert(std::lower_bound(points.begin(), points.end(), *point), *point));
            select(points);
        } else if (!is_selected) {
            select({*point});
        }
        held_ = *point;
        drag_ = Drag::points;
    } else if (handleAt(pressed_)) {
        drag_ = Drag::handle;
    } else if (std::abs(placeOf(0, curve_.at(timeAt(pressed_.x()))).y() - pressed_.y()) <= reach) {
        Curve added = curve_;
        if (const auto place = add_point(added, timeAt(pressed_.x()))) {
            held_ = *place;
            drag_ = Drag::points;
            moved_ = true;
            selection_ = {*place};
            change(added, true);
        }
    } else {
        drag_ = Drag::frame;
        frame_ = {};
    }
}

void CurvePlot::mouseMoveEvent(QMouseEvent* event) {
    if (drag_ != Drag::none) {
        dragTo(event->position(), event->modifiers());
        return;
    }
    const bool on_line =
        std::abs(placeOf(0, curve_.at(timeAt(event->position().x()))).y() - event->position().y()) <= reach;
    setCursor(pointAt(event->position()) ? Qt::SizeAllCursor
              : on_line                  ? Qt::PointingHandCursor
                                         : Qt::ArrowCursor);
}

void CurvePlot::dragTo(QPointF place, Qt::KeyboardModifiers keys) {
    const bool snaps = snaps_ != bool(keys & Qt::ControlModifier);
    const auto snapped = [snaps](float a, float step) { return snaps ? std::round(a / step) * step : a; };
    if (drag_ == Drag::frame) {
        frame_ = QRectF(pressed_, place).normalized();
        PointSet inside;
        for (size_t i = 0; i < curve_.points.size(); ++i) {
            if (frame_.contains(placeOf(curve_.points[i].time, curve_.points[i].value))) {
                inside.push_back(i);
            }
        }
        return select(inside);
    }
    if (!moved_ && (place - pressed_).manhattanLength() < 3) {
        return;
    }
    // From the start of the drag, so that what a neighbour held up comes after when there is room again.
    const bool first = !moved_;
    moved_ = true;
    const bool was_added = before_.points.size() != curve_.points.size();
    Curve from = before_;
    if (was_added) {
        add_point(from, timeAt(pressed_.x()));
    }
    const Curve::Point& held = from.points[held_];
    if (drag_ == Drag::handle) {
        const CurveHandles handles = handles_of(from, held_);
        const bool breaks = keys & Qt::AltModifier;
        const float time =
            (outgoing_ ? handles.out_time : handles.in_time) + timeAt(place.x()) - timeAt(pressed_.x());
        const float value =
            (outgoing_ ? handles.out_value : handles.in_value) + valueAt(place.y()) - valueAt(pressed_.y());
        return change(
            with_handle(from, held_, outgoing_, snapped(time, 0.05f), snapped(value, niceStep()), breaks),
            true);
    }
    if (first && selection_.empty()) {
        return;
    }
    const float time = snapped(held.time + timeAt(place.x()) - timeAt(pressed_.x()), 0.05f) - held.time;
    const float value =
        snapped(held.value + valueAt(place.y()) - valueAt(pressed_.y()), niceStep()) - held.value;
    change(shifted(from, selection_, time, value, limits_), true);
}

void CurvePlot::mouseReleaseEvent(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton || drag_ == Drag::none) {
        return;
    }
    if (drag_ == Drag::frame && frame_.isNull()) {
        select({});
    }
    const bool was_edit = drag_ != Drag::frame && moved_;
    drag_ = Drag::none;
    frame_ = {};
    fitView();
    update();
    if (was_edit) {
        emit gestureEnded();
    }
}

// From smooth to handles and back.
void CurvePlot::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const auto point = pointAt(event->position())) {
        const bool is_smooth = curve_.points[*point].bend == Curve::Bend::smooth;
        select({*point});
        replace(bent(curve_, {*point}, is_smooth ? Curve::Bend::handles : Curve::Bend::smooth));
    }
}

void CurvePlot::takeBack() {
    const bool had_moved = moved_ && drag_ != Drag::frame;
    drag_ = Drag::none;
    frame_ = {};
    if (had_moved) {
        std::erase_if(selection_, [&](size_t i) { return i >= before_.points.size(); });
        change(before_, true);
        emit gestureEnded();
    }
    update();
}

void CurvePlot::nudge(float time, float value) {
    replace(shifted(curve_, selection_, time, value, limits_));
}

void CurvePlot::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape && drag_ != Drag::none) {
        return takeBack();
    }
    if (event->matches(QKeySequence::SelectAll)) {
        PointSet all(curve_.points.size());
        std::iota(all.begin(), all.end(), size_t(0));
        return select(all);
    }
    if (event->matches(QKeySequence::Copy)) {
        return emit copyRequested();
    }
    if (event->matches(QKeySequence::Paste)) {
        return emit pasteRequested();
    }
    const size_t last = curve_.points.size() - 1;
    const bool far = event->modifiers() & Qt::ShiftModifier;
    const float time = far ? 10 * time_step : time_step;
    const float value = far ? niceStep() : niceStep() / 10;
    switch (event->key()) {
    case Qt::Key_PageUp:
        return select({selection_.empty() || selection_.front() == 0 ? last : selection_.front() - 1});
    case Qt::Key_PageDown:
        return select({selection_.empty() || selection_.back() == last ? 0 : selection_.back() + 1});
    case Qt::Key_Left:
        return nudge(-time, 0);
    case Qt::Key_Right:
        return nudge(time, 0);
    case Qt::Key_Up:
        return nudge(0, value);
    case Qt::Key_Down:
        return nudge(0, -value);
    case Qt::Key_Delete:
    case Qt::Key_Backspace: {
        const PointSet gone = selection_;
        select({});
        return replace(without_points(curve_, gone));
    }
    case Qt::Key_Insert: {
        // In the widest gap after the selected point, or of all.
        Curve added = curve_;
        const size_t from = selection_.empty() ? 0 : selection_.front();
        const float end = from < last ? curve_.points[from + 1].time : 1;
        if (const auto point = add_point(added, (curve_.points[from].time + end) / 2)) {
            replace(added);
            select({*point});
        }
        return;
    }
    default:
        QWidget::keyPressEvent(event);
    }
}

void CurvePlot::paintGrid(QPainter& painter) const {
    const QRectF r = plotRect();
    painter.fillRect(r, theme::ground);
    // How many particles are how far through their lives.
    float most = 0;
    for (const float share : spread_) {
        most = std::max(most, share);
    }
    for (size_t i = 0; i < spread_.size() && most > 0; ++i) {
        const double width = r.width() / double(spread_.size());
        const double height = double(spread_[i] / most) * r.height() * 0.45;
        painter.fillRect(QRectF(r.left() + width * double(i) + 0.5, r.bottom() - height, width - 1, height),
                         theme::raised);
    }
    painter.setFont(theme::figure_font(7.5));
    painter.setPen(QPen(theme::line, 1));
    for (const float time : {0.25f, 0.5f, 0.75f}) {
        painter.drawLine(QPointF(placeOf(time, 0).x(), r.top()), QPointF(placeOf(time, 0).x(), r.bottom()));
    }
    const float step = niceStep() * 2;
    for (float value = std::ceil(view_low_ / step) * step; value <= view_high_ + step * 0.01f;
         value += step) {
        const double y = placeOf(0, value).y();
        painter.setPen(QPen(theme::line, std::abs(value) < step * 0.01f ? 1.6 : 1));
        painter.drawLine(QPointF(r.left(), y), QPointF(r.right(), y));
        painter.setPen(theme::quiet);
        painter.drawText(QRectF(0, y - 8, r.left() - 4, 16), Qt::AlignRight | Qt::AlignVCenter,
                         QString::number(double(std::abs(value) < step * 0.01f ? 0 : value), 'g', 3));
    }
    painter.setPen(theme::quiet);
    painter.drawText(QRectF(r.left(), r.bottom() + 2, 80, 14), Qt::AlignLeft | Qt::AlignTop, left_end_);
    painter.drawText(QRectF(r.right() - 80, r.bottom() + 2, 80, 14), Qt::AlignRight | Qt::AlignTop,
                     right_end_);
}

void CurvePlot::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    paintGrid(painter);

    const QRectF r = plotRect();
    painter.setClipRect(r.adjusted(-6, -6, 6, 6));
    QPainterPath path;
    for (int x = 0; x <= int(r.width()); ++x) {
        const float time = float(x / r.width());
        const QPointF place = placeOf(time, std::clamp(curve_.at(time), limits_.low, limits_.high));
        x == 0 ? path.moveTo(place) : path.lineTo(place);
    }
    painter.setPen(QPen(theme::ember, 1.8));
    painter.drawPath(path);

    for (size_t i = 0; i < curve_.points.size(); ++i) {
        const QPointF place = placeOf(curve_.points[i].time, curve_.points[i].value);
        const bool is_selected = std::binary_search(selection_.begin(), selection_.end(), i);
        if (hasHandles(i)) {
            for (const bool outgoing : {false, true}) {
                const QPointF end = handlePlace(i, outgoing);
                painter.setPen(QPen(theme::quiet, 1));
                painter.drawLine(place, end);
                painter.setBrush(theme::ground);
                painter.drawEllipse(end, 3.5, 3.5);
            }
        }
        painter.setPen(QPen(is_selected ? theme::text : theme::ember, 1.5));
        painter.setBrush(is_selected ? theme::ember : theme::ground);
        // Smooth points are round, those that bend by hand are square.
        curve_.points[i].bend == Curve::Bend::smooth
            ? painter.drawEllipse(place, 4, 4)
            : painter.drawRect(QRectF(place.x() - 3.5, place.y() - 3.5, 7, 7));
    }
    painter.setClipping(false);
    if (!frame_.isNull()) {
        painter.setPen(QPen(theme::quiet, 1, Qt::DotLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(frame_);
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme::ember, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

} // namespace ember
