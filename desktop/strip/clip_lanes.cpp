#include "desktop/strip/clip_lanes.h"

#include "core/effect/edit.h"
#include "core/scene/clip_time.h"
#include "desktop/theme.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace ember {

namespace {

const ClipPlay& play_of(const Element& clip) {
    return *clip_of(clip.body);
}

} // namespace

ClipLanes::ClipLanes(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setFocusPolicy(Qt::ClickFocus);
    setAccessibleName(tr("Clips"));
}

void ClipLanes::setEffect(const EffectPtr& effect) {
    effect_ = effect;
    update();
}

void ClipLanes::setLengths(const std::map<std::string, double>& lengths_s) {
    if (lengths_s_ != lengths_s) {
        lengths_s_ = lengths_s;
        update();
    }
}

void ClipLanes::setAxis(const strip::TimeAxis& axis) {
    axis_ = axis;
    update();
}

std::vector<const Element*> ClipLanes::clips() const {
    std::vector<const Element*> found;
    for (size_t i = 0; effect_ && i < effect_->elements.size(); ++i) {
        if (clip_of(effect_->elements[i].body) != nullptr) {
            found.push_back(&effect_->elements[i]);
        }
    }
    return found;
}

double ClipLanes::lengthOf(const Element& clip) const {
    const auto found = lengths_s_.find(clip.id);
    return found != lengths_s_.end() ? found->second : 0;
}

double ClipLanes::playedFor(const Element& clip) const {
    const ClipPlay& play = play_of(clip);
    return played_part(play, lengthOf(clip)).length_s() / double(play.clip_speed);
}

double ClipLanes::lastEnd() const {
    double last = 0;
    for (const Element* clip : clips()) {
        last = std::max(last, double(play_of(*clip).clip_start) + playedFor(*clip));
    }
    return last;
}

QRect ClipLanes::barRect(const std::string& id) const {
    const std::vector<const Element*> all = clips();
    for (size_t i = 0; i < all.size(); ++i) {
        if (all[i]->id == id) {
            const double start = double(play_of(*all[i]).clip_start);
            const int left = int(std::lround(axis_.xOf(start)));
            const int right = int(std::lround(axis_.xOf(start + playedFor(*all[i]))));
            return {left, int(i) * lane_height + 2, std::max(right - left, 3), lane_height - 4};
        }
    }
    return {};
}

const Element* ClipLanes::clipAt(QPoint place) const {
    const std::vector<const Element*> all = clips();
    const int lane = place.y() / lane_height;
    return place.y() >= 0 && lane < int(all.size()) ? all[size_t(lane)] : nullptr;
}

std::optional<ClipLanes::Grip> ClipLanes::gripAt(QPoint place) const {
    const Element* clip = clipAt(place);
    const QRect bar = clip != nullptr ? barRect(clip->id) : QRect();
    if (!bar.adjusted(-strip::reach, -2, strip::reach, 2).contains(place)) {
        return std::nullopt;
    }
    const bool is_wide = bar.width() > 3 * strip::reach;
    return is_wide && place.x() < bar.left() + strip::reach    ? Grip::start
           : is_wide && place.x() > bar.right() - strip::reach ? Grip::end
                                                               : Grip::whole;
}

void ClipLanes::change(const std::string& id, const std::vector<std::pair<const char*, float>>& values,
                       const QString& label, const QString& gesture) {
    Effect changed = *effect_;
    for (const auto& [key, value] : values) {
        const Holder holder = *find_holder(changed, id);
        const Parameter& parameter = *holder.find(key);
        const auto held = float(std::clamp(double(value), parameter.hard_low, parameter.hard_high));
        changed = with_value(changed, id, parameter, held);
    }
    emit edited(changed, label, gesture);
}

bool ClipLanes::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const Element* clip = clipAt(help->pos());
        QToolTip::showText(
            help->globalPos(),
            clip == nullptr
                ? QString()
                : tr("%1: from %2 s on, for %3 s\nDrag it to another moment, or its ends to trim it. Arrows "
                     "move the one that was pressed, M mutes it; a double-click goes to its start.")
                      .arg(QString::fromStdString(clip->name))
                      .arg(double(play_of(*clip).clip_start), 0, 'f', 2)
                      .arg(playedFor(*clip), 0, 'f', 2),
            this);
        return true;
    }
    if (event->type() == QEvent::ShortcutOverride && !chosen_.empty()) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (key == Qt::Key_M || key == Qt::Key_Left || key == Qt::Key_Right) {
            event->accept();
            return true;
        }
    }
    return QWidget::event(event);
}

void ClipLanes::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const std::vector<const Element*> all = clips();
    for (size_t i = 0; i < all.size(); ++i) {
        const Element& clip = *all[i];
        const bool is_active = ember::is_active(*effect_, clip);
        const QRect lane(strip::left_edge, int(i) * lane_height,
                         width() - strip::left_edge - strip::right_edge, lane_height - 2);
        painter.setClipping(false);
        painter.setFont(theme::text_font(8));
        painter.setPen(is_active ? theme::text : theme::quiet);
        const QRect label(14, lane.top(), strip::left_edge - 20, lane.height());
        painter.drawText(label, Qt::AlignVCenter | Qt::AlignLeft,
                         painter.fontMetrics().elidedText(QString::fromStdString(clip.name), Qt::ElideRight,
                                                          label.width()));
        painter.fillRect(lane, theme::ground);
        painter.setClipRect(lane);
        const QRectF bar = barRect(clip.id);
        QColor fill = is_active ? theme::cost : theme::line;
        const bool goes_on = play_of(clip).clip_end != ClipEnd::gone && bar.width() > 3;
        if (goes_on) { // held, or again and again
            QColor pale = fill;
            pale.setAlphaF(0.25f);
            painter.fillRect(QRectF(bar.right(), bar.top(), width(), bar.height()), pale);
            painter.setPen(fill);
            const bool repeats = play_of(clip).clip_end == ClipEnd::again;
            for (double x = bar.right(); repeats && x < width(); x += bar.width()) {
                painter.drawLine(QPointF(x, bar.top()), QPointF(x, bar.bottom()));
            }
        }
        fill.setAlphaF(0.75f);
        painter.setPen(clip.id == chosen_ ? QPen(theme::text, 1) : QPen(Qt::NoPen));
        painter.setBrush(fill);
        painter.drawRoundedRect(bar.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
        painter.setPen(theme::panel); // the ends that trim
        for (const double x : {bar.left() + 3, bar.right() - 3}) {
            painter.drawLine(QPointF(x, bar.top() + 3), QPointF(x, bar.bottom() - 3));
        }
    }
}

void ClipLanes::mousePressEvent(QMouseEvent* event) {
    const QPoint place = event->position().toPoint();
    const Element* clip = clipAt(place);
    const auto grip = gripAt(place);
    chosen_ = clip != nullptr && grip ? clip->id : std::string();
    if (clip != nullptr && event->button() == Qt::LeftButton) {
        emit selected(clip->id);
        if (grip) {
            held_ = Held{clip->id, *grip, play_of(*clip), axis_.timeAt(place.x())};
            ++gestures_;
        }
    }
    update();
}

void ClipLanes::mouseMoveEvent(QMouseEvent* event) {
    const QPoint place = event->position().toPoint();
    if (!held_) {
        const auto grip = gripAt(place);
        return grip ? setCursor(*grip == Grip::whole ? Qt::OpenHandCursor : Qt::SizeHorCursor)
                    : unsetCursor();
    }
    const Element* clip = find_element(*effect_, held_->id);
    if (clip == nullptr || clip_of(clip->body) == nullptr) {
        return held_.reset();
    }
    const ClipPlay& before = held_->before;
    const auto start = double(before.clip_start), speed = double(before.clip_speed);
    const double length = lengthOf(*clip);
    const ClipPart played = played_part(before, length);
    const double from = played.from_s, end = start + played.length_s() / speed;
    const double moved = axis_.timeAt(place.x()) - held_->pressed_s;
    const QString gesture = QStringLiteral("clip %1").arg(gestures_);
    switch (held_->grip) {
    case Grip::whole: {
        // Its end snaps where its start does not.
        const double at_start = axis_.snapped(std::max(start + moved, 0.0));
        const double at_end = axis_.snapped(end + moved) - (end - start);
        const bool by_end = at_start == std::max(start + moved, 0.0) && at_end >= 0;
        return change(held_->id, {{"clip_start", float(by_end ? at_end : at_start)}}, tr("move a clip"),
                      gesture);
    }
    case Grip::start: { // what is shown stays where it is
        const double least = std::max(start - from / speed, 0.0);
        const double at =
            std::clamp(axis_.snapped(start + moved), least, std::max(end - strip::step_s, least));
        return change(held_->id,
                      {{"clip_start", float(at)}, {"clip_from", float(from + (at - start) * speed)}},
                      tr("trim a clip"), gesture);
    }
    case Grip::end: {
        const double at = std::max(axis_.snapped(end + moved), start + strip::step_s);
        const double part = std::min(from + (at - start) * speed, length);
        return change(held_->id, {{"clip_to", float(part)}}, tr("trim a clip"), gesture);
    }
    }
}

void ClipLanes::mouseReleaseEvent(QMouseEvent*) {
    if (held_) {
        held_.reset();
        emit gestureEnded();
    }
}

void ClipLanes::mouseDoubleClickEvent(QMouseEvent* event) {
    if (const Element* clip = clipAt(event->position().toPoint())) {
        emit goTo(double(play_of(*clip).clip_start));
    }
}

void ClipLanes::keyPressEvent(QKeyEvent* event) {
    const Element* clip = effect_ ? find_element(*effect_, chosen_) : nullptr;
    clip = clip != nullptr && clip_of(clip->body) != nullptr ? clip : nullptr;
    const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
    if (clip != nullptr && way != 0) {
        const double at = std::max(double(play_of(*clip).clip_start) + way * strip::step_s, 0.0);
        return change(chosen_, {{"clip_start", float(at)}}, tr("move a clip"),
                      QStringLiteral("clip %1 by keys").arg(gestures_));
    }
    if (clip != nullptr && event->key() == Qt::Key_M) {
        return emit edited(with_muted(*effect_, chosen_, !clip->muted),
                           clip->muted ? tr("unmute a clip") : tr("mute a clip"), {});
    }
    QWidget::keyPressEvent(event);
}

} // namespace ember
