#include "desktop/strip/track_lanes.h"

#include "core/effect/effect_file.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/strip/strip_parts.h"
#include "desktop/theme.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr double step_s = 1.0 / 60;
constexpr int reach = 6; // pixels

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

void TrackLanes::setTimes(double first_s, double span_s) {
    first_s_ = first_s;
    span_s_ = span_s;
    update();
}

void TrackLanes::setMoments(double now_s, const std::vector<double>& events_s) {
    now_s_ = now_s;
    events_s_ = events_s;
}

const Parameter& TrackLanes::parameterOf(const Track& track) const {
    return *find_holder(*effect_, track.holder)->find(track.parameter);
}

QString TrackLanes::nameOf(const Track& track) const {
    return tr("%1 of %2")
        .arg(qtext(parameterOf(track).label),
             QString::fromStdString(find_holder(*effect_, track.holder)->name));
}

double TrackLanes::xOf(double time_s) const {
    return strip::left_edge +
           (time_s - first_s_) / span_s_ * (width() - strip::left_edge - strip::right_edge);
}

double TrackLanes::timeAt(double x) const {
    const double time_s =
        first_s_ + (x - strip::left_edge) / (width() - strip::left_edge - strip::right_edge) * span_s_;
    return std::max(std::round(time_s / step_s) * step_s, 0.0);
}

// To what happened near there, or to where it is now.
double TrackLanes::snapped(double time_s) const {
    double best = time_s, nearest = reach;
    std::vector<double> moments = events_s_;
    moments.push_back(now_s_);
    for (const double moment : moments) {
        const double away = std::abs(xOf(moment) - xOf(time_s));
        if (away < nearest) {
            nearest = away;
            best = moment;
        }
    }
    return best;
}

QRect TrackLanes::laneRect(size_t track) const {
    return {strip::left_edge, int(track) * lane_height, width() - strip::left_edge - strip::right_edge,
            lane_height - 2};
}

QPoint TrackLanes::keyPlace(size_t track, size_t key) const {
    const Curve::Point& point = effect_->tracks[track].curves[0].points[key];
    return QPointF(xOf(double(point.time)), laneRect(track).center().y() + 1).toPoint();
}

std::optional<size_t> TrackLanes::laneAt(QPoint place) const {
    const auto lane = size_t(std::max(place.y(), 0) / lane_height);
    return effect_ && lane < effect_->tracks.size() ? std::optional(lane) : std::nullopt;
}

std::optional<TrackLanes::Key> TrackLanes::keyAt(QPoint place) const {
    const auto lane = laneAt(place);
    std::optional<Key> found;
    double nearest = reach;
    for (const Curve::Point& point :
         lane ? effect_->tracks[*lane].curves[0].points : std::vector<Curve::Point>()) {
        const double away = std::abs(xOf(double(point.time)) - place.x());
        if (away < nearest) {
            nearest = away;
            found = Key{effect_->tracks[*lane].holder, effect_->tracks[*lane].parameter, double(point.time)};
        }
    }
    return found;
}

QString TrackLanes::tipAt(QPoint place) const {
    const auto lane = laneAt(place);
    if (!lane) {
        return {};
    }
    const Track& track = effect_->tracks[*lane];
    const auto key = keyAt(place);
    const double time_s = key ? key->time_s : timeAt(place.x());
    const Parameter& parameter = parameterOf(track);
    return tr("%1 at %2 s: %3\nDrag a key to another moment, with Shift to stretch the track; double-click "
              "puts a "
              "key, a right press takes one away. Arrows move the key that was pressed.")
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
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_Delete || key == Qt::Key_Left || key == Qt::Key_Right) {
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
    const auto key = keyAt(place);
    if (event->button() == Qt::RightButton && key) {
        return takeAway(*key);
    }
    if (event->button() != Qt::LeftButton) {
        return;
    }
    chosen_ = key;
    if (key) {
        const Track& track = *find_track(*effect_, key->holder, key->parameter);
        held_ = Held{*key, double(track.curves[0].points.front().time), effect_};
        ++gestures_;
    } else if (const auto lane = laneAt(place); lane && place.x() < strip::left_edge) {
        emit selected(effect_->tracks[*lane].holder);
    }
    update();
}

void TrackLanes::moveTo(double time_s, bool stretches) {
    const Key& key = held_->key;
    const bool is_first = std::abs(key.time_s - held_->start_s) < double(one_key_s);
    time_s = std::max(time_s, stretches && !is_first ? held_->start_s + step_s : 0.0);
    const Effect moved = stretches && !is_first
                             ? with_stretched_track(*held_->before, key.holder, key.parameter,
                                                    {float(held_->start_s), float(key.time_s)},
                                                    {float(held_->start_s), float(time_s)})
                             : with_moved_key(*held_->before, key.holder, key.parameter, key.time_s, time_s);
    chosen_ = Key{key.holder, key.parameter, time_s};
    emit edited(moved, stretches ? tr("stretch a track") : tr("move a key"),
                QStringLiteral("key %1").arg(gestures_));
}

void TrackLanes::mouseMoveEvent(QMouseEvent* event) {
    const QPoint place = event->position().toPoint();
    if (!held_) {
        setCursor(keyAt(place) ? Qt::SizeHorCursor : Qt::ArrowCursor);
        return;
    }
    held_->moved = held_->moved || std::abs(xOf(held_->key.time_s) - place.x()) > 2;
    if (held_->moved) {
        moveTo(snapped(timeAt(place.x())), event->modifiers() & Qt::ShiftModifier);
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
    if (!lane || keyAt(place) || place.x() < strip::left_edge) {
        return;
    }
    const Track& track = effect_->tracks[*lane];
    const double time_s = snapped(timeAt(place.x()));
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
    QWidget::keyPressEvent(event);
}

void TrackLanes::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    for (size_t i = 0; effect_ && i < effect_->tracks.size(); ++i) {
        paintLane(painter, i);
    }
}

void TrackLanes::paintLane(QPainter& painter, size_t index) const {
    const Track& track = effect_->tracks[index];
    const Parameter& parameter = parameterOf(track);
    const QRect lane = laneRect(index);
    painter.setFont(theme::text_font(8));
    painter.setPen(theme::ember);
    const QRect label(14, lane.top(), strip::left_edge - 20, lane.height());
    painter.drawText(label, Qt::AlignVCenter | Qt::AlignLeft,
                     painter.fontMetrics().elidedText(nameOf(track), Qt::ElideRight, label.width()));
    painter.fillRect(lane, theme::ground);
    painter.setClipRect(lane.adjusted(-4, 0, 4, 0));
    const auto& points = track.curves[0].points;
    if (parameter.kind == ParameterKind::colour) {
        for (int x = lane.left(); x <= lane.right(); ++x) {
            const double time_s = first_s_ + (x - lane.left()) / double(lane.width()) * span_s_;
            painter.fillRect(QRect(x, lane.top() + 3, 1, lane.height() - 6),
                             screen_colour(std::get<Colour>(value_at(track, parameter, time_s))));
        }
    } else {
        const auto [low, high] = std::minmax_element(
            points.begin(), points.end(), [](const auto& a, const auto& b) { return a.value < b.value; });
        const double span = std::max(double(high->value - low->value), 1e-9);
        const auto y_of = [&](double value) {
            const double share = high->value > low->value ? (value - double(low->value)) / span : 0.5;
            return lane.bottom() - 2 - std::clamp(share, -0.2, 1.2) * (lane.height() - 5);
        };
        QPolygonF line;
        double before = 0;
        for (double x = lane.left(); x <= lane.right(); x += 1) {
            const double time_s = first_s_ + (x - lane.left()) / lane.width() * span_s_;
            const Curve& curve = track.curves[0];
            double value = double(curve.at(float(time_s)));
            if (switches(parameter)) {
                const auto next = std::find_if(points.begin(), points.end(), [&](const Curve::Point& point) {
                    return double(point.time) > time_s;
                });
                value = double(next == points.begin() ? points.front().value : std::prev(next)->value);
                if (!line.isEmpty() && value != before) {
                    line << QPointF(x, y_of(before));
                }
            }
            line << QPointF(x, y_of(value));
            before = value;
        }
        painter.setPen(QPen(theme::ember, 1.3));
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(line);
    }
    for (const Curve::Point& point : points) {
        const bool is_chosen = chosen_ && chosen_->holder == track.holder &&
                               chosen_->parameter == track.parameter &&
                               std::abs(chosen_->time_s - double(point.time)) < double(one_key_s);
        painter.setPen(QPen(theme::ground, 1));
        painter.setBrush(is_chosen ? theme::text : theme::ember);
        painter.drawEllipse(QPointF(xOf(double(point.time)), lane.center().y() + 0.5), 3.5, 3.5);
    }
    painter.setPen(QPen(theme::text, 1));
    painter.drawLine(QPointF(xOf(now_s_), lane.top()), QPointF(xOf(now_s_), lane.bottom()));
    painter.setClipping(false);
}

} // namespace ember
