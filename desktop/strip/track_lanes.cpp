#include "desktop/strip/track_lanes.h"

#include "core/base/curve_edit.h"
#include "core/effect/effect_file.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/strip/strip_parts.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QToolTip>

#include <algorithm>
#include <cmath>

namespace ember {

using strip::reach;
using strip::step_s;

namespace {

bool puts_again(const QKeyEvent& event) {
    return event.key() == Qt::Key_D && event.modifiers() == Qt::ControlModifier;
}

} // namespace

TrackLanes::TrackLanes(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setFocusPolicy(Qt::ClickFocus);
    setAccessibleName(tr("Tracks"));
}

void TrackLanes::setEffect(const EffectPtr& effect) {
    effect_ = effect;
    if (chosen_ && find_track(*effect, chosen_->holder, chosen_->parameter) == nullptr) {
        chosen_.reset();
    }
    update();
}

void TrackLanes::setAxis(const strip::TimeAxis& axis) {
    axis_ = axis;
    update();
}

const Parameter& TrackLanes::parameterOf(const Track& track) const {
    return *find_holder(*effect_, track.holder)->find(track.parameter);
}

QString TrackLanes::nameOf(const Track& track) const {
    return tr("%1 of %2")
        .arg(qtext(parameterOf(track).label),
             QString::fromStdString(find_holder(*effect_, track.holder)->name));
}

int TrackLanes::heightOf(size_t track) const {
    return isOpen(effect_->tracks[track]) ? open_height : lane_height;
}

int TrackLanes::wantedHeight() const {
    int height = 0;
    for (size_t i = 0; effect_ && i < effect_->tracks.size(); ++i) {
        height += heightOf(i);
    }
    return height;
}

QRect TrackLanes::laneRect(size_t track) const {
    int top = 0;
    for (size_t i = 0; i < track; ++i) {
        top += heightOf(i);
    }
    return {strip::left_edge, top, width() - strip::left_edge - strip::right_edge, heightOf(track) - 2};
}

QRect TrackLanes::markRect(size_t track) const {
    const QRect lane = laneRect(track);
    return {1, lane.top(), 12, std::min(lane.height(), lane_height)};
}

double TrackLanes::Scale::yOf(double value) const {
    const double share = high > low ? (value - low) / (high - low) : 0.5;
    return lane.bottom() - 3 - std::clamp(share, -0.3, 1.3) * (lane.height() - 6);
}

double TrackLanes::Scale::valueAt(double y) const {
    return low + (lane.bottom() - 3 - y) / (lane.height() - 6) * (high - low);
}

// From the least of its keys to the greatest; with room around where it is open.
TrackLanes::Scale TrackLanes::scaleOf(const Effect& effect, size_t index) const {
    const Track& track = effect.tracks[index];
    double low = HUGE_VAL, high = -HUGE_VAL;
    for (const Curve& curve : track.curves) {
        for (const Curve::Point& point : curve.points) {
            low = std::min(low, double(point.value));
            high = std::max(high, double(point.value));
        }
    }
    if (isOpen(track)) {
        const double room = high > low ? 0.25 * (high - low) : std::max(std::abs(low) * 0.5, 0.5);
        low -= room;
        high += room;
    }
    return {low, high, laneRect(index)};
}

QPointF TrackLanes::placeOf(const Scale& scale, const Curve::Point& point) const {
    const bool is_high = scale.lane.height() > lane_height;
    return {axis_.xOf(double(point.time)),
            is_high ? scale.yOf(double(point.value)) : scale.lane.center().y() + 0.5};
}

QPointF TrackLanes::handleEnd(const Scale& scale, const Curve& curve, size_t key, bool outgoing) const {
    const Curve::Point& point = curve.points[key];
    const CurveHandles handles = handles_of(curve, key);
    return {axis_.xOf(double(point.time + (outgoing ? handles.out_time : handles.in_time))),
            scale.yOf(double(point.value + (outgoing ? handles.out_value : handles.in_value)))};
}

QPoint TrackLanes::keyPlace(size_t track, size_t key, int part) const {
    return placeOf(scaleOf(*effect_, track), effect_->tracks[track].curves[size_t(part)].points[key])
        .toPoint();
}

QPoint TrackLanes::handlePlace(size_t track, size_t key, int part, bool outgoing) const {
    return handleEnd(scaleOf(*effect_, track), effect_->tracks[track].curves[size_t(part)], key, outgoing)
        .toPoint();
}

std::optional<size_t> TrackLanes::laneAt(QPoint place) const {
    for (size_t i = 0; effect_ && i < effect_->tracks.size(); ++i) {
        const int top = laneRect(i).top();
        if (place.y() >= top && place.y() < top + heightOf(i)) {
            return i;
        }
    }
    return std::nullopt;
}

std::optional<size_t> TrackLanes::indexOf(const Key& key) const {
    for (size_t i = 0; i < effect_->tracks.size(); ++i) {
        if (effect_->tracks[i].holder == key.holder && effect_->tracks[i].parameter == key.parameter) {
            return i;
        }
    }
    return std::nullopt;
}

std::optional<TrackLanes::Key> TrackLanes::keyAt(QPoint place) const {
    const auto lane = laneAt(place);
    if (!lane) {
        return std::nullopt;
    }
    const Track& track = effect_->tracks[*lane];
    const Scale scale = scaleOf(*effect_, *lane);
    const size_t parts = isOpen(track) ? track.curves.size() : 1;
    std::optional<Key> found;
    double nearest = reach;
    for (size_t part = 0; part < parts; ++part) {
        for (const Curve::Point& point : track.curves[part].points) {
            const QPointF at = placeOf(scale, point);
            const double across = std::abs(at.x() - place.x());
            const double away = isOpen(track) ? std::hypot(across, at.y() - place.y()) : across;
            if (away < nearest) {
                nearest = away;
                found = Key{track.holder, track.parameter, double(point.time), int(part)};
            }
        }
    }
    return found;
}

// Of the chosen key.
std::optional<TrackLanes::Grip> TrackLanes::handleAt(QPoint place) const {
    const auto lane = chosen_ ? indexOf(*chosen_) : std::nullopt;
    if (!lane || !isOpen(effect_->tracks[*lane]) || switches(parameterOf(effect_->tracks[*lane]))) {
        return std::nullopt;
    }
    const Curve& curve = effect_->tracks[*lane].curves[size_t(chosen_->part)];
    const Scale scale = scaleOf(*effect_, *lane);
    for (size_t i = 0; i < curve.points.size(); ++i) {
        if (std::abs(double(curve.points[i].time) - chosen_->time_s) >= double(one_key_s)) {
            continue;
        }
        for (const Grip grip : {Grip::in, Grip::out}) {
            const QPointF end = handleEnd(scale, curve, i, grip == Grip::out);
            if (std::hypot(end.x() - place.x(), end.y() - place.y()) < reach) {
                return grip;
            }
        }
    }
    return std::nullopt;
}

QString TrackLanes::tipAt(QPoint place) const {
    const auto lane = laneAt(place);
    if (!lane) {
        return {};
    }
    const Track& track = effect_->tracks[*lane];
    const auto key = keyAt(place);
    const double time_s = key ? key->time_s : axis_.timeAt(place.x());
    const Parameter& parameter = parameterOf(track);
    return tr("%1 at %2 s: %3\nDrag a key to another moment, with Ctrl a copy of it, with Shift to stretch "
              "the "
              "track; double-click puts a key, a right press takes one away. Arrows move the key that was "
              "pressed, Ctrl+D puts it again at the moment that is shown.")
        .arg(nameOf(track))
        .arg(time_s, 0, 'f', 2)
        .arg(QString::fromStdString(value_text(parameter, value_at(track, parameter, time_s))));
}

bool TrackLanes::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        QToolTip::showText(help->globalPos(), tipAt(help->pos()), this);
        return true;
    }
    if (event->type() == QEvent::ShortcutOverride && chosen_) {
        const auto* pressed = static_cast<QKeyEvent*>(event);
        const int key = pressed->key();
        if (key == Qt::Key_Delete || key == Qt::Key_Left || key == Qt::Key_Right || puts_again(*pressed)) {
            event->accept();
            return true;
        }
    }
    return QWidget::event(event);
}

void TrackLanes::takeAway(const Key& key) {
    chosen_.reset();
    emit edited(without_key(*effect_, key.holder, key.parameter, key.time_s), tr("take a key away"), {});
}

void TrackLanes::mousePressEvent(QMouseEvent* event) {
    const QPoint place = event->position().toPoint();
    const auto lane = laneAt(place);
    if (event->button() == Qt::LeftButton && lane && markRect(*lane).contains(place)) {
        const Track& track = effect_->tracks[*lane];
        if (open_.erase({track.holder, track.parameter}) == 0) {
            open_.insert({track.holder, track.parameter});
        }
        emit heightChanged();
        return update();
    }
    const auto handle = handleAt(place);
    const auto key = handle ? chosen_ : keyAt(place);
    if (event->button() == Qt::RightButton && key && !handle) {
        return takeAway(*key);
    }
    if (event->button() != Qt::LeftButton) {
        return;
    }
    chosen_ = key;
    if (key) {
        const Track& track = *find_track(*effect_, key->holder, key->parameter);
        held_ = Held{*key, handle.value_or(Grip::key), double(track.curves[0].points.front().time), effect_,
                     place};
        ++gestures_;
    } else if (lane && place.x() < strip::left_edge) {
        emit selected(effect_->tracks[*lane].holder);
    }
    update();
}

// One curve of a key's track, changed at that key.
Effect TrackLanes::withCurve(const Effect& effect, const Key& key,
                             const std::function<void(Curve&, size_t)>& change) const {
    Track track = *find_track(effect, key.holder, key.parameter);
    Curve& curve = track.curves[size_t(key.part)];
    for (size_t i = 0; i < curve.points.size(); ++i) {
        if (std::abs(double(curve.points[i].time) - key.time_s) < double(one_key_s)) {
            change(curve, i);
        }
    }
    return refusal_of(effect, track) ? effect : with_track(effect, track);
}

void TrackLanes::moveTo(QPoint place, Qt::KeyboardModifiers keys) {
    const Key& key = held_->key;
    const bool stretches = keys & Qt::ShiftModifier, copies = !stretches && keys & Qt::ControlModifier;
    const bool is_first = std::abs(key.time_s - held_->start_s) < double(one_key_s);
    const double wanted = axis_.snapped(axis_.timeAt(place.x()));
    const double time_s = std::max(wanted, stretches && !is_first ? held_->start_s + step_s : 0.0);
    Effect moved = stretches && !is_first
                       ? with_stretched_track(*held_->before, key.holder, key.parameter,
                                              {float(held_->start_s), float(key.time_s)},
                                              {float(held_->start_s), float(time_s)})
                       : (copies ? with_copied_key : with_moved_key)(*held_->before, key.holder,
                                                                     key.parameter, key.time_s, time_s);
    chosen_ = Key{key.holder, key.parameter, time_s, key.part};
    const auto lane = indexOf(key);
    const Track& track = effect_->tracks[*lane];
    if (isOpen(track) && !switches(parameterOf(track)) && !stretches) {
        // By as much as the hand has gone, within what the number may be.
        const Scale scale = scaleOf(*held_->before, *lane);
        const double by = scale.valueAt(place.y()) - scale.valueAt(held_->pressed.y());
        const Parameter& parameter = parameterOf(track);
        moved = withCurve(moved, *chosen_, [&](Curve& curve, size_t i) {
            curve.points[i].value = float(
                std::clamp(double(curve.points[i].value) + by, parameter.hard_low, parameter.hard_high));
        });
    }
    emit edited(moved,
                stretches ? tr("stretch a track")
                : copies  ? tr("copy a key")
                          : tr("move a key"),
                QStringLiteral("key %1").arg(gestures_));
}

void TrackLanes::moveHandle(QPoint place, bool breaks) {
    const Key& key = held_->key;
    const Scale scale = scaleOf(*held_->before, *indexOf(key));
    const bool outgoing = held_->grip == Grip::out;
    const Effect moved = withCurve(*held_->before, key, [&](Curve& curve, size_t i) {
        const double across = width() - strip::left_edge - strip::right_edge;
        const double time = (place.x() - strip::left_edge) / across * axis_.span_s + axis_.first_s;
        curve = with_handle(curve, i, outgoing, float(time - double(curve.points[i].time)),
                            float(scale.valueAt(place.y()) - double(curve.points[i].value)), breaks);
    });
    emit edited(moved, tr("bend a track"), QStringLiteral("key %1").arg(gestures_));
}

void TrackLanes::mouseMoveEvent(QMouseEvent* event) {
    const QPoint place = event->position().toPoint();
    if (!held_) {
        const bool is_open = keyAt(place) && isOpen(effect_->tracks[*laneAt(place)]);
        setCursor(handleAt(place) || is_open ? Qt::SizeAllCursor
                  : keyAt(place)             ? Qt::SizeHorCursor
                                             : Qt::ArrowCursor);
        return;
    }
    held_->moved = held_->moved || (place - held_->pressed).manhattanLength() > 2;
    if (held_->moved) {
        held_->grip == Grip::key ? moveTo(place, event->modifiers())
                                 : moveHandle(place, event->modifiers() & Qt::AltModifier);
    }
}

void TrackLanes::mouseReleaseEvent(QMouseEvent*) {
    if (held_ && held_->moved) {
        emit gestureEnded();
    }
    held_.reset();
}

void TrackLanes::mouseDoubleClickEvent(QMouseEvent* event) {
    const QPoint place = event->position().toPoint();
    const auto lane = laneAt(place);
    if (!lane || place.x() < strip::left_edge) {
        return;
    }
    const Track& track = effect_->tracks[*lane];
    if (const auto key = keyAt(place)) {
        if (isOpen(track)) {
            emit edited(
                withCurve(*effect_, *key,
                          [](Curve& curve, size_t i) { curve = bent(curve, {i}, Curve::Bend::smooth); }),
                tr("smooth a key"), {});
        }
        return;
    }
    const double time_s = axis_.snapped(axis_.timeAt(place.x()));
    emit edited(with_key(*effect_, track.holder, track.parameter, time_s,
                         value_at(track, parameterOf(track), time_s)),
                tr("put a key"), {});
}

void TrackLanes::keyPressEvent(QKeyEvent* event) {
    const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
    if (chosen_ && way != 0) {
        const Key key = *chosen_;
        chosen_->time_s = std::max(key.time_s + way * step_s, 0.0);
        return emit edited(with_moved_key(*effect_, key.holder, key.parameter, key.time_s, chosen_->time_s),
                           tr("move a key"), QStringLiteral("key %1 by keys").arg(gestures_));
    }
    if (chosen_ && event->key() == Qt::Key_Delete) {
        return takeAway(*chosen_);
    }
    if (chosen_ && puts_again(*event)) {
        const Key key = *chosen_;
        chosen_->time_s = std::max(axis_.now_s, 0.0);
        return emit edited(with_copied_key(*effect_, key.holder, key.parameter, key.time_s, chosen_->time_s),
                           tr("copy a key"), {});
    }
    QWidget::keyPressEvent(event);
}

} // namespace ember
