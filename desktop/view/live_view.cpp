#include "desktop/view/live_view.h"

#include "core/budget/keeper.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/theme.h"
#include "desktop/view/colour_scale.h"
#include "desktop/view/cut_lens.h"
#include "desktop/view/pointer_ray.h"
#include "desktop/view/smoke_lens.h"

#include <QElapsedTimer>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

#include <algorithm>
#include <cmath>
#include <utility>

namespace ember {

namespace {

constexpr float degrees_per_pixel = 0.35f;

qint64 now_ns() {
    static const QElapsedTimer timer = [] {
        QElapsedTimer started;
        started.start();
        return started;
    }();
    return timer.nsecsElapsed();
}

} // namespace

LiveView::LiveView(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumSize(200, 150);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setAccessibleName(tr("Live view"));
    setToolTip(
        tr("The running effect.\nDrag to orbit, Shift-drag or right-drag to pan, wheel to zoom (m).\n"
           "Arrow keys orbit, with Shift they pan; + and - zoom; H goes back to the effect's own view.\n"
           "Drag the handles of what is selected (Control snaps, Escape takes back); K hides them.\n"
           "Double-click a point of a path for one more, with Shift to take it away."));
}

QSize LiveView::pictureSize() const {
    return (QSizeF(size()) * devicePixelRatioF()).toSize();
}

void LiveView::setShot(const Shot* shot) {
    shot_ = shot;
    if (is_flying_) {
        camera_ = shot->camera;
    }
    if (lens_.kind == ForceLens::Kind::contacts) {
        contacts_.add(shot->readings.step, shot->contacts);
    }
    if (lens_.kind == ForceLens::Kind::heat && !shot->heat.ms.empty()) {
        heat_.add(shot->heat, shot->readings.frame_ms());
    }
    if (shot->readings.step != last_step_) {
        pace_.note(now_ns());
        last_step_ = shot->readings.step;
    }
    update();
}

void LiveView::setPlaying(bool playing) {
    playing_ = playing;
    pace_.begin();
    update();
}

void LiveView::setCamera(const Camera& camera) {
    camera_ = camera;
    camera_.height = std::clamp(camera_.height, -89.0f, 89.0f);
    camera_.distance = std::clamp(camera_.distance, 0.05f, 10000.0f);
    camera_.seen = float(height() / std::max(frameRect().height(), 1.0));
    emit cameraChanged(camera_);
    askForField();
}

// As large as fits.
QRectF LiveView::frameRect() const {
    const auto ratio = effect_ ? frame_ratio_of(effect_->stage) : std::nullopt;
    if (!ratio) {
        return rect();
    }
    const double wide = std::min(double(width()), height() * double(*ratio));
    const double high = wide / double(*ratio);
    return {(width() - wide) / 2, (height() - high) / 2, wide, high};
}

void LiveView::fitFrame() {
    if (std::abs(camera_.seen - float(height() / std::max(frameRect().height(), 1.0))) > 1e-6f) {
        setCamera(camera_);
    }
}

// What is outside is dimmed.
void LiveView::paintFrame(QPainter& painter) const {
    const QRectF frame = frameRect();
    if (frame == QRectF(rect())) {
        return;
    }
    QPainterPath outside;
    outside.addRect(rect());
    outside.addRect(frame);
    painter.fillPath(outside, QColor(10, 12, 14, 150));
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(QColor(0, 0, 0, 140), 3));
    painter.drawRect(frame.adjusted(0.5, 0.5, -0.5, -0.5));
    painter.setPen(QPen(QColor(232, 225, 211, 190), 1));
    painter.drawRect(frame.adjusted(0.5, 0.5, -0.5, -0.5));
}

void LiveView::setFlying(bool on) {
    is_flying_ = on;
    emit flyingChanged(on);
}

// By hand.
void LiveView::moveCamera(const Camera& camera) {
    if (is_flying_) {
        setFlying(false);
    }
    setCamera(camera);
}

void LiveView::orbit(float azimuth, float height) {
    Camera camera = camera_;
    camera.azimuth = std::fmod(camera.azimuth + azimuth, 360.0f);
    camera.height += height;
    moveCamera(camera);
}

void LiveView::pan(float right, float up) {
    const ViewAxes axes = axes_of(camera_);
    const float metres_per_pixel = 2 * camera_.distance / (axes.focal * float(std::max(height(), 1)));
    Camera camera = camera_;
    camera.target += axes.right * (right * metres_per_pixel) + axes.up * (up * metres_per_pixel);
    moveCamera(camera);
}

void LiveView::zoom(float factor) {
    Camera camera = camera_;
    camera.distance /= factor;
    moveCamera(camera);
}

QString LiveView::rateText() const {
    const double a_second = pace_.a_second();
    if (!playing_ || a_second <= 0) {
        return playing_ ? QString() : tr("paused");
    }
    return tr("%1 pictures/s").arg(a_second, 0, 'f', a_second < 9.5 ? 1 : 0);
}

QString LiveView::copiesText() const {
    const bool any = effect_ && std::any_of(effect_->looks.begin(), effect_->looks.end(),
                                            [](const Look& look) { return look.copies > 0; });
    if (!any) {
        return {};
    }
    const Readings& readings = shot_->readings;
    const float shown =
        effect_->stage.copies_shown * share_left(readings.effect->budget, readings.gives, GiveWay::copies);
    return tr("copies shown: %1 %, saved: 100 %").arg(100 * shown, 0, 'f', 0);
}

QString LiveView::givesText() const {
    const Readings& readings = shot_->readings;
    const std::string words = words_of(readings.effect->budget, readings.gives);
    return words.empty() ? QString() : tr("gives way: %1").arg(QString::fromStdString(words));
}

// Says when bodies get dear: triangles times particles.
QString LiveView::trianglesText() const {
    constexpr size_t dear = 200'000;
    const size_t count = shot_->readings.draw.triangles;
    return count < dear ? QString()
                        : tr("%1 triangles a picture: a simpler mesh or fewer particles would be cheaper")
                              .arg(theme::short_count(double(count)));
}

QString LiveView::slowWords() const {
    constexpr double slow_ms = 1000;
    const double ms = shot_ != nullptr ? shot_->readings.meters.step_ms : 0;
    return playing_ && ms > slow_ms ? tr("a step takes %1 s; P pauses").arg(ms / 1000, 0, 'f', 1) : QString();
}

void LiveView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    if (shot_ == nullptr || shot_->picture.width == 0) {
        painter.fillRect(rect(), theme::ground);
        return;
    }
    const Picture& picture = shot_->picture;
    const QImage image(reinterpret_cast<const uchar*>(picture.pixels.data()), picture.width, picture.height,
                       picture.width * 4, QImage::Format_RGB32);
    // While the window is being resized the old picture is stretched until the new one is there.
    painter.setRenderHint(QPainter::SmoothPixmapTransform, image.size() != pictureSize());
    painter.drawImage(rect(), image);
    paintFrame(painter);

    if (lens_.has_plane() && shot_->readings.field) {
        lens_.paint(painter, *shot_->readings.field, shot_->camera, size());
        paintSolver(painter);
    } else if (lens_.kind == ForceLens::Kind::contacts) {
        contacts_.paint(painter, shot_->camera, size());
    } else if (lens_.kind == ForceLens::Kind::heat) {
        heat_.paint(painter, size());
    }
    if (handles_shown_ && effect_ && !take_colour_ && !takes_focus_) {
        paint_handles(painter, *effect_, selection_, shot_->readings.placements, hovered_, shot_->camera,
                      size());
    }
    if (lens_.kind == ForceLens::Kind::cut) {
        paintCut(painter);
    }
    painter.setFont(theme::figure_font(9));
    painter.setPen(QColor(0, 0, 0, 160));
    const QRect corner = rect().adjusted(14, 10, -14, -10);
    painter.drawText(corner.translated(1, 1), Qt::AlignTop | Qt::AlignRight, rateText());
    painter.setPen(theme::text);
    painter.drawText(corner, Qt::AlignTop | Qt::AlignRight, rateText());
    painter.drawText(corner.adjusted(0, 18, 0, 0), Qt::AlignTop | Qt::AlignRight, copiesText());
    painter.setPen(theme::close);
    painter.drawText(corner.adjusted(0, 36, 0, 0), Qt::AlignTop | Qt::AlignRight, trianglesText());
    painter.drawText(corner.adjusted(0, 54, 0, 0), Qt::AlignTop | Qt::AlignRight, slowWords());
    painter.drawText(corner.adjusted(0, 72, 0, 0), Qt::AlignTop | Qt::AlignRight, givesText());
    painter.setPen(theme::text);
    if (take_colour_ || takes_focus_) {
        painter.drawText(corner.adjusted(0, 34, 0, 0), Qt::AlignTop | Qt::AlignLeft,
                         take_colour_ ? tr("Press on the colour to take; Escape takes none.")
                                      : tr("Press on what shall be sharp; Escape leaves the focus."));
    }
    if (const QString words = awaitedWords(); !words.isEmpty()) {
        painter.setPen(theme::close);
        painter.drawText(corner.adjusted(0, 52, 0, 0), Qt::AlignTop | Qt::AlignLeft | Qt::TextWordWrap,
                         words);
    }
    if (hasFocus()) {
        painter.setPen(QPen(theme::ember, 1));
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

// Of the first volume, if that is what the lens is about.
void LiveView::paintSolver(QPainter& painter) const {
    const Readings& readings = shot_->readings;
    if (lens_.kind != ForceLens::Kind::smoke || lens_.aspect < SmokeAspect::remains) {
        return;
    }
    const auto is_smoke = [](const Element& each) { return std::holds_alternative<Smoke>(each.body); };
    const auto& elements = readings.effect->elements;
    const auto first = std::find_if(elements.begin(), elements.end(), is_smoke);
    const ElementMeter* meter = first != elements.end() ? readings.find(first->id) : nullptr;
    if (meter != nullptr && meter->smoke.cells > 0) {
        paint_figures(painter, size(), solver_words(meter->smoke));
    }
}

// Of the selected breakable, or the first.
void LiveView::paintCut(QPainter& painter) const {
    const Readings& readings = shot_->readings;
    const Element* shown = nullptr;
    for (const Element& element : readings.effect->elements) {
        const bool is_better = shown == nullptr || element.id == selection_;
        shown = std::holds_alternative<Breakable>(element.body) && is_better ? &element : shown;
    }
    const ElementMeter* meter = shown != nullptr ? readings.find(shown->id) : nullptr;
    if (shown == nullptr) {
        paint_figures(painter, size(), tr("there is no breakable to look at"));
    } else if (meter != nullptr && meter->debris.cut.pieces > 0) {
        paint_cut(painter, size(), QString::fromStdString(shown->name), meter->debris.cut,
                  readings.draw.dots_ms);
    }
}

void LiveView::setAwaited(const QString& what) {
    awaited_ = what;
    update();
}

QString LiveView::awaitedWords() const {
    const bool has_lens = lens_.kind != ForceLens::Kind::none;
    return has_lens && !awaited_.isEmpty() ? tr("%1: the lens shows nothing of it yet").arg(awaited_)
                                           : QString();
}

void LiveView::setLens(const ForceLens& lens) {
    lens_ = lens;
    contacts_.clear();
    heat_.clear();
    askForField();
    update();
}

void LiveView::askForField() {
    emit fieldWanted(lens_.has_plane() ? std::optional(lens_.order(camera_, size(), pointer_))
                                       : std::nullopt);
}

void LiveView::leaveEvent(QEvent*) {
    pointer_.reset();
    hovered_ = -1;
    emit pointed(std::nullopt);
    askForField();
}

void LiveView::resizeEvent(QResizeEvent*) {
    fitFrame();
    askForField();
    emit pictureSizeChanged(pictureSize());
}

// As many pixels as before need not be as many now.
void LiveView::showEvent(QShowEvent*) {
    emit pictureSizeChanged(pictureSize());
}

void LiveView::pickColour(const std::function<void(const Colour&)>& take) {
    take_colour_ = take;
    setCursor(Qt::CrossCursor);
    setFocus();
    update();
}

void LiveView::pickFocus() {
    takes_focus_ = true;
    setCursor(Qt::CrossCursor);
    setFocus();
    update();
}

void LiveView::setSelection(const EffectPtr& effect, const std::string& id) {
    effect_ = effect;
    selection_ = id;
    fitFrame();
    update();
}

void LiveView::setHandlesShown(bool shown) {
    handles_shown_ = shown;
    update();
}

std::vector<Handle> LiveView::handles() const {
    return handles_shown_ && effect_ && shot_ != nullptr
               ? handles_of(*effect_, selection_, shot_->readings.placements)
               : std::vector<Handle>();
}

void LiveView::dragHandle(QPointF place, Qt::KeyboardModifiers keys) {
    const Effect moved =
        dragged(*before_, selection_, *held_, pressed_, place, keys & Qt::ControlModifier, camera_, size());
    const QString label =
        tr("drag %1").arg(qtext(find_holder(moved, selection_)->find(held_->key)->label).toLower());
    emit edited(moved, label, QStringLiteral("handle %1").arg(gestures_));
}

void LiveView::endDrag() {
    held_.reset();
    ++gestures_;
    emit gestureEnded();
    update();
}

// The element whose place is pressed.
void LiveView::pickAt(QPointF place) {
    constexpr double reach = 16;
    if (!effect_ || shot_ == nullptr || !handles_shown_) {
        return;
    }
    const std::vector<Placement>& placements = shot_->readings.placements;
    double nearest = reach;
    std::string found;
    for (size_t i = 0; i < effect_->elements.size() && i < placements.size(); ++i) {
        const auto pixel = on_picture(placements[i].position, camera_, size());
        const QPointF way = pixel ? *pixel - place : QPointF(reach, reach);
        if (place_of(effect_->elements[i].body) != nullptr && std::hypot(way.x(), way.y()) < nearest) {
            nearest = std::hypot(way.x(), way.y());
            found = effect_->elements[i].id;
        }
    }
    if (!found.empty() && found != selection_) {
        emit picked(found);
    }
}

void LiveView::mousePressEvent(QMouseEvent* event) {
    last_mouse_ = pressed_ = event->position();
    const std::vector<Handle> all = handles();
    const int taken = event->button() == Qt::LeftButton && !take_colour_ && !takes_focus_
                          ? handle_at(all, pressed_, camera_, size())
                          : -1;
    if (taken >= 0) {
        held_ = all[size_t(taken)];
        hovered_ = taken;
        before_ = effect_;
    }
}

void LiveView::mouseReleaseEvent(QMouseEvent* event) {
    const bool has_moved = (event->position() - pressed_).manhattanLength() >= 4;
    // The effect comes first; with Control, or while it stands still, a click chooses.
    const bool is_for_effect =
        isHeard(TriggerWhen::click) && !(event->modifiers() & Qt::ControlModifier) && !has_moved;
    if (held_) {
        endDrag();
        if (!is_for_effect) {
            return;
        }
    }
    if (take_colour_ && shot_ != nullptr && !shot_->picture.pixels.empty()) {
        const Picture& picture = shot_->picture;
        const QPointF place = event->position();
        const int x = std::clamp(int(place.x() / width() * picture.width), 0, picture.width - 1);
        const int y = std::clamp(int(place.y() / height() * picture.height), 0, picture.height - 1);
        std::exchange(take_colour_, nullptr)(
            linear_colour(QColor(QRgb(picture.pixels[size_t(y) * size_t(picture.width) + size_t(x)]))));
        unsetCursor();
        return update();
    }
    if (std::exchange(takes_focus_, false)) {
        unsetCursor();
        emit focusAsked({event->position().x() / width(), event->position().y() / height()});
        return update();
    }
    if (event->button() == Qt::LeftButton && !has_moved) {
        if (is_for_effect) {
            emit pointed(ray_through(pressed_, camera_, size()));
            emit clicked();
        } else {
            pickAt(pressed_);
        }
    }
}

void LiveView::mouseDoubleClickEvent(QMouseEvent* event) {
    const std::vector<Handle> all = handles();
    const int at = handle_at(all, event->position(), camera_, size());
    if (at < 0 || all[size_t(at)].point < 0 || event->button() != Qt::LeftButton) {
        return mousePressEvent(event);
    }
    const bool takes = event->modifiers() & Qt::ShiftModifier;
    const Handle& point = all[size_t(at)];
    const Effect changed =
        takes ? without_point(*effect_, selection_, point) : with_point_after(*effect_, selection_, point);
    if (changed != *effect_) {
        emit edited(changed, takes ? tr("take a point away") : tr("add a point"), {});
    }
}

void LiveView::mouseMoveEvent(QMouseEvent* event) {
    const QPointF way = event->position() - last_mouse_;
    last_mouse_ = event->position();
    if (held_) {
        return dragHandle(event->position(), event->modifiers());
    }
    pointer_ = event->position();
    emit pointed(ray_through(*pointer_, camera_, size()));
    if (event->buttons() == Qt::NoButton) {
        const int hovered = handle_at(handles(), event->position(), camera_, size());
        if (hovered != hovered_) {
            hovered_ = hovered;
            update();
        }
        if (lens_.has_plane()) {
            askForField();
        }
    }
    if (take_colour_ || takes_focus_) {
        return;
    }
    const bool pans =
        event->buttons() & (Qt::RightButton | Qt::MiddleButton) || event->modifiers() & Qt::ShiftModifier;
    if (pans && event->buttons() != Qt::NoButton) {
        pan(float(-way.x()), float(way.y()));
    } else if (event->buttons() & Qt::LeftButton) {
        orbit(float(-way.x()) * degrees_per_pixel, float(way.y()) * degrees_per_pixel);
    }
}

void LiveView::wheelEvent(QWheelEvent* event) {
    zoom(std::pow(1.1f, float(event->angleDelta().y()) / 120.0f));
    event->accept();
}

// Whether it runs and a trigger waits for this.
bool LiveView::isHeard(TriggerWhen when) const {
    return playing_ && effect_ &&
           std::any_of(effect_->elements.begin(), effect_->elements.end(), [&](const Element& element) {
               const auto* trigger = std::get_if<Trigger>(&element.body);
               return trigger != nullptr && !element.muted && trigger->when == when;
           });
}

void LiveView::keyPressEvent(QKeyEvent* event) {
    if (event->key() >= Qt::Key_0 && event->key() <= Qt::Key_9 && isHeard(TriggerWhen::key) &&
        !event->isAutoRepeat()) {
        emit digitPressed(event->key() - Qt::Key_0);
        return;
    }
    const bool shift = event->modifiers() & Qt::ShiftModifier;
    const auto turn = [&](float x, float y) { shift ? pan(x * 20, y * 20) : orbit(x * 5, y * 5); };
    switch (event->key()) {
    case Qt::Key_Escape:
        if (held_) {
            emit edited(*before_, tr("take a drag back"), QStringLiteral("handle %1").arg(gestures_));
            return endDrag();
        }
        if (!take_colour_ && !takes_focus_) {
            return event->ignore(); // the window's
        }
        take_colour_ = nullptr;
        takes_focus_ = false;
        unsetCursor();
        return update();
    case Qt::Key_Left:
        return turn(-1, 0);
    case Qt::Key_Right:
        return turn(1, 0);
    case Qt::Key_Up:
        return turn(0, 1);
    case Qt::Key_Down:
        return turn(0, -1);
    case Qt::Key_Plus:
    case Qt::Key_Equal:
        return zoom(1.1f);
    case Qt::Key_Minus:
        return zoom(1 / 1.1f);
    default:
        QWidget::keyPressEvent(event);
    }
}

} // namespace ember
